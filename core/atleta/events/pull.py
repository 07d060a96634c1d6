"""Events of the pull family (snatch, clean, every pull) from the bar alone; the knee's height stands in for its joint.

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
from numpy.typing import NDArray

from ..motion import BarMotion
from .body import BodyHeights
from .families import OVERHEAD, RECEIVED
from .search import GRAVITY_M_S2, first_crossing, held, largest, let_go, load_taken, onset, risen, still_since, stood_up

Floats = NDArray[np.float64]

# A bar that is met and neither falls nor rises on stays within this.
STILL_M = 0.010
# No one brings a bar from the floor to its largest speed in less; a track that seems to was picked up on the way.
SHORTEST_PULL_S = 0.25
# A rise is the pull, and no hitch before it, when it is this much of the fastest in the stretch.
QUICK_SHARE = 0.5
# A pull that ends in a hold is nowhere as fast as a whole one, and is held at the top of its way.
HALTED_M_S, AT_THE_TOP_M = 1.0, 0.03
# A bar that was stood up with is hardly lower than it once flew: overhead it cannot be, on the shoulders it may be if it was over-pulled.
BELOW_APEX_OVERHEAD_M, BELOW_APEX_RACKED_M = 0.03, 0.20
# Contact is so shortly before the largest speed, and the bar comes back at least so fast before it.
CONTACT_WITHIN_S, LEAST_BACKWARD_M_S = 0.22, 0.05
# A thigh that meets the bar sends it forward within this.
STRUCK_S = 0.08
# And so much of the most speed that the bar gains after any of its ways back.
MET_SHARE = 0.5


def _met_by_thigh(motion: BarMotion, after_s: float, peak_s: float) -> float | None:
    """When the thigh meets the bar: it stops the bar's way back and sends it forward. Of a bar that is brushed half of the backward speed
    is gone then; one that is struck (pushed forward harder than it is heavy) comes back as quickly as before until it is.

    backward |    .-.
    speed    |  .´   `x  contact
             |_´       `-.___
             +---------------`---- time, to peak speed

    Of several ways back, the last: the bar may swing off the knees as far before. One after which it hardly gains speed is none.
    """
    t, speed = motion.time_s, -motion.vx_m_s
    inside = np.flatnonzero((t >= after_s) & (t <= peak_s))
    tops = [
        int(k) for k in inside
        if 0 < k < len(t) - 1 and speed[k] >= LEAST_BACKWARD_M_S and speed[k - 1] <= speed[k] > speed[k + 1]
    ]  # fmt: skip
    if len(inside) < 4 or not tops:
        return None
    gained = [float(speed[k] - speed[(t >= t[k]) & (t <= t[k] + STRUCK_S)].min()) for k in tops]
    stopped = max(k for k, gain in zip(tops, gained, strict=True) if gain >= MET_SHARE * max(gained))
    turned = float(t[stopped])
    brushed = first_crossing(t, speed, 0.5 * float(speed[stopped]), after_s=turned, before_s=peak_s, rising=False)
    struck = first_crossing(t, -np.gradient(speed, t), GRAVITY_M_S2, after_s=float(t[stopped - 1]), before_s=peak_s)
    return brushed if brushed is None or struck is None else min(struck, brushed)


def hold_events(motion: BarMotion, after_s: float, before_s: float, rest_y_m: float) -> dict[str, float]:
    """When the bar is held still on its way up, at least 3 cm above where it lay; empty where it never is for 0.4 s."""
    t = motion.time_s
    return held(t, motion.y_m, motion.vy_m_s, (t >= after_s) & (t <= before_s) & (motion.y_m > rest_y_m + 0.03))


def with_hold(motion: BarMotion, kind: str, events: dict[str, float], stop_s: float, rest_y_m: float) -> dict[str, float]:
    """The events of a pull with those of a hold on its way or at its end, where there is one."""
    if "lift_off" not in events:
        return events
    if kind.endswith("_pull") and (halted := _halted(motion, events, stop_s, rest_y_m)):
        return halted
    return events | hold_events(motion, events["lift_off"], events.get("peak_speed", stop_s), rest_y_m)


def _halted(motion: BarMotion, events: dict[str, float], stop_s: float, rest_y_m: float) -> dict[str, float] | None:
    """Events of a pull that goes to a height, is held there and comes down again: there is no contact, no extension and no flight in it.
    None when it is no such pull."""
    t, y = motion.time_s, motion.y_m
    off = events["lift_off"]
    inside = (t >= off) & (t <= stop_s)
    held = hold_events(motion, off, stop_s, rest_y_m)
    if not held or motion.vy_m_s[inside].max() > HALTED_M_S:
        return None
    middle = float(np.interp((held["hold_start"] + held["hold_end"]) / 2, t, y))
    if middle < y[inside].max() - AT_THE_TOP_M:
        return None
    kept = {name: at for name, at in events.items() if name in ("pull_start", "lift_off", "knee") and at <= held["hold_start"]}
    return kept | held


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
        heights: the stand-in for the knee, None when stature is unknown.
        rest_y_m: the bar's y while it lies on the floor.
        disc_radius_m: height of the bar above the floor while it lies there.
    """
    t, y, vy, ay = motion.time_s, motion.y_m, motion.vy_m_s, motion.quick_ay_m_s2
    window = (t >= start_s) & (t <= stop_s)
    events: dict[str, float] = {}
    up = onset(t[window], motion.raw_y_m[window] - rest_y_m, noise=motion.noise_m, upto=0.025)
    if up is None:
        return events
    events["pull_start"] = events["lift_off"] = up

    # The fastest upward moment until the bar first stops rising after a quick rise: a jerk may follow that is quicker.
    quick = first_crossing(t, vy, QUICK_SHARE * float(vy[window & (t >= up)].max(initial=0.0)), after_s=up, before_s=stop_s)
    stops = first_crossing(t, vy, 0.0, after_s=quick, before_s=stop_s, rising=False) if quick is not None else None
    peak = largest(t, np.where(window, vy, -np.inf), after_s=up, before_s=stops or stop_s)
    if peak is None:
        return events
    if peak - up < SHORTEST_PULL_S:
        return {}
    events["peak_speed"] = peak
    apex = first_crossing(t, vy, 0.0, after_s=peak, before_s=stop_s, rising=False)
    if heights is not None:
        # A pull that is slow all the way is fastest before the knee.
        slow = vy[window].max() < HALTED_M_S
        passed = first_crossing(t, y - rest_y_m + disc_radius_m, heights.knee_m, after_s=up, before_s=stop_s if slow else peak)
        if passed is not None:
            events["knee"] = passed
    contact = _met_by_thigh(motion, max(up, peak - CONTACT_WITHIN_S), peak)
    if contact is not None and kind != "deadlift":
        events["contact"] = contact
    if apex is None:
        return events
    events["apex"] = apex
    if kind not in RECEIVED:
        return events

    meet = load_taken(t, ay, motion.slower_ay_m_s2, apex_s=apex, before_s=min(stop_s, apex + 0.8))
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
    stand = stood_up(t, y, vy, after_s=risen(t, y, bottom, stop_s), before_s=stop_s)
    least = motion.at("y_m", apex) - (BELOW_APEX_OVERHEAD_M if kind in OVERHEAD else BELOW_APEX_RACKED_M)
    if stand is not None and motion.at("y_m", stand) > least:
        events["stand"] = stand
    release = let_go(t, y, ay, after_s=events.get("stand", bottom), before_s=stop_s)
    if release is not None:
        events["release"] = release
    return events
