"""Events of the pull family (snatch, clean, every pull) from the bar alone, with knee and thigh heights standing in for joints.

height |                      apex
       |                     .-^-.meet        .------- stand
       |        peak speed  /     \\_________ .'
       |                 \\/       bottom
       |   contact      /
       |      knee   _.'
       |  ________.-'
       +----------+----------------------------------- time
              lift-off
"""

from __future__ import annotations

import numpy as np

from ..motion import BarMotion
from .body import BodyHeights
from .families import RECEIVED
from .search import first_crossing, largest, load_taken, onset, still_since

G = 9.81
# A bar stood up with sways a little; it counts as still when it stays within this for the time below.
STILL_M = 0.010
STILL_FOR_S = 0.25
# No one brings a bar from the floor to its largest speed in less; a track that seems to was picked up on the way.
SHORTEST_PULL_S = 0.25


def pull_events(
    motion: BarMotion,
    kind: str,
    heights: BodyHeights | None,
    start_s: float,
    stop_s: float,
    rest_y_m: float,
    disc_radius_m: float,
) -> dict[str, float]:
    """Times (s) of the events the bar shows between `start_s` and `stop_s`; what it does not show is absent.

    Args:
        motion: y counted from the picture's own zero.
        heights: stand-ins for knee and thigh, None when stature is unknown.
        rest_y_m: the bar's y while it lies on the floor.
        disc_radius_m: height of the bar above the floor while it lies there.
    """
    t, y, vy, ay = motion.time_s, motion.y_m, motion.vy_m_s, motion.ay_m_s2
    window = (t >= start_s) & (t <= stop_s)
    events: dict[str, float] = {}
    up = onset(t[window], motion.raw_y_m[window] - rest_y_m, noise=motion.noise_m, upto=0.025)
    if up is None:
        return events
    events["lift_off"] = up

    # The fastest upward moment of the whole stretch: standing up with the bar is slower than pulling it.
    peak = largest(t, np.where(window, vy, -np.inf), after_s=up, before_s=stop_s)
    if peak is None:
        return events
    if peak - up < SHORTEST_PULL_S:
        return {}
    events["peak_speed"] = peak
    apex = first_crossing(t, vy, 0.0, after_s=peak, before_s=stop_s, rising=False)
    if heights is not None:
        for name, height in (("knee", heights.knee_m), ("contact", heights.contact_m)):
            passed = first_crossing(t, y - rest_y_m + disc_radius_m, height, after_s=up, before_s=peak + 0.2)
            if passed is not None:
                events[name] = passed
    if apex is None:
        return events
    events["apex"] = apex
    if kind not in RECEIVED:
        return events

    meet = load_taken(t, ay, apex_s=apex, before_s=min(stop_s, apex + 0.8))
    if meet is None:
        return events
    landed = float(np.interp(meet, t, y)) < rest_y_m + 0.15
    if landed:
        return events
    events["meet"] = meet
    bottom = first_crossing(t, vy, 0.0, after_s=max(meet, apex + 0.03), before_s=min(stop_s, meet + 1.5), rising=True)
    if bottom is None:
        bottom = still_since(t, y, after_s=meet, within=STILL_M, for_s=0.1)
    if bottom is None or bottom > stop_s:
        return events
    events["bottom"] = bottom
    low = float(np.interp(bottom, t, y))
    risen = first_crossing(t, y, low + 0.6 * (float(y[(t >= bottom) & (t <= stop_s)].max()) - low), after_s=bottom, before_s=stop_s)
    stand = still_since(t, y, after_s=risen if risen is not None else bottom, within=STILL_M, for_s=STILL_FOR_S)
    if stand is not None and stand <= stop_s:
        events["stand"] = stand
        release = first_crossing(t, ay, -0.7 * G, after_s=stand, before_s=stop_s, rising=False)
        if release is not None:
            events["release"] = release
    return events
