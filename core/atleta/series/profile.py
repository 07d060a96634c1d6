"""Peak velocity against load: held up to some load, and lost beyond it.

speed |  -------.          plateau, then a straight line from the break on
      |          `.
      +----------|-`.----- load
               break
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .lifts import Lifts

LEAST_LOADS = 4
SPEED = "peak_velocity"
# A break lies between loads that were lifted, and is looked for at so many places.
BREAK_STEPS = 60
# A break is only told of when it leaves this share of the squares that a plain line leaves, at most.
BREAK_PAYS = 0.75


@dataclass(frozen=True)
class Profile:
    """How peak velocity falls with load (m/s, kg); `plateau_m_s` and `break_kg` are None where a plain line tells as much."""

    lifts: int
    loads: int
    plateau_m_s: float | None
    break_kg: float | None
    slope_m_s_per_10_kg: float
    spread_m_s: float
    """Scatter of single lifts about the curve, one standard deviation."""
    line: tuple[tuple[float, float], ...]
    """Corners of the curve: load, speed."""

    def at(self, load_kg: float) -> float:
        """Speed on the curve at a load; beyond the lifted loads the nearest end's."""
        loads, speeds = zip(*self.line, strict=True)
        return float(np.interp(load_kg, loads, speeds))


def load_speed_profile(lifts: Lifts) -> Profile | None:
    """The profile of lifts of one kind that were not missed, or None on fewer than four distinct loads: that is no profile."""
    known = lifts.not_missed & np.isfinite(lifts.of(SPEED)[0]) & np.isfinite(lifts.load_kg)
    load, speed = lifts.load_kg[known], lifts.of(SPEED)[0][known]
    loads = np.unique(load)
    if len(loads) < LEAST_LOADS:
        return None
    low, high = float(loads[0]), float(loads[-1])
    plain, left_plain = (part[0] for part in _fitted(load[None], speed))
    best, left, at = plain, left_plain, None
    places = np.linspace(low, high, BREAK_STEPS)[1:-1]
    # Lifts on either side, or there is nothing to tell a break from.
    below = np.searchsorted(loads, places, side="right")
    places = places[np.minimum(below, len(loads) - below) >= 2]
    if len(places):
        found, squares = _fitted(np.maximum(load - places[:, None], 0.0), speed)
        least = int(np.argmin(np.where(found[:, 1] < 0, squares, np.inf)))
        if found[least, 1] < 0 and squares[least] < left:
            best, left, at = found[least], squares[least], float(places[least])
    broken = at is not None and left < BREAK_PAYS * left_plain
    start, slope = (best if broken else plain).tolist()
    spread = float(np.sqrt((left if broken else left_plain) / max(len(load) - (3 if broken else 2), 1)))
    line: tuple[tuple[float, float], ...]
    if broken and at is not None:
        line = ((low, start), (at, start), (high, start + slope * (high - at)))
        return Profile(len(load), len(loads), start, at, 10 * slope, spread, line)
    line = ((low, start + slope * low), (high, start + slope * high))
    return Profile(len(load), len(loads), None, None, 10 * slope, spread, line)


def _fitted(x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Of k × n places of n numbers, k × 2 starts and slopes of the lines of least squares, and the squares that they leave."""
    about, heights = x - x.mean(1, keepdims=True), y - y.mean()
    slopes = about @ heights / (about**2).sum(1)
    left = ((heights - slopes[:, None] * about) ** 2).sum(1)
    return np.stack([y.mean() - slopes * x.mean(1), slopes], axis=1), left
