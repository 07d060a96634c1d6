"""Whether a file's clock is true: a bar that nobody holds falls at g."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .kinematics import BarTrack

Floats = NDArray[np.float64]

G = 9.81
LEAST_FALL_M, FEWEST_FRAMES = 0.45, 6
# A fall is told from a lowering by how exactly its height is a parabola.
STRAIGHT_M = 0.012
# How files are slowed down: taken at twice to ten times the rate at which they are played.
SLOWED = (2.0, 4.0, 5.0, 8.0, 10.0)
AGREES = 0.10


def slowed_by(bar: BarTrack) -> float | None:
    """How many times slower than real the file plays, from the last fall of the bar; 1 for a true clock, None where no fall tells.

        height |--.        Between a tenth and nine tenths of the way down the height is fitted with a parabola. On a true clock
               |   `.      its curvature is g; in a file that plays four times slower it is a sixteenth of that.
               |     \\
               |______\\_
    """
    y, t = bar.y_m, bar.time_s
    low = float(np.nanpercentile(y, 2))
    down = np.flatnonzero(y < low + 0.05)
    for end in down[np.flatnonzero(np.diff(down, prepend=-2) > 1)][::-1]:
        start = int(end)
        while start > 0 and y[start - 1] >= y[start] - 0.002:
            start -= 1
        fall = float(y[start] - y[end])
        inside = np.arange(start, end + 1)
        inside = inside[(y[inside] < y[start] - 0.1 * fall) & (y[inside] > y[end] + 0.1 * fall)]
        if fall < LEAST_FALL_M or len(inside) < FEWEST_FRAMES:
            continue
        since = t[inside] - t[inside[0]]
        curve = np.polyfit(since, y[inside], 2)
        left = float(np.sqrt(np.mean((np.polyval(curve, since) - y[inside]) ** 2)))
        if left > STRAIGHT_M or curve[0] >= 0:
            continue
        times = float(np.sqrt(G / (-2 * curve[0])))
        for known in (1.0, *SLOWED):
            if abs(times / known - 1) < AGREES:
                return known
    return None
