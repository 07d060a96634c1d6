"""Times that a file rounded, as they were before."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

# Rounding to less than this share of a frame is not worth undoing.
FINE = 0.002
# Frames that follow each other are no further apart than this, in usual steps.
SINGLE = 1.6
# A frame and so many on either side are looked at together; those whose times lie within so many ticks of even ones were even.
BESIDE, WITHIN_TICKS = 10, 1.25
AT_ONCE = 4096


def unrounded(time_s: Floats, tick_s: float) -> Floats:
    """Times `(frames,)` in s, increasing, of frames that were taken evenly about each moment, put back to where they were before they
    were rounded to ticks; frames that were left out leave gaps of whole steps. Others stay as they are: a clock that is not even within
    the rounding is the camera's own."""
    steps = np.diff(time_s)
    if len(steps) == 0 or tick_s <= FINE * (usual := float(np.median(steps))):
        return time_s
    steps /= steps[steps < SINGLE * usual].mean()
    counted = np.append(0.0, np.cumsum(np.maximum(np.round(steps), 1.0)))
    made = evened(time_s, counted, tick_s)
    return np.asarray(made - made[0])


def evened(time_s: Floats, counted: Floats, tick_s: float) -> Floats:
    """Times that are even but for rounding, all along or else about a frame, made even; the others as they are.

    Args:
        counted: the frames' numbers on the even clock `(frames,)`, increasing.
        tick_s: to what the times were rounded.
    """
    made = np.polyval(np.polyfit(counted, time_s, 1), counted)
    if np.ptp(time_s - made) <= WITHIN_TICKS * tick_s:
        return np.asarray(made)
    made = time_s.copy()
    if len(time_s) < 2 * BESIDE + 1:
        return made
    # At the ends a frame has the others to one side.
    begins = np.clip(np.arange(len(time_s)) - BESIDE, 0, len(time_s) - 2 * BESIDE - 1)
    for first in range(0, len(time_s), AT_ONCE):
        here = np.arange(first, min(first + AT_ONCE, len(time_s)))
        together = begins[here, None] + np.arange(2 * BESIDE + 1)
        number, time = counted[together] - counted[here, None], time_s[together] - time_s[here, None]
        off = number - number.mean(axis=1, keepdims=True)
        pace = (off * time).sum(axis=1) / (off**2).sum(axis=1)
        even = time.mean(axis=1) - pace * number.mean(axis=1)
        made[here] += np.where(np.ptp(time - pace[:, None] * number, axis=1) <= WITHIN_TICKS * tick_s, even, 0.0)
    return made if (np.diff(made) > 0).all() else time_s
