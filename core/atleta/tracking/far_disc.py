"""Where the camera stands, told by the far disc: it is as large as the near one, and the bar between them is straight.

    far disc, κ times as large          The centres of both discs and the bar's vanishing point lie on one line,
       ( o )                            and the sizes go with the distances. So distance, yaw and horizon of the
      /                                 camera predict the far disc's rim in every frame from the near disc; they
(  o  )  near disc                      are found where the picture has an edge all along the predicted rims.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import cv2
import numpy as np
from numpy.typing import NDArray

from .lens import View, levelled, plane_from_picture
from .rim import DISC_RADIUS_M, Luma

Floats = NDArray[np.float64]

FAR_FACE_M = 0.685
RAYS, COARSE_RAYS = 40, 20
NEAREST_M, FURTHEST_M = 2.0, 10.0
YAW_DEG, HORIZON_DEG = 24.0, 9.0
# Grey levels a pixel that count as a full edge.
FULL_STEP = 6.0
# Share of rays that meet an edge by chance, how many more must, and how many fewer still leave another place possible.
CHANCE, CLEAR_EDGE, AS_GOOD = 0.25, 6.0, 1.5
CANDIDATES, NEARBY_CANDIDATES = 14, 5
UNCLEAR_YAW_DEG = 2.5
# A place is made better by steps of distance (a share of it), yaw and horizon (rad) to either side, from the first to this share of it.
FIRST_STEP, LAST_STEP, REFINED_ROUNDS = np.array([0.05, 0.008, 0.008]), 0.004, 24
ABOUT = np.array(list(product((-1.0, 0.0, 1.0), repeat=3)))
# What even a clear rim leaves open: share of the distance, yaw and horizon (rad); and of yaw a share, as how far apart the discs are along
# the bar is assumed.
OWN_SD, YAW_SHARE_SD = np.array([0.05, 0.008, 0.007]), 0.06
# What the near disc's outline leaves open of yaw and horizon (rad), and what share of them, by the distance assumed; and where about
# them they are looked for, in deviations.
OUTLINE_SD, OUTLINE_SHARE_SD = np.radians(0.8), 0.15
NEARBY = np.arange(-3.0, 3.1, 1.0)
# Focal lengths of phones over the picture's long side, from the widest lens that is held upright to the longest.
WIDEST, USUAL, LONGEST = 0.55, 0.95, 2.5
USUAL_SD = 0.35


@dataclass(frozen=True)
class CameraPlace:
    """Distance of the camera from the lifter's own plane (m), how far it stands to the right of square (°: to the front of a lifter who
    faces right) and how far above the picture's middle its horizon lies (°), with one standard deviation each."""

    distance_m: float
    distance_sd_m: float
    yaw_deg: float
    yaw_sd_deg: float
    horizon_deg: float
    horizon_sd_deg: float

    def view(self, near_m: float, radius_px: float, radius_m: float) -> View:
        """How it sees a disc, straight ahead and level that large, whose outer face is so far from the bar's middle."""
        yaw = float(np.radians(self.yaw_deg))
        focal = radius_px * (self.distance_m - near_m * np.cos(yaw)) / radius_m
        return View(self.distance_m, yaw, float(np.radians(self.horizon_deg)), near_m, float(focal))


@dataclass(frozen=True)
class DiscView:
    """A cut of one frame about the near disc. `u, v` of the disc and of the cut's corner are pixels from the picture's middle, as seen
    upright, u to the right, v up; `gradient` `(2, height, width)` along columns and rows of the cut."""

    u: float
    v: float
    radius_px: float
    corner_u: float
    corner_v: float
    gradient: NDArray[np.float32]


def camera_from_discs(
    views: Sequence[DiscView], near_m: float, long_side_px: float, looked_from: tuple[float, float] | None = None
) -> CameraPlace | None:
    """The camera, or None where the far disc cannot be made out.

    Args:
        looked_from: yaw and horizon (degrees) where the near disc's own outline tells them.
        views: a few frames in which the bar moves little, at different heights.
        near_m: from the bar's middle to the outer face of the near disc.
        long_side_px: of the picture; with it goes what lenses of phones see.
    """
    if not views:
        return None
    coarse = [_blurred(view, 0.035 * view.radius_px) for view in views]
    kappas = np.arange(0.50, 0.87, 0.02)
    distances = (near_m + FAR_FACE_M * kappas) / (1 - kappas)
    yaws = np.radians(np.arange(-YAW_DEG, YAW_DEG + 0.1, 0.75))
    horizons = np.radians(np.arange(-HORIZON_DEG, HORIZON_DEG + 0.1, 0.75))
    if looked_from is not None:
        yaws, horizons = (angle + NEARBY * sd for angle, sd in zip(np.radians(looked_from), outline_sd(looked_from), strict=True))
    grid = np.stack([axis.ravel() for axis in np.meshgrid(distances, yaws, horizons, indexing="ij")], axis=-1)
    focal = views[0].radius_px * (grid[:, 0] - near_m) / DISC_RADIUS_M / long_side_px
    grid = grid[(focal > WIDEST) & (focal < LONGEST)]
    evidence = _evidence(coarse, grid, near_m, COARSE_RAYS)
    fine = [_blurred(view, 1.4) for view in views]
    starts: list[Floats] = []
    for _ in range(CANDIDATES if looked_from is None else NEARBY_CANDIDATES):
        best = int(np.argmax(evidence))
        if evidence[best] <= 0:
            break
        starts.append(grid[best])
        evidence[_apart(grid, grid[best]) < 0.5] = -np.inf
    found = _refined(fine, starts, near_m) if starts else []
    found = [one for one in found if WIDEST < _lens(views[0], one[1], near_m, long_side_px) < LONGEST]
    if not found or max(found, key=lambda one: one[0])[0] < CLEAR_EDGE:
        return None
    scores, places = np.array([score for score, _ in found]), np.array([place for _, place in found])
    if looked_from is not None:
        scores = scores - AS_GOOD * (np.square((places[:, 1:] - np.radians(looked_from)) / outline_sd(looked_from)) / 2).sum(axis=1)
    lens = [np.log(_lens(views[0], place, near_m, long_side_px) / USUAL) / USUAL_SD for place in places]
    weight = np.exp((scores - scores.max()) / AS_GOOD - np.square(lens) / 2)
    places[:, 0] = np.log(places[:, 0])
    mean = np.average(places, axis=0, weights=weight)
    sd = np.hypot(np.sqrt(np.average((places - mean) ** 2, axis=0, weights=weight)), OWN_SD)
    sd[1] = np.hypot(sd[1], YAW_SHARE_SD * mean[1])
    if sd[1] > np.radians(UNCLEAR_YAW_DEG):
        return None
    distance = float(np.exp(mean[0]))
    yaw, yaw_sd, horizon, horizon_sd = (float(np.degrees(value)) for value in (mean[1], sd[1], mean[2], sd[2]))
    return CameraPlace(distance, float(sd[0]) * distance, yaw, yaw_sd, horizon, horizon_sd)


def outline_sd(looked_from: tuple[float, float]) -> Floats:
    """Deviations (rad) of a yaw and a horizon (degrees) told by the near disc's outline."""
    return np.hypot(OUTLINE_SD, OUTLINE_SHARE_SD * np.radians(looked_from))


def _focal(view: DiscView, depth: Floats, yaw: Floats, horizon: Floats, near_m: float) -> Floats:
    """The focal length (px) that makes the near disc as large as it is seen."""
    level = view.radius_px * (depth - near_m * np.cos(yaw)) / DISC_RADIUS_M
    focal = level
    for _ in range(2):
        # Off the horizon a tilted camera shows it larger or smaller than a level one.
        focal = level / (np.cos(horizon) + view.v / focal * np.sin(horizon)) ** 2
    return np.asarray(focal)


def _lens(view: DiscView, place: Floats, near_m: float, long_side_px: float) -> float:
    """Focal length over the picture's long side."""
    return float(_focal(view, place[0], place[1], place[2], near_m)) / long_side_px


def _apart(cameras: Floats, place: Floats) -> Floats:
    """How far cameras `(n, 3)` are from one, counted so that 1 is clearly another."""
    return np.asarray(np.hypot(np.log(cameras[:, 0] / place[0]) / 0.2, np.hypot(*(cameras[:, 1:] - place[1:]).T) / np.radians(3)))


def _refined(views: Sequence[DiscView], starts: Sequence[Floats], near_m: float) -> list[tuple[float, Floats]]:
    """The best cameras near some starts, with their evidence: all of them go on together, each to the best place about it as long as there
    is a better one, and then in smaller steps."""
    at = np.array([[np.log(start[0]), start[1], start[2]] for start in starts])
    each, step, best = np.arange(len(at)), np.ones(len(at)), np.zeros(len(at))
    for _ in range(REFINED_ROUNDS):
        tried = at[:, None] + step[:, None, None] * FIRST_STEP * ABOUT
        cameras = np.column_stack([np.exp(tried[..., 0].ravel()), *tried[..., 1:].reshape(-1, 2).T])
        evidence = _evidence(views, cameras, near_m).reshape(len(at), -1)
        best, own = evidence.max(axis=1), evidence[:, len(ABOUT) // 2]
        better = best > own
        at = np.where(better[:, None], tried[each, evidence.argmax(axis=1)], at)
        step = np.where(better, step, step / 2)
        if step.max() < LAST_STEP:
            break
    return [(float(score), np.array([np.exp(place[0]), *place[1:]])) for score, place in zip(best, at, strict=True)]


def disc_view(luma: Luma, x_px: float, y_px: float, radius_px: float) -> DiscView | None:
    """Cut a frame about its near disc; None where too little of the surroundings is in the picture."""
    height, width = luma.shape
    reach = 2.3 * radius_px
    x0, x1 = max(int(x_px - reach), 0), min(int(x_px + reach), width)
    y0, y1 = max(int(y_px - reach), 0), min(int(y_px + reach), height)
    if x1 - x0 < 1.5 * radius_px or y1 - y0 < 1.5 * radius_px:
        return None
    cut = cv2.GaussianBlur(luma[y0:y1, x0:x1].astype(np.float32), (0, 0), 0.8)
    gradient = np.stack([cv2.Sobel(cut, cv2.CV_32F, 1, 0, scale=1 / 8), cv2.Sobel(cut, cv2.CV_32F, 0, 1, scale=1 / 8)])
    middle_x, middle_y = width / 2 - 0.5, height / 2 - 0.5
    return DiscView(x_px - middle_x, middle_y - y_px, radius_px, x0 - middle_x, middle_y - y0, gradient)


def _blurred(view: DiscView, size_px: float) -> DiscView:
    made = np.stack([cv2.GaussianBlur(part, (0, 0), max(size_px, 0.5)) for part in view.gradient])
    return DiscView(view.u, view.v, view.radius_px, view.corner_u, view.corner_v, made)


def _evidence(views: Sequence[DiscView], cameras: Floats, near_m: float, rays: int = RAYS) -> Floats:
    """For cameras `(n, 3)`: how many rays of the predicted far rims meet an edge, less what chance would give."""
    angle = np.linspace(0, 2 * np.pi, rays, endpoint=False)
    evidence = np.zeros(len(cameras))
    depth, yaw, horizon = (cameras[:, k, None] for k in range(3))
    cos, sin = np.cos(yaw), np.sin(yaw)
    for view in views:
        focal = _focal(view, depth, yaw, horizon, near_m)
        flat_u, flat_v = levelled(np.asarray(view.u), np.asarray(view.v), horizon, focal)
        x, y = plane_from_picture(flat_u, flat_v, depth, yaw, np.zeros(()), near_m, focal)
        ring_x, ring_y = x + DISC_RADIUS_M * np.cos(angle), y + DISC_RADIUS_M * np.sin(angle)
        away = depth + FAR_FACE_M * cos - ring_x * sin
        u, v = levelled(focal * (ring_x * cos + FAR_FACE_M * sin) / away, focal * ring_y / away, -horizon, focal)
        column, row = u - view.corner_u, view.corner_v - v
        height, width = view.gradient.shape[1:]
        hidden = ((u - view.u) / np.maximum(cos, 0.5)) ** 2 + (v - view.v) ** 2 < (1.07 * view.radius_px) ** 2
        inside = (column >= 0) & (row >= 0) & (column < width - 1) & (row < height - 1) & ~hidden
        at_row, at_column = np.where(inside, row, 0).round().astype(int), np.where(inside, column, 0).round().astype(int)
        gx, gy = view.gradient[0][at_row, at_column], view.gradient[1][at_row, at_column]
        outward = gx * np.cos(angle) - gy * np.sin(angle)
        steps = np.where(inside, np.clip(outward / FULL_STEP, -1, 1), 0.0)
        evidence += (np.abs(steps.sum(1)) - CHANCE * inside.sum(1)) * RAYS / rays
    return evidence
