"""The lifted disc's face over the whole clip: where its middle is in every frame, and where it ends.

A plate has rings, lips and a rounded shoulder, and any of these may be the strongest edge in one frame. Over a whole clip they lie about
one middle, always equally far out, while the background goes by:

    round the disc ->
    . . . | . . | . | ~ ~ ~     edges that stay where they are from frame to frame, all around: the face. Each frame is laid on the
    . . . | . . | . | ~ ~ ~     pattern that all have in common, which tells its middle to a few tenths of a pixel; a frame that does
    . . . | . . | . | ~ ~ ~     not go with it does not show the disc.
    middle          ^ the rim: from here outward a place is as bright as the background behind it at that moment

What is handed on is one pattern, one radius and one shape for all frames; a disc comes a little nearer or goes further away as it rises,
so radius and shape may change evenly over the picture. What is tried and does not help: to lay frames together by brightness (light from
above moves every ring the same way), or by the rim alone (beside it the tread shows, on one side).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from ..footage import Frame
from .rim import SECTORS
from .track import DiscTrack, bridged

Floats = NDArray[np.float64]
Strips = NDArray[np.uint8]

# Rays from the middle, and how far out along them the picture is read (shares of the radius).
RAYS = 72
OUT = np.arange(0.56, 1.32, 0.0165)
STEP = OUT[1] - OUT[0]
# The part of that in which the face's pattern lies, whatever a guessed radius is off by.
PATTERN = OUT < 1.08
# A disc that has moved less than this (px) looks as it did; it is read again after so many frames all the same.
STILL_PX, STILL_FRAMES = 0.35, 6
# An edge of so much (grey levels a step) counts half.
HALF_EDGE = 6.0
# From a blurred pattern, in which a guess may be far off, to a sharp one (steps).
BLURS = (4.0, 2.5, 1.5, 1.2, 1.2)
# How far apart pattern and picture may be before a place stops counting, in spreads of the pattern; and the least of these.
STRAY, LEAST_SPREAD = 4.0, 0.05
# A frame that goes with the pattern less well than by this share of how frames mostly do does not show the disc.
SHOWN = 0.6
CHUNK = 256
# A pattern takes so many frames; one that shows it is at least so sure.
FEWEST, SURE = 5, 0.6
# Where the rim is looked for, how far outside the pattern's last edge the background is read, and how much background must go by (grey
# levels, squared, summed over frames and colours).
RIM_WITHIN = (0.93, 1.10)
BEYOND = slice(4, 7)
LEAST_GOING_BY = 2000.0
# Outlines that lie this close together (shares of the radius) are the same one. Of 28 clips of plates with a sharp edge 25 have them within
# that, those that other code drew differ by 1.2 to 3.8 %.
SAME_OUTLINE = 0.0115
_ANGLE = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
_SECTOR = _ANGLE.reshape(SECTORS, -1).mean(axis=1)
_COS, _SIN, _COS2, _SIN2 = np.cos(_ANGLE), np.sin(_ANGLE), np.cos(2 * _ANGLE), np.sin(2 * _ANGLE)


class FaceWatch:
    """Reads the picture about a disc while a clip's frames go by; `settled` makes of that where the disc is."""

    def __init__(self, track: DiscTrack, time_s: Floats) -> None:
        self._track = track
        self._x, self._y = bridged(time_s, track.x_px), bridged(time_s, track.y_px)
        self.radius_px = float(np.nanmedian(track.radius_px)) if np.isfinite(track.radius_px).any() else 0.0
        self._strips: list[Strips] = []
        self._frames: list[int] = []

    def watched(self, frames: Iterable[Frame]) -> Iterator[Frame]:
        """The same frames, read on their way."""
        for frame in frames:
            if self.radius_px and frame.index < len(self._x):
                self._read(frame)
            yield frame

    def _read(self, frame: Frame) -> None:
        index = frame.index
        if self._frames:
            last = self._frames[-1]
            if index - last < STILL_FRAMES and np.hypot(self._x[index] - self._x[last], self._y[index] - self._y[last]) < STILL_PX:
                return
        along = self.radius_px * OUT
        map_x = (self._x[index] + along * _COS[:, None]).astype(np.float32)
        map_y = (self._y[index] + along * _SIN[:, None]).astype(np.float32)
        self._strips.append(cv2.remap(frame.bgr(), map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))
        self._frames.append(index)

    def settled(self) -> DiscTrack | None:
        """The track with the middle, radius and shape that the whole clip tells; frames that do not show the disc are without it. None
        where too little was seen, or where every frame's own outline tells the same: then that is how the disc looked at that height."""
        frames = np.array(self._frames, int)
        if len(frames) < FEWEST:
            return None
        seen = self._track.confidence[frames] > 0
        found = _laid_together(np.array(self._strips), self._x[frames], self._y[frames], self.radius_px, seen)
        if found is None:
            return None
        told = self._as_track(frames, found)
        return None if self._as_followed(told) < SAME_OUTLINE else told

    def _as_followed(self, told: DiscTrack) -> float:
        """How far outlines as they were followed lie from those that the whole clip tells, as a share of the radius (median)."""
        was = self._track
        apart = (was.radius_px[:, None] + was.outline) - (told.radius_px[:, None] + told.outline)
        apart += (was.x_px - told.x_px)[:, None] * np.cos(_SECTOR) + (was.y_px - told.y_px)[:, None] * np.sin(_SECTOR)
        both = np.isfinite(apart)
        squares = np.where(both, np.square(np.nan_to_num(apart)), 0).sum(1) / np.maximum(both.sum(1), 1)
        return float(np.sqrt(np.median(squares[both.any(1)]))) / self.radius_px if both.any() else np.inf

    def _as_track(self, frames: NDArray[np.int64], found: _Laid) -> DiscTrack:
        every = np.arange(len(self._x))
        x, y = (np.interp(every, frames, at) for at in found.moved.T)
        shown = np.interp(every, frames, found.shown.astype(float)) > 0.5
        radius, wide, skew = (np.interp(every, frames, column) for column in found.shape.T)
        sd = np.interp(every, frames, found.sd_px)
        told = {
            "x_px": self._x + x, "y_px": self._y + y, "radius_px": self.radius_px + radius - wide,
            "squeeze": (self.radius_px + radius + wide) / (self.radius_px + radius - wide), "sd_px": sd,
        }  # fmt: skip
        made = {name: np.where(shown, values, np.nan) for name, values in told.items()}
        outline = found.rim_px + wide[:, None] * (1 + np.cos(2 * _SECTOR)) + skew[:, None] * np.sin(2 * _SECTOR)
        return replace(
            self._track, **made, confidence=np.where(shown, np.maximum(self._track.confidence, SURE), 0.0),
            outline=np.where(shown[:, None], outline, np.nan),
        )  # fmt: skip


@dataclass(frozen=True)
class _Laid:
    """Of n strips: how far each disc lies from where it was guessed `(n, 2)`, which show it, how well the middle is known, how much
    larger it is, wider and more askew `(n, 3)`, and where it ends beyond that in every sector `(SECTORS,)`; all in px."""

    moved: Floats
    shown: NDArray[np.bool_]
    sd_px: Floats
    shape: Floats
    rim_px: Floats


def _laid_together(strips: Strips, x: Floats, y: Floats, radius: float, seen: NDArray[np.bool_]) -> _Laid | None:
    """Lay every strip on the pattern that all of them have in common."""
    count = len(strips)
    edges = _edges(strips)
    across, down = ((at - np.median(at)) / radius for at in (x, y))
    # Radius, width and skew, and how each changes from left to right and from top to bottom.
    terms = np.zeros((count, 3, 9))
    for row in range(3):
        terms[:, row, 3 * row : 3 * row + 3] = np.stack([np.ones(count), across, down], axis=1)
    moved, even, shown = np.zeros((count, 2)), np.zeros(9), seen.copy()
    sd = np.full(count, np.nan)
    for blur in BLURS:
        if shown.sum() < FEWEST:
            return None
        soft = gaussian_filter1d(edges.astype(np.float32), blur, axis=2) / 255
        shape = terms @ even
        laid = _at(soft, _places(moved, shape, radius))
        pattern, spread = _pattern(laid[shown])
        normal, pull, fit = _pulled(laid, pattern, spread, radius)
        own = np.linalg.inv(normal[:, :2, :2] + 1e-6 * np.eye(2))
        # What all frames have in common is told by what each leaves open of it.
        joint = normal[:, :2, 2:] @ terms
        whole = np.swapaxes(terms, 1, 2) @ normal[:, 2:, 2:] @ terms - np.swapaxes(joint, 1, 2) @ own @ joint
        told = np.einsum("nji,nj->ni", terms, pull[:, 2:]) - np.einsum("nji,njk,nk->ni", joint, own, pull[:, :2])
        common, its = whole[shown].sum(0), told[shown].sum(0)
        step = np.linalg.solve(common + 1e-4 * np.trace(common) / 9 * np.eye(9), its)
        even = even + np.clip(step, -1.0, 1.0)
        moved = moved + np.clip(np.einsum("nij,nj->ni", own, pull[:, :2] - joint @ step), -3.0, 3.0)
        shown = fit > SHOWN * np.median(fit[shown])
        sd = np.sqrt(np.maximum(own[:, 0, 0], own[:, 1, 1]))
    shape = terms @ even
    rim = _rim(strips[shown], _places(moved[shown], shape[shown], radius), pattern)
    return None if rim is None else _Laid(moved, shown, np.hypot(sd, 0.05), shape, radius * (rim - 1))


def _edges(strips: Strips) -> Strips:
    """How much of an edge lies at each place, 0 to 255, whatever its sign, colour and strength."""
    made = np.empty(strips.shape[:3], np.uint8)
    for start in range(0, len(strips), CHUNK):
        part = gaussian_filter1d(strips[start : start + CHUNK].astype(np.float32), 0.7, axis=2)
        step = np.zeros(part.shape[:3], np.float32)
        step[:, :, 1:-1] = np.sqrt(np.square(part[:, :, 2:] - part[:, :, :-2]).sum(3)) / 2
        made[start : start + CHUNK] = 255 * step / (step + HALF_EDGE)
    return made


def _places(moved: Floats, shape: Floats, radius: float) -> NDArray[np.float32]:
    """Where along each ray every part of the face lies `(n, RAYS, OUT)`, in steps from the first that was read."""
    aside = moved[:, :1] * _COS + moved[:, 1:] * _SIN
    grown = shape[:, :1] + shape[:, 1:2] * _COS2 + shape[:, 2:] * _SIN2
    out = OUT + (aside[:, :, None] + OUT * grown[:, :, None]) / radius
    return np.asarray(np.clip((out - OUT[0]) / STEP, 0, len(OUT) - 1.001), np.float32)


def _at(strips: NDArray[np.float32], places: NDArray[np.float32]) -> NDArray[np.float32]:
    """Values between the steps of a ray."""
    low = places.astype(np.int16)
    share = places - low
    low = low.astype(np.int64)
    return np.asarray(np.take_along_axis(strips, low, 2) * (1 - share) + np.take_along_axis(strips, low + 1, 2) * share)


def _pattern(laid: NDArray[np.float32]) -> tuple[Floats, Floats]:
    """What the strips have in common along a ray, and how far they are from it."""
    mean = laid.mean((0, 1))
    return mean, np.sqrt(np.square(laid - mean).mean((0, 1))) + LEAST_SPREAD


def _pulled(laid: NDArray[np.float32], pattern: Floats, spread: Floats, radius: float) -> tuple[Floats, Floats, Floats]:
    """For every strip: the normal matrix `(n, 5, 5)` and the pull `(n, 5)` on its middle, size, width and skew, and how much of the pattern
    it shows, 0 to 1."""
    off = ((laid - pattern) / spread)[..., PATTERN]
    slope = (np.gradient(pattern, STEP) / spread)[PATTERN] / radius
    counts = np.square(np.maximum(1 - np.square(off / STRAY), 0))
    out = OUT[PATTERN]
    # Along a ray everything goes with one direction, or with that times how far out it is.
    heavy = counts * np.square(slope)
    sums = np.stack([heavy @ out**power for power in range(3)], axis=2)
    pulls = -(counts * off) * slope
    pulled = np.stack([pulls.sum(2), pulls @ out], axis=2)
    ways = np.stack([_COS, _SIN, np.ones(RAYS), _COS2, _SIN2], axis=1)
    power = np.array([0, 0, 1, 1, 1])
    normal = np.empty((len(laid), 5, 5))
    for i in range(5):
        for j in range(5):
            normal[:, i, j] = sums[:, :, power[i] + power[j]] @ (ways[:, i] * ways[:, j])
    pull = np.stack([pulled[:, :, power[i]] @ ways[:, i] for i in range(5)], axis=1)
    return normal, pull, _alike(laid[..., PATTERN], pattern[PATTERN])


def _alike(laid: NDArray[np.float32], pattern: Floats) -> Floats:
    """How well each strip goes with the pattern: 1 when it shows just that, about 0 when it shows something else."""
    other, own = laid - laid.mean((1, 2), keepdims=True), pattern - pattern.mean()
    return np.asarray((other @ own).sum(1) / np.sqrt(np.square(other).sum((1, 2)) * np.square(own).sum() * RAYS))


def _rim(strips: Strips, places: NDArray[np.float32], pattern: Floats) -> Floats | None:
    """Where the disc ends in every sector (shares of its radius): from there outward a place is as bright as the background behind it.

    At a place on the disc brightness has nothing to do with what goes by outside; beyond it, everything. How much of a place's change goes
    with that of the background is how much of it the background is, and the disc ends where that is half. None where no background goes
    by.
    """
    inside = (RIM_WITHIN[0] < OUT) & (RIM_WITHIN[1] > OUT)
    last = int(np.argmax(np.where(inside, pattern, 0)))
    near = slice(last - 6, last + BEYOND.stop)
    laid = np.stack([_at(strips[..., colour].astype(np.float32), places[:, :, near]) for colour in range(3)], axis=3)
    laid -= laid.mean(0)
    beyond = laid[:, :, 6 + BEYOND.start :].mean(2)
    with_it = np.einsum("ntkc,ntc->tk", laid, beyond).reshape(SECTORS, -1, laid.shape[2]).sum(1)
    going_by = np.square(beyond).sum((0, 2)).reshape(SECTORS, -1).sum(1)
    if np.median(going_by) < LEAST_GOING_BY:
        return None
    share = with_it / np.maximum(going_by, 1e-9)[:, None]
    out = OUT[near]
    rim = np.full(SECTORS, np.nan)
    for sector, row in enumerate(share):
        below = np.flatnonzero(row < 0.5)
        if going_by[sector] < LEAST_GOING_BY or not len(below) or below[-1] == len(row) - 1:
            continue
        at = below[-1]
        rim[sector] = out[at] + STEP * (0.5 - row[at]) / (row[at + 1] - row[at])
    return rim if np.isfinite(rim).sum() >= SECTORS / 3 else None
