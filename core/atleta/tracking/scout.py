"""Look over a whole picture for discs, at low resolution: edge points vote for the centres that could have made them."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from .rim import Luma, Rim, fit_rim, ring_support
from .sight import Plane, Sight

Slopes = NDArray[np.int16]

SCOUT_SIDE_PX = 400
# A full disc is 0.45 m; in a picture that shows a whole lifter it takes between these shares of the shorter side.
SMALLEST_SHARE, LARGEST_SHARE = 0.025, 0.24
MIN_SUPPORT, PLAIN_RING = 0.55, 0.7
# What is lifted is near the camera: anything less than so large beside a well-seen disc is a hub, a head or a far disc.
SMALLER = 0.45
# A disc is no larger than this many of its hubs; and a hub that stands out by 4 cm, seen from 15 degrees in front, lies this share of the
# disc's radius from the disc's centre.
LARGEST_RING, RINGS_APART = 3.2, 0.05
# How far about a guessed ring its steps may lie, as a share of its radius.
RING_REACH = 0.08
# A disc is told by its muted brightness where that shows so much more of its rim.
PLAINER = 0.05
# Guesses no further apart than this, as a share of the radius, are fitted alike; a picture has not changed where it differs by less than
# this many grey levels, about a disc and a little beyond its rim.
SAME_GUESS, CHANGED, RIM_AND_ALL = 0.06, 2.5, 1.15
# A vote lands this near a disc's centre, as a share of its radius, and is no larger than this, when it is for that disc.
WITHIN_CENTRE, WITHIN_SIZE = 0.15, 1.08


class Scout:
    """Looks over pictures of one clip now and then, and remembers what was no disc in the last one."""

    def __init__(self) -> None:
        self._small: tuple[Luma, ...] = ()
        self._refused: list[Rim] = []

    def look(self, sight: Sight, known: Sequence[tuple[Rim, Plane]] = (), *, at_most: int = 5) -> list[tuple[Rim, Plane]]:
        """Discs in a picture, best supported first, fitted at full resolution, each in the plane that shows more of its rim.

        Args:
            known: discs that are followed there already; neither they nor the rings inside them, or inside a disc just found, are fitted.
        """
        shrink = min(1.0, SCOUT_SIDE_PX / max(sight.luma.shape))
        small = sight.shrunk(shrink)
        found: list[tuple[Rim, Plane]] = []
        refused: list[Rim] = []
        for x, y, radius in _vote(small):
            guess = Rim((x + 0.5) / shrink - 0.5, (y + 0.5) / shrink - 0.5, radius / shrink)
            if any(_within(guess, one) for one, _ in found):
                continue
            followed = next((one for one in known if _within(guess, one[0])), None)
            if followed is not None:
                found.append(followed)
                continue
            if self._still_none(small, shrink, guess):
                refused.append(guess)
                continue
            fitted = _in_either(sight, guess, max(0.12 * guess.radius_px, 2.5 / shrink))
            if fitted is None:
                refused.append(guess)
                continue
            rim, plane = fitted
            if any(_within(rim, one) for one, _ in found):
                continue
            rim, plane = _plainer(sight, outermost(sight.plane(plane), rim), plane)
            same = next((i for i, (other, _) in enumerate(found) if _same_disc(rim, other)), None)
            if same is None:
                found.append((rim, plane))
            elif _better(rim, found[same][0]):
                found[same] = (rim, plane)
        self._small, self._refused = small, refused
        largest = max((rim.radius_px for rim, _ in found if rim.support > 0.8), default=0.0)
        found = [one for one in found if one[0].radius_px >= SMALLER * largest]
        return sorted(found, key=lambda one: _merit(one[0]), reverse=True)[:at_most]

    def _still_none(self, small: tuple[Luma, ...], shrink: float, guess: Rim) -> bool:
        """Whether there was no disc here in the last picture, and nothing has changed."""
        if not any(_as_before(guess, one) for one in self._refused):
            return False
        x, y, reach = (round(shrink * value) for value in (guess.x_px, guess.y_px, RIM_AND_ALL * guess.radius_px))
        here = slice(max(y - reach, 0), y + reach + 1), slice(max(x - reach, 0), x + reach + 1)
        return all(float(cv2.absdiff(now[here], then[here]).mean()) < CHANGED for now, then in zip(small, self._small, strict=True))


def _in_either(sight: Sight, guess: Rim, search_px: float) -> tuple[Rim, Plane] | None:
    """The rim nearest to a guess, in brightness or else in muted brightness."""
    for plane in sight.planes:
        rim = fit_rim(sight.plane(plane), guess, search_px=search_px, rounds=2)
        if rim is not None and _plausible(rim):
            return rim, plane
    return None


def _plainer(sight: Sight, rim: Rim, plane: Plane) -> tuple[Rim, Plane]:
    """A rim in the plane that shows plainly more of it."""
    other: Plane = "muted" if plane == "luma" else "luma"
    if other not in sight.planes or rim.support + PLAINER >= 1.0:
        return rim, plane
    again = fit_rim(sight.plane(other), rim, search_px=RING_REACH * rim.radius_px)
    if again is not None and _plausible(again) and again.support > rim.support + PLAINER:
        return again, other
    return rim, plane


def _plausible(rim: Rim) -> bool:
    return rim.support >= MIN_SUPPORT and 0.6 < rim.squeeze < 1.25 and rim.residual_px <= 0.03 * rim.radius_px + 0.5


def outermost(luma: Luma, rim: Rim) -> Rim:
    """The largest ring about the same centre: discs are painted in rings, and only the outer one has a known size."""
    shares = np.geomspace(LARGEST_RING, 1.12, 17)
    # Most sizes show too few steps to be a ring at all; telling that takes one look for all of them, a fit one each.
    for share in shares[ring_support(luma, rim, shares, RING_REACH) >= PLAIN_RING]:
        guess = Rim(rim.x_px, rim.y_px, rim.radius_px * share, rim.squeeze)
        outer = fit_rim(luma, guess, search_px=RING_REACH * guess.radius_px)
        if outer is None or not _plausible(outer) or outer.support < PLAIN_RING:
            continue
        together = np.hypot(outer.x_px - rim.x_px, outer.y_px - rim.y_px) < RINGS_APART * outer.radius_px
        if together and outer.radius_px > rim.radius_px and abs(outer.squeeze / rim.squeeze - 1) < 0.08:
            return outer
    return rim


def _better(rim: Rim, known: Rim) -> bool:
    """Of two rings of one disc the outer one, when they share their centre and both are plain; else the better supported."""
    together = np.hypot(rim.x_px - known.x_px, rim.y_px - known.y_px) < 0.06 * known.radius_px
    if together and min(rim.support, known.support) > PLAIN_RING:
        return rim.radius_px > known.radius_px
    return _merit(rim) > _merit(known)


def _merit(rim: Rim) -> float:
    """Well supported and large."""
    return float(rim.support * rim.radius_px**0.5)


def _within(guess: Rim, disc: Rim) -> bool:
    """Whether a guess is a disc or a ring about its centre and no larger."""
    off = np.hypot(guess.x_px - disc.x_px, guess.y_px - disc.y_px)
    return bool(off < WITHIN_CENTRE * disc.radius_px and guess.radius_px < WITHIN_SIZE * disc.radius_px)


def _as_before(guess: Rim, refused: Rim) -> bool:
    """Whether two guesses are one for the fit."""
    off = np.hypot(guess.x_px - refused.x_px, guess.y_px - refused.y_px)
    return bool(max(off, abs(guess.radius_px - refused.radius_px)) < SAME_GUESS * refused.radius_px)


def _same_disc(one: Rim, other: Rim) -> bool:
    return bool(np.hypot(one.x_px - other.x_px, one.y_px - other.y_px) < 0.45 * max(one.radius_px, other.radius_px))


def _vote(small: Sequence[Luma]) -> list[tuple[int, int, int]]:
    """Centres and radii (px of the small picture) on which many edge points agree.

    Every edge point votes, for each radius, for the two points that far along its gradient, in the plane that is steepest there. A
    centre's worth at a radius is the share of the circle's circumference that voted, so that large and small discs compete evenly.
    """
    height, width = small[0].shape
    gx, gy = _steepest([cv2.GaussianBlur(plane, (0, 0), 1.2) for plane in small])
    ys, xs = np.nonzero(cv2.Canny(gx, gy, 24, 60))
    if len(xs) < 20:
        return []
    to_x, to_y = (slope[ys, xs].astype(np.float32) for slope in (gx, gy))
    steep = np.maximum(np.hypot(to_x, to_y), 1e-6)
    # Towards both sides of every edge point; half a pixel on, so that cutting off rounds.
    from_x, from_y = (np.tile(at + np.float32(0.5), 2) for at in (xs.astype(np.float32), ys.astype(np.float32)))
    to_x, to_y = (np.concatenate([way, -way]) for way in (to_x / steep, to_y / steep))
    side = min(height, width)
    radii = np.unique(np.round(np.geomspace(max(5, SMALLEST_SHARE * side), LARGEST_SHARE * side, 20)).astype(int))
    found: list[tuple[float, int, int, int]] = []
    for radius in radii:
        x, y = from_x + np.float32(radius) * to_x, from_y + np.float32(radius) * to_y
        inside = (x >= 0) & (x < width) & (y >= 0) & (y < height)
        voted = y[inside].astype(np.int32) * width + x[inside].astype(np.int32)
        votes = np.bincount(voted, minlength=height * width).astype(np.float32)
        table = cv2.GaussianBlur(votes.reshape(height, width), (0, 0), 1.0 + 0.03 * radius)
        # Votes of a whole circle, blurred, peak at about circumference / (2 pi blur²).
        worth = table * (1.0 + 0.03 * radius) ** 2 / radius
        for _ in range(6):
            row, column = divmod(int(np.argmax(worth)), width)
            if worth[row, column] < 0.30:
                break
            found.append((float(worth[row, column]), column, row, int(radius)))
            cv2.circle(worth, (column, row), max(3, int(0.5 * radius)), 0.0, -1)
    found.sort(reverse=True)
    kept: list[tuple[int, int, int]] = []
    for _, column, row, radius in found:
        near = [k for k in kept if np.hypot(k[0] - column, k[1] - row) < 0.3 * radius and abs(k[2] - radius) < 0.15 * radius]
        if not near:
            kept.append((column, row, radius))
        if len(kept) >= 14:
            break
    return kept


def _steepest(planes: Sequence[Luma]) -> tuple[Slopes, Slopes]:
    """The gradient at each pixel, in the plane in which it is largest there."""
    gx, gy = (cv2.Sobel(planes[0], cv2.CV_16S, *way) for way in ((1, 0), (0, 1)))
    for plane in planes[1:]:
        other_x, other_y = (cv2.Sobel(plane, cv2.CV_16S, *way) for way in ((1, 0), (0, 1)))
        steeper = np.abs(other_x) + np.abs(other_y) > np.abs(gx) + np.abs(gy)
        gx, gy = np.where(steeper, other_x, gx), np.where(steeper, other_y, gy)
    return np.asarray(gx), np.asarray(gy)
