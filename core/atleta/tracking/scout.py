"""Look over a whole picture for discs, at low resolution: edge points vote for the centres that could have made them."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

from .rim import Luma, Rim, fit_rim, ring_support

SCOUT_SIDE_PX = 400
# A full disc is 0.45 m; in a picture that shows a whole lifter it takes between these shares of the shorter side.
SMALLEST_SHARE, LARGEST_SHARE = 0.025, 0.24
MIN_SUPPORT, PLAIN_RING = 0.55, 0.7
# What is lifted is near the camera: anything less than so large beside a well-seen disc is a hub, a head or a far disc.
SMALLER = 0.45
# How far about a guessed ring its steps may lie, as a share of its radius.
RING_REACH = 0.08
# Guesses no further apart than this, as a share of the radius, are fitted alike; a picture has not changed where it differs by less than
# this many grey levels, about a disc and a little beyond its rim.
SAME_GUESS, CHANGED, RIM_AND_ALL = 0.06, 2.5, 1.15
# A vote lands this near a disc's centre, as a share of its radius, and is no larger than this, when it is for that disc.
WITHIN_CENTRE, WITHIN_SIZE = 0.15, 1.08


class Scout:
    """Looks over pictures of one clip now and then, and remembers what was no disc in the last one."""

    def __init__(self) -> None:
        self._small: Luma | None = None
        self._refused: list[Rim] = []

    def look(self, luma: Luma, known: Sequence[Rim] = (), *, at_most: int = 5) -> list[Rim]:
        """Discs in a picture, best supported first, fitted at full resolution.

        Args:
            known: discs that are followed there already; neither they nor the rings inside them, or inside a disc just found, are fitted.
        """
        height, width = luma.shape
        shrink = min(1.0, SCOUT_SIDE_PX / max(height, width))
        small = np.asarray(cv2.resize(luma, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA) if shrink < 1 else luma.copy())
        rims: list[Rim] = []
        refused: list[Rim] = []
        for x, y, radius in _vote(small):
            guess = Rim((x + 0.5) / shrink - 0.5, (y + 0.5) / shrink - 0.5, radius / shrink)
            if any(_within(guess, one) for one in rims):
                continue
            followed = next((one for one in known if _within(guess, one)), None)
            if followed is not None:
                rims.append(followed)
                continue
            if self._still_none(small, shrink, guess):
                refused.append(guess)
                continue
            rim = fit_rim(luma, guess, search_px=max(0.12 * guess.radius_px, 2.5 / shrink), rounds=2)
            if rim is None or not _plausible(rim):
                refused.append(guess)
                continue
            if any(_within(rim, one) for one in rims):
                continue
            rim = _outermost(luma, rim)
            same = next((i for i, other in enumerate(rims) if _same_disc(rim, other)), None)
            if same is None:
                rims.append(rim)
            elif _better(rim, rims[same]):
                rims[same] = rim
        self._small, self._refused = small, refused
        largest = max((rim.radius_px for rim in rims if rim.support > 0.8), default=0.0)
        rims = [rim for rim in rims if rim.radius_px >= SMALLER * largest]
        return sorted(rims, key=_merit, reverse=True)[:at_most]

    def _still_none(self, small: Luma, shrink: float, guess: Rim) -> bool:
        """Whether there was no disc here in the last picture, and nothing has changed."""
        if self._small is None or not any(_as_before(guess, one) for one in self._refused):
            return False
        x, y, reach = (round(shrink * value) for value in (guess.x_px, guess.y_px, RIM_AND_ALL * guess.radius_px))
        here = slice(max(y - reach, 0), y + reach + 1), slice(max(x - reach, 0), x + reach + 1)
        return float(cv2.absdiff(small[here], self._small[here]).mean()) < CHANGED


def _plausible(rim: Rim) -> bool:
    return rim.support >= MIN_SUPPORT and 0.6 < rim.squeeze < 1.25 and rim.residual_px <= 0.03 * rim.radius_px + 0.5


def _outermost(luma: Luma, rim: Rim) -> Rim:
    """The largest ring about the same centre: discs are painted in rings, and only the outer one has a known size."""
    shares = np.geomspace(2.6, 1.12, 14)
    # Most sizes show too few steps to be a ring at all; telling that takes one look for all of them, a fit one each.
    for share in shares[ring_support(luma, rim, shares, RING_REACH) >= PLAIN_RING]:
        guess = Rim(rim.x_px, rim.y_px, rim.radius_px * share, rim.squeeze)
        outer = fit_rim(luma, guess, search_px=RING_REACH * guess.radius_px)
        if outer is None or not _plausible(outer) or outer.support < PLAIN_RING:
            continue
        together = np.hypot(outer.x_px - rim.x_px, outer.y_px - rim.y_px) < 0.06 * rim.radius_px
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


def _vote(small: Luma) -> list[tuple[int, int, int]]:
    """Centres and radii (px of the small picture) on which many edge points agree.

    Every edge point votes, for each radius, for the two points that far along its gradient. A centre's worth at a radius is the
    share of the circle's circumference that voted, so that large and small discs compete evenly.
    """
    height, width = small.shape
    smooth = cv2.GaussianBlur(small, (0, 0), 1.2)
    gx = cv2.Sobel(smooth, cv2.CV_32F, 1, 0)
    gy = cv2.Sobel(smooth, cv2.CV_32F, 0, 1)
    size = np.hypot(gx, gy)
    edges = cv2.Canny(smooth, 24, 60) > 0
    ys, xs = np.nonzero(edges)
    if len(xs) < 20:
        return []
    steep = np.maximum(size[ys, xs], 1e-6)
    # Towards both sides of every edge point; half a pixel on, so that cutting off rounds.
    from_x, from_y = (np.tile(at + np.float32(0.5), 2) for at in (xs.astype(np.float32), ys.astype(np.float32)))
    to_x, to_y = (np.concatenate([way, -way]) for way in (gx[ys, xs] / steep, gy[ys, xs] / steep))
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
