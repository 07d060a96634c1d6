"""What a bar that nobody holds tells: it falls at g, and straight down. So it shows a file's true clock, and gravity in the picture."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .kinematics import BarTrack

Floats = NDArray[np.float64]

G = 9.81
LEAST_FALL_M, FEWEST_FRAMES = 0.45, 6
# A fall is told from a lowering by how exactly its height is a parabola.
STRAIGHT_M = 0.012
# What falls is stopped by the floor, what is lowered by a lifter who brakes: the rest of the way takes no more than this share of the time.
ABRUPT = 0.2
# How files are slowed down: taken at twice to ten times the rate at which they are played.
SLOWED = (2.0, 4.0, 5.0, 8.0, 10.0)
AGREES = 0.10
# Hands that still guide the bar slow it down; only one that falls this nearly at g shows which way gravity points.
UNGUIDED = 0.03
# What hands give a bar that they let go, and a picture's yaw, leave open at best.
OWN_LEAN_SD_DEG = 0.3


@dataclass(frozen=True)
class Fall:
    """A fall of the bar: its acceleration forward and up (m/s² on the file's clock), and one standard deviation of each."""

    forward: float
    up: float
    sd: float


def falls(bar: BarTrack) -> Iterator[Fall]:
    """Falls of the bar, the last one first.

        height |--.        Between a tenth and nine tenths of the way down the height is fitted with a parabola. On a true clock
               |   `.      its curvature is g; in a file that plays four times slower it is a sixteenth of that.
               |     \\
               |______\\_
    """
    x, y, t = bar.x_m, bar.y_m, bar.time_s
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
        if float(t[_lowest(y, end)] - t[end]) > ABRUPT * float(since[-1]) + float(t[end] - t[end - 1]):
            continue
        curves = [np.polyfit(since, way[inside], 2) for way in (x, y)]
        left = [float(np.sqrt(np.mean((np.polyval(curve, since) - way[inside]) ** 2))) for curve, way in zip(curves, (x, y), strict=True)]
        if left[1] > STRAIGHT_M or curves[1][0] >= 0:
            continue
        # What noise does to the curvature of so many places, evenly spread over so long.
        sd = 2 * max(left) * np.sqrt(180 / len(inside)) / float(since[-1]) ** 2
        yield Fall(2 * float(curves[0][0]), 2 * float(curves[1][0]), float(sd))


def _lowest(y: Floats, since: int) -> int:
    """Where the bar is no longer going down."""
    rising = np.flatnonzero(np.diff(y[since:]) >= 0)
    return since + int(rising[0]) if len(rising) else len(y) - 1


def slowed_by(bar: BarTrack) -> float | None:
    """How many times slower than real the file plays, from the last fall of the bar; 1 for a true clock, None where no fall tells."""
    for fall in falls(bar):
        times = float(np.sqrt(G / -fall.up))
        for known in (1.0, *SLOWED):
            if abs(times / known - 1) < AGREES:
                return known
    return None


def lean_of_fall(bar: BarTrack) -> tuple[float, float] | None:
    """How far a free fall leans forward of the bar's own down, in degrees with its standard deviation; None where none shows it."""
    fall = next((fall for fall in falls(bar) if abs(np.hypot(fall.forward, fall.up) / G - 1) < UNGUIDED), None)
    if fall is None:
        return None
    lean = float(np.degrees(np.arctan2(fall.forward, -fall.up)))
    return lean, float(np.hypot(np.degrees(fall.sd / G), OWN_LEAN_SD_DEG))
