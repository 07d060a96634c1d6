"""The near face of a stack of discs, out of the outline of all of them.

 .-.-.        Beside the face the tread shows, on the side that points to where all lines along the bar meet in the picture (x).
(   ) )   x   The outline's middle is therefore not the face's, and the less so the heavier the bar. On the other side face and
 `-´-´        outline are one: there the rim is read, with the shape that the camera's place gives a disc.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

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
ROUNDS = 4
# A sector off by this much counts half.
STRAY_PX = 0.4
# The middle that the face's own rings tell counts as much as so many sectors: rings that lie deeper than the rim are seen beside its
# middle, and sectors of one side have errors in common.
MIDDLE_HELD = 6.0
# What a sector leaves open at best. What the camera's place leaves open is the same in neighbouring frames and is not counted here.
SECTOR_SD_PX = 0.05
# Where a camera may look from, and how many frames tell.
YAWS_DEG, HORIZONS_DEG, TELLING_FRAMES = np.arange(-24.0, 24.1, 6.0), np.arange(-16.0, 16.1, 4.0), 32
FINER_DEG = (2.0, 0.5)
# A sector that is off by this much speaks against a camera, ten times as much hardly more.
AGAINST_PX = 0.2
_COS, _SIN = np.cos(SECTOR_ANGLE), np.sin(SECTOR_ANGLE)


@dataclass(frozen=True)
class _Outlines:
    """Outlines of some frames: their middles (px right of and above the picture's) and how far out each sector lies."""

    u: Floats
    v: Floats
    seen: Floats
    radius_px: float

    @classmethod
    def of(cls, track: DiscTrack, frames: NDArray[np.intp], width_px: int, height_px: int) -> _Outlines:
        u, v = track.x_px[frames] - (width_px / 2 - 0.5), height_px / 2 - 0.5 - track.y_px[frames]
        return cls(u, v, track.radius_px[frames, None] + track.outline[frames], float(np.nanmedian(track.radius_px)))

    def fitted(self, view: View, held: float) -> _Faces | None:
        """The near faces as a camera sees them, or None where too little of their rims shows; their middles held where they are as by so
        many sectors."""
        square = view.shape(self.u, self.v)
        shape = 1 / np.linalg.norm(np.linalg.inv(square) @ np.stack([_COS, -_SIN]), axis=1)
        way = (view.meeting[0] - self.u)[:, None] * _COS - (view.meeting[1] - self.v)[:, None] * _SIN
        plain = np.isfinite(self.seen) & (way < TREAD_FROM * self.radius_px)
        enough = plain.sum(axis=1) >= FEWEST_SECTORS
        if enough.sum() < FEWEST_FRAMES:
            return None
        seen, plain, shape = np.where(plain, self.seen, 0.0)[enough], plain[enough], shape[enough]
        rows = np.stack([shape, np.broadcast_to(_COS, shape.shape), np.broadcast_to(_SIN, shape.shape)], axis=-1)
        usual = float(np.median(_fitted(rows, seen, plain, held)[0][:, 0]))
        moved, left, sd = _fitted(rows[..., 1:], seen - usual * shape, plain, held)
        wide, tall = np.linalg.norm(square[enough], axis=2).T
        return _Faces(enough, usual, moved, usual * tall, wide / tall, left[plain], sd)


@dataclass(frozen=True)
class _Faces:
    """Near faces fitted to outlines: in which frames, the radius straight ahead of a level camera, where the middle lies against the
    outline's, half-height, width over height, what is left in every sector used, and the middle's deviation (px)."""

    frames: NDArray[np.bool_]
    usual_px: float
    moved: Floats
    radius_px: Floats
    squeeze: Floats
    left_px: Floats
    sd_px: Floats


def near_face(
    track: DiscTrack,
    camera: CameraPlace,
    near_m: float,
    width_px: int,
    height_px: int,
    radius_m: float = DISC_RADIUS_M,
    *,
    by_face: bool = False,
) -> tuple[DiscTrack, View | None]:
    """The track of the near disc's outer face (its middle, vertical half-axis and squeeze), and how the camera sees it; the track as it
    was and None where too little of the rim was seen.

    Args:
        near_m: from the bar's middle to that face.
        by_face: the track's middle is that of the face's rings, not of the outline.
    """
    frames = np.flatnonzero(np.isfinite(track.outline).sum(axis=1) >= FEWEST_SECTORS)
    if len(frames) < FEWEST_FRAMES:
        return track, None
    outlines = _Outlines.of(track, frames, width_px, height_px)
    faces = outlines.fitted(camera.view(near_m, outlines.radius_px, radius_m), MIDDLE_HELD if by_face else 0.0)
    if faces is None:
        return track, None
    every, at = np.arange(len(track.x_px)), frames[faces.frames]
    spread = {
        "x_px": faces.moved[:, 0], "y_px": faces.moved[:, 1], "radius_px": faces.radius_px, "squeeze": faces.squeeze, "sd_px": faces.sd_px,
    }  # fmt: skip
    told = {name: np.interp(every, at, values) for name, values in spread.items()}
    known = np.isfinite(track.x_px)
    return replace(
        track,
        x_px=track.x_px + told["x_px"],
        y_px=track.y_px + told["y_px"],
        **{name: np.where(known, told[name], np.nan) for name in ("radius_px", "squeeze", "sd_px")},
    ), camera.view(near_m, faces.usual_px, radius_m)


def looked_from(track: DiscTrack, near_m: float, distance_m: float, width_px: int, height_px: int) -> tuple[float, float] | None:
    """Yaw and horizon (degrees) of the camera for which the discs of all frames are of one size and their rims ellipses; None where too
    little of them is seen, or the camera stands too far aside.

    Args:
        distance_m: about how far the camera stands away. A tenth off makes a large yaw or tilt a tenth off as well.
    """
    frames = np.flatnonzero(np.isfinite(track.outline).sum(axis=1) >= FEWEST_SECTORS)
    if len(frames) < FEWEST_FRAMES:
        return None
    # Evenly over the heights: most frames show the bar at rest.
    by_height = frames[np.argsort(track.y_px[frames])]
    heights = np.linspace(track.y_px[by_height[0]], track.y_px[by_height[-1]], TELLING_FRAMES)
    chosen = np.unique(np.clip(np.searchsorted(track.y_px[by_height], heights), 0, len(by_height) - 1))
    outlines = _Outlines.of(track, by_height[chosen], width_px, height_px)

    def against(yaw_deg: float, horizon_deg: float) -> float:
        camera = CameraPlace(distance_m, 0.0, yaw_deg, 0.0, horizon_deg, 0.0)
        faces = outlines.fitted(camera.view(near_m, outlines.radius_px, DISC_RADIUS_M), 0.0)
        return float(np.mean(np.log1p((faces.left_px / AGAINST_PX) ** 2))) if faces else np.inf

    yaws, horizons = YAWS_DEG, HORIZONS_DEG
    for finer in (*FINER_DEG, None):
        costs = np.array([[against(yaw, horizon) for horizon in horizons] for yaw in yaws])
        at_yaw, at_horizon = np.unravel_index(int(costs.argmin()), costs.shape)
        best = float(yaws[at_yaw]), float(horizons[at_horizon])
        if finer is None or not np.isfinite(costs.min()) or abs(best[0]) >= YAWS_DEG[-1]:
            break
        yaws, horizons = (middle + finer * np.arange(-2, 3) for middle in best)
    return best if np.isfinite(costs.min()) and abs(best[0]) < YAWS_DEG[-1] else None


def _fitted(rows: Floats, seen: Floats, plain: NDArray[np.bool_], held: float) -> tuple[Floats, Floats, Floats]:
    """Robust least squares in every frame at once: coefficients `(frames, columns)`, what is left, and the deviation of each of the last
    two."""
    weight = plain.astype(float)
    ridge = np.diag([1e-9] * (rows.shape[-1] - 2) + [held + 1e-9] * 2)
    for _ in range(ROUNDS):
        counted = np.swapaxes(weight[..., None] * rows, 1, 2)
        normal = counted @ rows + ridge
        found = np.linalg.solve(normal, counted @ seen[..., None])
        left = seen - (rows @ found)[..., 0]
        weight = plain / (1 + (left / STRAY_PX) ** 2)
    spread = np.sqrt((weight * left**2).sum(axis=1) / weight.sum(axis=1))
    loosest = np.linalg.inv(normal)[:, -2:, -2:].trace(axis1=1, axis2=2)
    return np.asarray(found[..., 0], float), left, np.maximum(spread, SECTOR_SD_PX) * np.sqrt(loosest / 2)
