"""Events of the thick bar from the bar alone: by way of the belt to the shoulders, and pressed from there.

height |                              .---- recovered
       |                            .´
       |            .------- - - --´ press_start
       |          .´ shoulder
       |    .----´ regrip
       |  .´ belt
       | /
       +-+------------------------------------ time
      lift_off
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from ..motion import BarMotion
from ..motion.body.sight import UNKNOWN_STATURE_M
from .body import BodyHeights
from .search import first_crossing, largest, let_go, onset, rests, set_out, still_since, stood_up

# From the belt to the shoulders it is so far, in shares of stature; from hanging arms to the belt less, from the shoulders to straight arms
# overhead more.
LEAST_FROM_BELT, MOST_FROM_BELT = 0.17, 0.29
# And the belt is higher than so much of the way from the floor to the shoulders, hanging arms are lower.
BELT_SHARE = 0.57
REGRIPPED_S = 0.25
# Until then the bar has never been so much higher, and it goes on at least so fast against its way up there.
CAUGHT_M, THROWN_SHARE = 0.05, 0.6
# Straight arms overhead are so far above the shoulders at least.
PRESSED_SHARE = 0.22


def continental_events(
    motion: BarMotion, heights: BodyHeights | None, start_s: float, stop_s: float, rest_y_m: float, disc_radius_m: float
) -> dict[str, float]:
    """Times (s) of the events between `start_s` and `stop_s`; what the bar does not show is absent: `belt` comes to rest on the belt,
    `regrip` leaves it again with the hands as they are wanted, `shoulder` at rest on the shoulders.

    Args:
        motion: y counted from the picture's own zero.
        heights: the stand-in for the knee, None when stature is unknown.
        rest_y_m: the bar's y while it lies on the floor.
        disc_radius_m: height of the bar above the floor while it lies there.
    """
    t, y, vy = motion.time_s, motion.y_m, motion.vy_m_s
    window = (t >= start_s) & (t <= stop_s)
    up = onset(t[window], motion.raw_y_m[window] - rest_y_m, noise=motion.noise_m, upto=0.025)
    if up is None:
        return {}
    events = {"pull_start": up, "lift_off": up}
    if heights is not None:
        knee = first_crossing(t, y - rest_y_m + disc_radius_m, heights.knee_m, after_s=up, before_s=stop_s)
        if knee is not None:
            events["knee"] = knee
    stature = heights.stature_m if heights else UNKNOWN_STATURE_M
    high_up = window & (t > up) & (y > rest_y_m + LEAST_FROM_BELT * stature)
    held = [(first, last) for first, last in rests(t, y, vy, high_up) if t[last] - t[first] >= REGRIPPED_S]
    for (begin, end), (above, _) in pairwise(held):
        rise = float(y[above] - y[end])
        before, after = window & (t > up) & (t <= t[end]), (t > t[end]) & (t <= t[above])
        if float(y[before].max()) > float(y[end]) + CAUGHT_M or float(vy[after].max()) < THROWN_SHARE * float(vy[before].max()):
            # It has come down to there and is stood up with: that is a catch.
            break
        on_belt = float(y[end]) - rest_y_m > BELT_SHARE * (float(y[above]) - rest_y_m)
        if on_belt and LEAST_FROM_BELT * stature < rise < MOST_FROM_BELT * stature:
            events["belt"], events["regrip"] = float(t[begin]), set_out(t, np.abs(vy), int(end))
            break
    if "regrip" not in events:
        return events
    peak = largest(t, vy, after_s=events["regrip"], before_s=float(t[above]))
    if peak is None:
        return events
    events["peak_speed"] = peak
    return events | _held_up(motion, "shoulder", peak, stop_s)


def press_events(motion: BarMotion, stature_m: float | None, start_s: float, stop_s: float) -> dict[str, float]:
    """Times (s) of a press between `start_s` and `stop_s`: `rack` still on the shoulders, `press_start`, `recovered` still overhead,
    `release`. Empty where no bar goes from rest on the shoulders to overhead."""
    t, y, vy = motion.time_s, motion.y_m, motion.vy_m_s
    calm = still_since(t, y, after_s=start_s, within=0.01, for_s=0.15)
    if calm is None or calm > stop_s:
        return {}
    rack = float(np.median(motion.raw_y_m[(t >= calm) & (t <= calm + 0.15)]))
    least = PRESSED_SHARE * (stature_m or UNKNOWN_STATURE_M)
    high = first_crossing(t, y, rack + least, after_s=calm, before_s=stop_s)
    if high is None:
        return {}
    window = (t >= calm) & (t <= high)
    start = onset(t[window], motion.raw_y_m[window] - rack, noise=motion.noise_m, upto=0.025)
    if start is None:
        return {}
    events = {"rack": calm, "press_start": start}
    peak = largest(t, vy, after_s=start, before_s=min(high + 0.5, stop_s))
    if peak is not None:
        events["peak_speed"] = peak
    return events | _held_up(motion, "recovered", high, stop_s)


def _held_up(motion: BarMotion, called: str, after_s: float, before_s: float) -> dict[str, float]:
    """When the bar is at rest where it was brought to, as it is called, and when it is let go there."""
    t, y = motion.time_s, motion.y_m
    up = stood_up(t, y, motion.vy_m_s, after_s=after_s, before_s=before_s)
    if up is None:
        return {}
    release = let_go(t, y, motion.quick_ay_m_s2, after_s=up, before_s=before_s)
    return {called: up} if release is None else {called: up, "release": release}
