"""Squats from the bar alone: every repetition of a set, its descent, its bottom, and when it is stood up with.

height | -----.        .------.        .----- stand
       |       \\      /        \\      /
       |        `-..-´          `-..-´  bottom
       +-------+---+----+---------------------- time
         descent_start
"""

from __future__ import annotations

import numpy as np

from ..motion import BarMotion
from ..motion.filters import runs
from .search import held, largest, let_go, onset, stood_up

LEAST_DEPTH_M = 0.18
# A pause in the bottom is no further above the lowest point than this.
PAUSED_WITHIN_M = 0.05


def squat_reps(motion: BarMotion, after_s: float = -np.inf, before_s: float = np.inf) -> list[dict[str, float]]:
    """Times (s) of the events of each repetition between two times, in order, and of the last one when the bar is dropped after it.
    Where it follows another lift, and the bar may go overhead after it, the height at `after_s` is that of standing."""
    t, y = motion.time_s, motion.y_m
    inside = (t >= after_s) & (t <= before_s)
    tall = motion.at("y_m", after_s) if np.isfinite(after_s) else float(np.percentile(y, 90))
    low = inside & (y < tall - LEAST_DEPTH_M)
    made = []
    for first, last in runs(low):
        # A bar that is still low at the end was not stood up with.
        if first == 0 or last >= len(t) or not inside[last]:
            continue
        bottom = largest(t, -y, after_s=float(t[first]), before_s=float(t[last - 1]))
        if bottom is None:
            continue
        fastest = first - 5 + int(np.argmin(motion.vy_m_s[max(first - 5, 0) : last])) if first > 5 else first
        stood = np.flatnonzero((t < t[fastest]) & (motion.vy_m_s > -0.02))
        begin = int(stood[-1]) if len(stood) else 0
        before = (t <= t[begin]) & (t >= t[begin] - 0.4)
        rest = float(np.median(motion.raw_y_m[before]))
        down = (t >= t[begin] - 0.4) & (t <= t[fastest])
        start = onset(t[down], rest - motion.raw_y_m[down], noise=motion.noise_m, upto=0.03)
        up = stood_up(t, y, motion.vy_m_s, after_s=float(t[last - 1]), before_s=float(t[-1]))
        if up is None:
            continue
        deep = (t > t[fastest]) & (t < up) & (y < y[first:last].min() + PAUSED_WITHIN_M)
        pause = held(t, y, motion.vy_m_s, deep)
        # The way down ends where a pause begins; where in it the bar is lowest says nothing.
        begins = start if start is not None else float(t[begin])
        made.append({"descent_start": begins, "bottom": pause.get("hold_start", bottom), "stand": up} | pause)
    if made:
        release = let_go(t, y, motion.quick_ay_m_s2, after_s=made[-1]["stand"], before_s=min(before_s, float(t[-1])))
        if release is not None:
            made[-1]["release"] = release
    return made
