"""Pictures that only repeat the one before: of a film that was made over at a higher rate, or of a phone that could not keep up."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline

from ..footage.clock import evened
from .rim import Luma
from .track import DiscTrack, RawTracks

Floats = NDArray[np.float64]

# A picture repeats the one before where a disc should have moved (by `MOVES_PX`) and changes in it are small against the largest in the
# pictures just before (so many, of so many grey levels at least): that of the place that changed most, and the average of all. In 14
# films in which discs moved by 1 px a frame or more the first was never less than 0.35 of the usual, nor the second less than 0.09; in one
# whose pictures were repeated, made over in four ways, both were mostly below one of these pairs.
PICTURES, LEAST_CHANGE, HARDLY = 8, 25, ((0.27, 0.2), (0.4, 0.07))
# Between two pictures that changed by so much of the usual one that hardly did repeats the one before, whatever should have moved.
LIVELY = 0.5
# No picture is repeated more often than this.
MOST_TIMES = 3
# A film made over at a higher rate repeats pictures in a rhythm: of so many that are shown, so many are its own, since films have 15, 20,
# 24, 25, 30, 50 or 60 a second. It is one where so large a share of the repeats that it asks for were found, and hardly any others.
MADE_OVER = ((1, 2), (1, 3), (2, 3), (1, 4), (4, 5), (2, 5), (3, 5), (5, 6), (5, 12), (24, 25), (12, 25))
FOUND_OF_RHYTHM, OTHERS, FEWEST_FOUND = 0.7, 0.1, 8
# Between pictures further apart than this (s) nothing is filled in.
LONGEST_S = 0.1


class RepeatWatch:
    """Is fed some pixels of every picture, and what discs should have done; `found` says of each whether it seems to repeat the one before.
    A bar that is met stops as suddenly: whoever sees that it stayed where it was takes that back."""

    def __init__(self) -> None:
        self.found: list[bool] = []
        self._moved: list[bool] = []
        self._hardly: list[bool] = []
        self._lively: list[bool] = []
        self._before: Luma | None = None
        self._changes: deque[tuple[int, float]] = deque(maxlen=PICTURES)

    def feed(self, pixels: Luma, moves: bool) -> None:
        """Take the next picture, and whether a disc should have moved since the one before."""
        if self._before is None:
            most, average = 0, 0.0
        else:
            change = cv2.absdiff(pixels, self._before)
            most, average = int(change.max()), float(change.mean())
        usual_most, usual = (max((each[k] for each in self._changes), default=0) for k in (0, 1))
        hardly = any(most < of_most * usual_most and average < of_average * usual for of_most, of_average in HARDLY)
        hardly = hardly and usual_most >= LEAST_CHANGE
        again = moves and hardly and not all(self.found[-MOST_TIMES:])
        if not again:
            self._changes.append((most, average))
        self._before = pixels
        self.found.append(again)
        self._moved.append(moves)
        self._hardly.append(hardly)
        self._lively.append(most > LIVELY * usual_most and average > LIVELY * usual)

    def take_back(self, first: int, stop: int) -> None:
        """Nothing in these pictures should have moved."""
        for flags in (self.found, self._moved):
            flags[first:stop] = [False] * (stop - first)

    def finish(self) -> NDArray[np.bool_]:
        """Which pictures repeat the one before `(frames,)`: all along where that was found in a rhythm. Where discs hardly move it shows by
        what is before and after."""
        found, moved, lively = (np.array(flags, bool) for flags in (self.found, self._moved, self._lively))
        edges = np.flatnonzero(np.diff([False, *self._hardly, False]))
        for first, stop in edges.reshape(-1, 2):
            if stop - first <= MOST_TIMES and first > 0 and stop < len(found) and lively[first - 1] and lively[stop]:
                found[first:stop] = True
        if found.sum() < FEWEST_FOUND:
            return found
        best, fewest_off = found, np.inf
        for asked in _rhythms(len(found)):
            missing, others = (asked & moved & ~found).sum(), (found & ~asked).sum()
            enough = missing <= (1 - FOUND_OF_RHYTHM) * (asked & moved).sum() and others <= OTHERS * found.sum()
            if enough and missing + others < fewest_off:
                best, fewest_off = asked, missing + others
        return best


def _rhythms(frames: int) -> Iterator[NDArray[np.bool_]]:
    """Which pictures repeat the one before `(frames,)`, in every rhythm and from each of its beginnings."""
    every = np.arange(-1, frames)
    for own, shown in MADE_OVER:
        for begun in range(shown):
            yield np.diff((every * own + begun) // shown) == 0


def as_taken(raw: RawTracks, track: DiscTrack) -> tuple[RawTracks, DiscTrack]:
    """The disc where it was when each frame is shown, and not where a picture before that had it; and no look at the lifter twice.

    Between pictures that were taken it follows a smooth curve through them. Where they were made over in a rhythm, from 24 to 30 a second
    say, they are put back to even times first.
    """
    if not raw.repeated.any():
        return raw, track
    own = np.flatnonzero(~raw.repeated)
    taken_s, shown_s = _taken_s(raw.frame_time_s, raw.repeated), raw.frame_time_s
    made = track.copied()
    for series in (made.x_px, made.y_px):
        seen = np.isfinite(series[own])
        at, values = taken_s[seen], series[own][seen]
        for part in np.split(np.arange(len(at)), np.flatnonzero(np.diff(at) > LONGEST_S) + 1):
            if len(part) >= 4:
                within = np.isfinite(series) & (shown_s >= at[part[0]]) & (shown_s <= at[part[-1]])
                series[within] = CubicSpline(at[part], values[part])(shown_s[within])
    people = raw.people
    looked_in = own[np.searchsorted(own, people.frame, side="right") - 1]
    first = np.unique(looked_in, return_index=True)[1]
    return replace(raw, people=replace(people.only(first), frame=looked_in[first])), made


def _taken_s(time_s: Floats, repeated: NDArray[np.bool_]) -> Floats:
    """When the pictures that are frames of their own were taken `(own,)`, s: evenly where others repeat them in a rhythm, else when they
    are first shown."""
    shown_s, number = time_s[~repeated], np.arange(int((~repeated).sum()), dtype=float)
    if not any(np.array_equal(repeated, asked) for asked in _rhythms(len(repeated))):
        return shown_s
    return evened(shown_s, number, float(np.median(np.diff(time_s))))
