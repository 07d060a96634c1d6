"""The near face of a stack of discs, out of the outline of all of them.

 .-.-.        Beside the face the tread shows, on the side that points to where all lines along the bar meet in the picture (x).
(   ) )   x   The outline's middle is therefore not the face's, and the less so the heavier the bar. On the other side face and
 `-´-´        outline are one: there the rim is read, with the shape that the camera's place gives a disc.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .far_disc import CameraPlace
from .lens import View
from .rim import DISC_RADIUS_M, SECTOR_ANGLE
from .track import DiscTrack

Floats = NDArray[np.float64]

# Where the way to the meeting point, along a sector, is longer than this (radii), the tread may show by more than a fraction of a pixel.
TREAD_FROM = 0.1
FEWEST_SECTORS, FEWEST_FRAMES = 7, 5
ROUNDS = 5
# A sector off by this much counts half.
STRAY_PX = 0.4
# What a sector leaves open at best, and what the camera's place, known to half a degree, leaves open in the middle.
SECTOR_SD_PX, PLACE_SD_PX = 0.1, 0.15


def near_face(
    track: DiscTrack, camera: CameraPlace, near_m: float, width_px: int, height_px: int, radius_m: float = DISC_RADIUS_M
) -> tuple[DiscTrack, View | None]:
    """The track of the near disc's outer face (its middle, vertical half-axis and squeeze), and how the camera sees it; the track as it
    was and None where too little of the rim was seen.

    Args:
        near_m: from the bar's middle to that face.
    """
    frames = np.flatnonzero(np.isfinite(track.outline).sum(axis=1) >= FEWEST_SECTORS)
    if len(frames) < FEWEST_FRAMES:
        return track, None
    view = camera.view(near_m, float(np.nanmedian(track.radius_px)), radius_m)
    u, v = track.x_px[frames] - (width_px / 2 - 0.5), height_px / 2 - 0.5 - track.y_px[frames]
    cos, sin = np.cos(SECTOR_ANGLE), np.sin(SECTOR_ANGLE)
    size, across, sheared = _shape(view, u, v)
    sideways = cos / across[:, None]
    shape = size[:, None] / np.hypot(sideways, -sin - sheared[:, None] * sideways)
    way = (view.meeting[0] - u)[:, None] * cos - (view.meeting[1] - v)[:, None] * sin
    seen = track.radius_px[frames, None] + track.outline[frames]
    plain = np.isfinite(seen) & (way < TREAD_FROM * track.radius_px[frames, None])
    enough = plain.sum(axis=1) >= FEWEST_SECTORS
    if enough.sum() < FEWEST_FRAMES:
        return track, None
    frames, seen, plain, shape = frames[enough], np.where(plain, seen, 0.0)[enough], plain[enough], shape[enough]
    rows = np.stack([shape, np.broadcast_to(cos, shape.shape), np.broadcast_to(sin, shape.shape)], axis=-1)
    usual = float(np.median(_fitted(rows, seen, plain)[0][:, 0]))
    moved, sd = _fitted(rows[..., 1:], seen - usual * shape, plain)
    every = np.arange(len(track.x_px))
    spread = {"x_px": moved[:, 0], "y_px": moved[:, 1], "radius_px": usual * size[enough], "squeeze": across[enough], "sd_px": sd}
    told = {name: np.interp(every, frames, values) for name, values in spread.items()}
    known = np.isfinite(track.x_px)
    return replace(
        track,
        x_px=track.x_px + told["x_px"],
        y_px=track.y_px + told["y_px"],
        **{name: np.where(known, told[name], np.nan) for name in ("radius_px", "squeeze", "sd_px")},
    ), camera.view(near_m, usual, radius_m)


def _shape(view: View, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
    """A disc's picture at a place: its size against one straight ahead, its width over its height, and how far it is sheared upwards to
    the right."""
    x, _ = view.bar_m(u, v)
    sin = np.sin(view.yaw)
    above = v - view.meeting[1]
    return view.face_m / (view.face_m - x * sin), np.cos(view.yaw) + u / view.focal_px * sin, above / view.focal_px * sin


def _fitted(rows: Floats, seen: Floats, plain: NDArray[np.bool_]) -> tuple[Floats, Floats]:
    """Robust least squares in every frame at once: coefficients `(frames, columns)` and the deviation of the last ones `(frames,)`."""
    weight = plain.astype(float)
    for _ in range(ROUNDS):
        normal = np.einsum("fs,fsi,fsj->fij", weight, rows, rows) + 1e-9 * np.eye(rows.shape[-1])
        found = np.linalg.solve(normal, np.einsum("fs,fsi,fs->fi", weight, rows, seen)[..., None])[..., 0]
        left = seen - np.einsum("fsi,fi->fs", rows, found)
        weight = plain / (1 + (left / STRAY_PX) ** 2)
    spread = np.sqrt((weight * left**2).sum(axis=1) / weight.sum(axis=1))
    loosest = np.linalg.inv(normal)[:, -2:, -2:].trace(axis1=1, axis2=2)
    return found, np.hypot(np.maximum(spread, SECTOR_SD_PX) * np.sqrt(loosest), PLACE_SD_PX)
