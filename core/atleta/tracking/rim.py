"""Fit a disc's rim to sub-pixel, starting from a guess.

Rays leave the guessed centre; along each the brightness steps where the rim is. The steps' distances, as a function of the ray's
angle, are a short Fourier series whose terms *are* the corrections looked for:

    distance(angle) = r + dx cos + dy sin + c2 cos 2a + s2 sin 2a
                      |   '----+------'    '--------+--------'
                    size     centre            ellipse

so one small robust least squares gives centre, size and shape.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.linalg.lapack import dposv

Luma = NDArray[np.uint8]
Floats = NDArray[np.float64]

# Of a full-size disc.
DISC_RADIUS_M = 0.225
RAYS = 72
SECTORS = 24
UNSEEN = (np.nan,) * SECTORS
_ANGLE = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
SECTOR_ANGLE = _ANGLE.reshape(SECTORS, -1).mean(axis=1)
_COS, _SIN = np.cos(_ANGLE), np.sin(_ANGLE)
_CIRCLE = np.stack([np.ones(RAYS), _COS, _SIN], axis=1)
_ELLIPSE = np.concatenate([_CIRCLE, np.stack([np.cos(2 * _ANGLE), np.sin(2 * _ANGLE)], axis=1)], axis=1)


def _prepared(design: Floats) -> tuple[Floats, Floats, Floats]:
    """A design, the products of its columns ray by ray `(RAYS, columns²)`, and what keeps its ellipse from running away."""
    columns = design.shape[1]
    ridge = np.diag([0.0, 0.0, 0.0, 0.004 * RAYS, 0.004 * RAYS][:columns])
    return design, (design[:, :, None] * design[:, None, :]).reshape(RAYS, -1), ridge


_CIRCLE_FIT, _ELLIPSE_FIT = _prepared(_CIRCLE), _prepared(_ELLIPSE)
# A guess with which so large a share of the rays agree needs no search for a better one to begin from. At 0.6 a fit that had once begun at
# the far edge of a thick disc stayed there.
MOST = 0.85
# How often rays are weighed anew.
ROUNDS = 3
# Fixed triples of well-spread rays, each with the matrix that turns its three distances into a circle.
_TRIPLES = np.array([(i, (i + 24 + j) % RAYS, (i + 48 - j) % RAYS) for i in range(0, RAYS, 3) for j in (0, 9)])
_FROM_TRIPLE = np.linalg.inv(_CIRCLE[_TRIPLES])
# A rim seen this share of the radius off the fitted one is still that disc's own outline.
OUTLINE_WITHIN = 0.015
# A light blur; in floats, so that nothing of a faint edge is rounded away.
_BLUR = cv2.getGaussianKernel(7, 0.8)
# A ray's step must be this much brightness per pixel to count; sensor noise after the light blur stays well below.
_WEAK_STEP = 2.0


@dataclass(frozen=True)
class Rim:
    """A disc in the picture. Radius is the vertical half-axis, squeeze the horizontal over the vertical one."""

    x_px: float
    y_px: float
    radius_px: float
    squeeze: float = 1.0
    support: float = 0.0
    """Share of the rays on which the rim was seen, 0 to 1."""
    residual_px: float = np.nan
    """Spread of the supporting rays about the fitted rim."""
    outline: tuple[float, ...] = UNSEEN
    """How far beyond `radius_px` from the centre the rim was seen in each sector (px), from the right over the bottom; NaN where not."""

    @property
    def sd_px(self) -> float:
        """Standard deviation of the centre, from the spread and the number of supporting rays."""
        count = max(self.support * RAYS - 5, 1.0)
        return float(np.hypot(self.residual_px * np.sqrt(2 / count), 0.03))


def fit_rim(luma: Luma, guess: Rim, *, search_px: float, free_shape: bool = True, rounds: int = 2) -> Rim | None:
    """The rim nearest to `guess` whose distance from it is at most `search_px`, or None when there is none to be seen.

    Args:
        luma: brightness, `(height, width)`.
        guess: where the rim is expected.
        search_px: how far from the guessed rim an edge may lie.
        free_shape: also fit the ellipse's terms; a guess of unknown quality is better fitted as a circle first.
        rounds: re-sample about the fitted rim and fit again, the search narrowing each time.
    """
    rim, beyond = guess, np.full(RAYS, np.nan)
    for turn in range(rounds):
        reach = max(search_px / 2.5**turn, 0.05 * rim.radius_px, 3.0)
        once = _fit_once(luma, rim, reach, free_shape)
        if once is None:
            return None
        fitted, beyond = once
        # An edge found where it was expected was sampled well enough the first time.
        settled = max(abs(fitted.x_px - rim.x_px), abs(fitted.y_px - rim.y_px), abs(fitted.radius_px - rim.radius_px)) < 0.75
        rim = fitted
        if settled:
            break
    return replace(rim, outline=_by_sector(beyond))


def ring_support(luma: Luma, about: Rim, shares: Floats, reach: float) -> Floats:
    """For each size, as a share of `about`, the share of rays that show a brightness step within `reach` of that ring, `(sizes,)`."""
    outermost = about.radius_px * float(shares.max()) * (1 + reach)
    ahead = np.arange(0.9 * about.radius_px, outermost + 2, 1.0)
    stretch = about.squeeze / np.sqrt(_COS**2 + (about.squeeze * _SIN) ** 2)
    map_x = (about.x_px + stretch[:, None] * ahead * _COS[:, None]).astype(np.float32)
    map_y = (about.y_px + stretch[:, None] * ahead * _SIN[:, None]).astype(np.float32)
    light = cv2.remap(luma, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(np.float32)
    light = cv2.GaussianBlur(light, (0, 0), sigmaX=0.8, sigmaY=0.01)
    step = np.abs(light[:, 2:] - light[:, :-2]) / 2 > _WEAK_STEP
    so_far = np.concatenate([np.zeros((RAYS, 1)), np.cumsum(step, axis=1)], axis=1)
    first, last = (np.clip(np.searchsorted(ahead[1:-1], about.radius_px * shares * (1 + way)), 0, step.shape[1]) for way in (-reach, reach))
    return np.asarray((so_far[:, last] > so_far[:, first]).mean(axis=0))


def _fit_once(luma: Luma, guess: Rim, reach: float, free_shape: bool) -> tuple[Rim, Floats] | None:
    """The rim, and how far beyond it each ray saw it (px, NaN where not)."""
    steps = _rim_steps(luma, guess, reach)
    if steps is None:
        return None
    distance, strength, expected = steps
    seen = strength > _WEAK_STEP
    if np.count_nonzero(seen) < RAYS * 0.25:
        return None
    offset = distance - expected
    design, squares, ridge = _ELLIPSE_FIT if free_shape else _CIRCLE_FIT
    coefficients = np.zeros(design.shape[1])
    spread = max(1.2, 0.012 * guess.radius_px)
    error = np.abs(offset)
    if np.count_nonzero(error[seen] < spread / 2) < MOST * np.count_nonzero(seen):
        coefficients[:3] = _least_median(offset, seen, reach)
        error = np.abs(offset - design @ coefficients)
    for _ in range(ROUNDS):
        keep = np.maximum(1 - (error / (3 * spread)) ** 2, 0) ** 2 * seen
        counts = keep > 0.2
        if np.count_nonzero(counts) < RAYS * 0.2:
            return None
        normal = (keep @ squares).reshape(ridge.shape) + ridge
        _, coefficients, failed = dposv(normal, (keep * offset) @ design)
        if failed:
            return None
        error = np.abs(offset - design @ coefficients)
        counted = error[counts]
        counted.partition(len(counted) // 2)
        spread = min(max(1.4826 * float(counted[len(counted) // 2]), 0.25), spread)
    inliers = (error < 3 * spread) & seen
    near = (error < 3 * max(spread, OUTLINE_WITHIN * guess.radius_px)) & seen
    agreed = error[inliers]
    residual = float(np.sqrt(agreed @ agreed / len(agreed))) if len(agreed) else np.nan
    dr, dx, dy = coefficients[:3]
    c2 = coefficients[3] if free_shape else 0.0
    vertical = guess.radius_px + dr - c2
    horizontal = guess.radius_px * guess.squeeze + dr + c2
    if vertical < 3 or not 0.3 < horizontal / vertical < 1.6:
        return None
    support = len(agreed) / RAYS
    rim = Rim(float(guess.x_px + dx), float(guess.y_px + dy), float(vertical), float(horizontal / vertical), support, residual)
    return rim, np.where(near, distance - dx * _COS - dy * _SIN - vertical, np.nan)


def _by_sector(offset: Floats) -> tuple[float, ...]:
    """Middle ray of each sector, NaN where fewer than two of its rays saw the rim."""
    rays = np.sort(offset.reshape(SECTORS, -1), axis=1)
    seen = np.isfinite(rays).sum(axis=1)
    middle = np.where(seen == rays.shape[1], rays[:, 1], rays[:, :2].mean(axis=1))
    return tuple(np.where(seen >= 2, middle, np.nan).tolist())


def _rim_steps(luma: Luma, guess: Rim, reach: float) -> tuple[Floats, Floats, Floats] | None:
    """On each ray: distance of the strongest brightness step, its strength (grey levels a pixel), and the guessed distance."""
    expected = guess.radius_px * guess.squeeze / np.sqrt(_COS**2 + (guess.squeeze * _SIN) ** 2)
    pad = reach + 3
    left, top = int(guess.x_px - expected.max() - pad), int(guess.y_px - guess.radius_px - pad)
    right, bottom = int(guess.x_px + expected.max() + pad) + 2, int(guess.y_px + guess.radius_px + pad) + 2
    height, width = luma.shape
    x0, y0, x1, y1 = max(left, 0), max(top, 0), min(right, width), min(bottom, height)
    if x1 - x0 < 8 or y1 - y0 < 8:
        return None
    crop = cv2.sepFilter2D(luma[y0:y1, x0:x1], cv2.CV_32F, _BLUR, _BLUR)

    along = np.arange(-reach - 2, reach + 2.01, 1.0)
    radius = expected[:, None] + along[None, :]
    map_x = (guess.x_px + radius * _COS[:, None] - x0).astype(np.float32)
    map_y = (guess.y_px + radius * _SIN[:, None] - y0).astype(np.float32)
    light = cv2.remap(crop, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    slope = (light[:, 2:] - light[:, :-2]) / 2
    if (x0, y0, x1, y1) != (left, top, right, bottom):
        inside = (map_x > 0) & (map_x < x1 - x0 - 1) & (map_y > 0) & (map_y < y1 - y0 - 1)
        slope[~(inside[:, 2:] & inside[:, :-2])] = 0
    middle = along[1:-1]
    # Nearer to the guess counts for more, so that rings inside the disc and things behind it lose against an equal rim.
    worth = np.abs(slope) * np.exp(-0.5 * (middle / (0.6 * reach + 1)) ** 2)
    best = np.argmax(worth, axis=1)
    rows = np.arange(RAYS)
    peak = slope[rows, best]
    # Centroid of the step, over the samples of its own sign: stays in the middle of an edge that motion has smeared.
    window = np.minimum(np.maximum(best[:, None] + np.arange(-3, 4)[None, :], 0), len(middle) - 1)
    mass = np.maximum(slope[rows[:, None], window] * np.sign(peak)[:, None] - 0.25 * np.abs(peak)[:, None], 0)
    total = mass.sum(axis=1)
    where = np.where(total > 0, (mass * middle[window]).sum(axis=1) / np.where(total > 0, total, 1), middle[best])
    return expected + where, np.abs(peak).astype(np.float64), expected


def _least_median(offset: Floats, seen: NDArray[np.bool_], reach: float) -> Floats:
    """Circle terms (dr, dx, dy) agreeing with most rays, though up to half of them see something else."""
    good = seen[_TRIPLES].all(axis=1)
    if not good.any():
        return np.zeros(3)
    trials = np.einsum("kij,kj->ki", _FROM_TRIPLE[good], offset[_TRIPLES[good]])
    trials = np.concatenate([np.zeros((1, 3)), trials[np.abs(trials).max(axis=1) <= reach]])
    error = np.abs(offset[seen] - trials @ _CIRCLE[seen].T)
    most = int(0.4 * error.shape[1])
    error.partition(most, axis=1)
    return np.asarray(trials[int(np.argmin(error[:, most]))])
