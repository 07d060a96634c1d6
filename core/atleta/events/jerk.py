"""Events of the jerk from the bar alone.

height |               apex  meet
       |              .-^-.________.------ recovered
       |    drive end/     bottom
  rack |____        /
       |    \\     /
       |     '---'
       +----+--+-------------------------- time
    dip start  dip bottom
"""

from __future__ import annotations

import numpy as np

from ..motion import BarMotion
from .search import first_crossing, largest, let_go, load_taken, onset, risen, stood_up

LET_FALL_M_S = 2.2
# Nobody recovers from under a bar sooner.
SETTLES_S = 0.4


def jerk_events(motion: BarMotion, start_s: float, stop_s: float) -> dict[str, float]:
    """Times (s) of a jerk's events between `start_s` (bar still in the rack) and `stop_s`; what the bar does not show is absent."""
    t, y, vy, ay = motion.time_s, motion.y_m, motion.vy_m_s, motion.quick_ay_m_s2
    events: dict[str, float] = {}
    # A bar let fall comes off the floor again faster than any drive.
    fallen = first_crossing(t, vy, -LET_FALL_M_S, after_s=start_s, before_s=stop_s, rising=False)
    drive = largest(t, vy, after_s=start_s, before_s=fallen or stop_s)
    if drive is None:
        return events
    before = (t >= max(start_s, drive - 1.2)) & (t <= drive)
    if before.sum() < 5:
        return events
    low = float(t[before][np.argmin(y[before])])
    rack = float(np.median(motion.raw_y_m[(t >= start_s) & (t <= max(low - 0.6, start_s + 0.1))]))
    falling = (t >= start_s) & (t <= low)
    depth = rack - float(np.interp(low, t, y))
    down = onset(t[falling], rack - motion.raw_y_m[falling], noise=motion.noise_m, upto=min(0.03, 0.4 * depth)) if depth > 0.02 else None
    if down is not None:
        events["rack"] = start_s
        events["dip_start"] = down
    events["dip_bottom"] = low
    events["drive_end"] = drive
    apex = first_crossing(t, vy, 0.0, after_s=drive, before_s=stop_s, rising=False)
    if apex is None:
        return events
    events["apex"] = apex
    meet = load_taken(t, ay, motion.slower_ay_m_s2, apex_s=apex, before_s=min(stop_s, apex + 0.6))
    if meet is None:
        return events
    events["meet"] = meet
    bottom = first_crossing(t, vy, 0.0, after_s=max(meet, apex + 0.03), before_s=min(stop_s, meet + 1.0), rising=True)
    if bottom is not None:
        events["bottom"] = bottom
        recovered = stood_up(t, y, vy, after_s=max(bottom + SETTLES_S, risen(t, y, bottom, stop_s)), before_s=stop_s)
        if recovered is not None:
            events["recovered"] = recovered
            release = let_go(t, y, ay, after_s=recovered, before_s=stop_s)
            if release is not None:
                events["release"] = release
    return events
