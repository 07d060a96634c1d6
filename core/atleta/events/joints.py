r"""Events that joints tell: where the bar passes the knee, the double knee bend, contact, the extension, feet, elbows, stillness.

knee     |       first_pull_end          extension
angle    |            .-.                  .--
         |          .´   `.  rebend      .´
         |       _.´       `-.______.--´
         +-------+----+----------+----------------- time
            lift-off  knee    contact

Each takes the events that the bar alone told and gives those it adds or tells better.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..motion import BodyMotion
from .families import OVERHEAD
from .search import first_crossing, largest, set_out, sunk

Floats = NDArray[np.float64]
Events = dict[str, float]

# Knees that close by less than this did not bend again; noise does as much.
REBENT_DEG, UNDER_WAY_DEG = 2.0, 1.5
# Hips this open end the stretch in which the knees can bend again.
OPEN_HIP_DEG = 160.0
TOUCH_M, KNOWN_M = 0.02, 0.01
# A knee joint whose height is known no better than this is stood in for by stature.
KNOWN_KNEE_M = 0.025
# Nor is a knee so far (share of stature) from where stature puts it.
NO_KNEE_SHARE = 0.06
# The thigh meets the bar about a second pull's length before its largest speed, and no longer.
CONTACT_WITHIN_S = 0.15
LOCKED_DEG = 170.0
# How long arms are looked at that are held, and how near to that angle they are held so.
HELD_S, HELD_WITHIN_DEG = 0.4, 2.0
# Elbows lock so long after the bottom at most; ones known to some degrees only seem to unlock and lock again while the bar is held, and
# count for this long after the lowest point.
LOCKS_WITHIN_S, SEEN_TO_LOCK_WITHIN_S = 1.5, 0.6
# Whoever comes to within this of the straightest legs and hips is straight.
STRAIGHT_WITHIN_DEG = 3.0
# A bar this far below the shoulders on its way up has arrived there: who stands up under it straightens once more.
ARRIVES_M = 0.03
STILL_M_S = 0.03
OFF_FLOOR_M = 0.008
SPLIT_M = 0.15
# Feet in a split stand so long after it; when they have come this much closer, they are being brought together.
SETTLED_S, STEPPED_M = 0.15, 0.02
# A foot that goes into a split is at some time this quick over the floor, and has landed when it is down to this share of it; one that
# steps out of it leaves when it is up to it. Which foot that was shows a little later.
STEPS_M_S, LANDED_SHARE = 0.5, 0.2
STEP_LASTS_S, STEP_SHOWS_S = 0.3, 0.1


def pull_joint_events(body: BodyMotion, kind: str, bar: Events) -> Events:
    """Events of a pull, and of meeting the bar, that need joints."""
    t = body.time_s
    # A pull that ends in a hold has no largest speed to speak of.
    off, peak = bar.get("lift_off"), bar.get("peak_speed", bar.get("hold_start"))
    if off is None or peak is None or not body.covers(off, peak):
        return {}
    made: Events = {}
    still = _still_before(body, off)
    if still is not None:
        made["set"] = still
    knee = first_crossing(t, body.y("bar") - body.y("knee"), 0.0, after_s=off, before_s=peak)
    if "knee" in bar and (knee is None or _stood_in(body, knee, bar["knee"])):
        knee = bar["knee"]
    elif knee is not None:
        made["knee"] = knee
    if "peak_speed" not in bar:
        return made
    opened = first_crossing(t, body.hip, OPEN_HIP_DEG, after_s=knee or off, before_s=peak)
    turned = _bent_again(t, body.knee, knee or off, opened or peak)
    since = knee or off
    if turned is not None:
        made["first_pull_end"], made["rebend"] = turned
        straightest = body.at(body.knee, turned[0])
        since = first_crossing(t, body.knee, straightest - UNDER_WAY_DEG, after_s=turned[0], before_s=turned[1], rising=False) or turned[0]
    elif knee is not None:
        # Knees that never bend again: contact is looked for from where the bar is furthest from the thigh.
        since = largest(t, body.thigh_gap, after_s=knee, before_s=peak) or knee
    # Joints that are known to a centimetre tell contact by its definition; otherwise the bar's way tells it better.
    sure = shows_contact(body)
    contact = bar.get("contact") if not sure else None
    gap = body.thigh_gap
    if not sure:
        # A thigh that is known to some centimetres has the bar at it when it is nearest, wherever that seems to be.
        since = max(since, peak - CONTACT_WITHIN_S)
        gap = gap - float(np.min(gap[(t >= since) & (t <= peak)], initial=np.inf))
    contact = contact or _touch(t, gap, since, peak)
    if contact is not None:
        made["contact"] = contact
        extension = largest(t, body.hip + body.knee, after_s=contact, before_s=bar.get("apex", peak + 0.15))
        if extension is not None:
            made["extension"] = extension
    if "meet" in bar and "bottom" in bar:
        made |= _received(body, kind in OVERHEAD, bar["apex"], bar["meet"], bar["bottom"])
    return made


def shows_contact(body: BodyMotion) -> bool:
    """Whether hip and knee are known well enough to tell when the shaft is at the thigh."""
    return max(body.doubt_m("hip"), body.doubt_m("knee")) < KNOWN_M


def _stood_in(body: BodyMotion, by_joint_s: float, by_stature_s: float) -> bool:
    """Whether stature tells when the bar passes the knee better than a joint that is hidden then, or is where no knee can be."""
    if body.doubt_up_m("knee", by_joint_s) == 0:
        return False
    apart = abs(body.at(body.y("bar"), by_joint_s) - body.at(body.y("bar"), by_stature_s))
    return body.doubt_up_m("knee", by_joint_s) > KNOWN_KNEE_M or apart > NO_KNEE_SHARE * body.stature_m


def squat_joint_events(body: BodyMotion, bar: Events) -> Events:
    """The bottom of a squat is where the hips are lowest, if they are known as well as the bar; of one that is held there, where the
    hold begins."""
    if "hold_start" in bar or not {"descent_start", "stand"} <= bar.keys() or not body.covers(bar["descent_start"], bar["stand"]):
        return {}
    if body.doubt_up_m("hip", bar["bottom"]) > TOUCH_M:
        return {}
    low = largest(body.time_s, -body.y("hip"), after_s=bar["descent_start"], before_s=bar["stand"])
    return {} if low is None else {"bottom": low}


def jerk_joint_events(body: BodyMotion, bar: Events) -> Events:
    """Events of a jerk that need joints: feet, the lowest point, locked elbows, the first step of the recovery."""
    if "apex" not in bar or "meet" not in bar or not body.covers(bar["dip_bottom"], bar["meet"]):
        return {}
    until = bar.get("recovered", bar["meet"] + 1.2)
    made = _received(body, True, bar["apex"], bar["meet"], min(bar.get("bottom", bar["meet"]) + 0.1, until))
    low = made.get("low_point", bar["meet"])
    apart = body.x("near_mid_foot") - body.x("far_mid_foot")
    gap = body.at(apart, low)
    if abs(gap) < SPLIT_M:
        return made
    front, back = ("near", "far") if gap > 0 else ("far", "near")
    for side, name in ((front, "front_foot_down"), (back, "back_foot_down")):
        down = _foot_down(body, side, bar["drive_end"], low)
        if down is not None:
            made[name] = down
    settled = low + SETTLED_S
    wide = abs(body.at(apart, settled))
    closing = first_crossing(body.time_s, np.abs(apart), wide - STEPPED_M, after_s=settled, before_s=until, rising=False)
    if closing is not None:
        step = _foot_up(body, settled, closing)
        if step is not None:
            made["first_step"] = step
    return made


def continental_joint_events(body: BodyMotion, bar: Events) -> Events:
    """Legs and hips straight on the way from the belt to the shoulders; the knee's height where the joint tells it."""
    made: Events = {}
    off = bar.get("lift_off")
    if off is not None and body.covers(off, bar.get("belt", off)):
        still = _still_before(body, off)
        if still is not None:
            made["set"] = still
        knee = first_crossing(body.time_s, body.y("bar") - body.y("knee"), 0.0, after_s=off, before_s=bar.get("belt", np.inf))
        if knee is not None and not ("knee" in bar and _stood_in(body, knee, bar["knee"])):
            made["knee"] = knee
    if not {"regrip", "peak_speed", "shoulder"} <= bar.keys() or not body.covers(bar["regrip"], bar["shoulder"]):
        return made
    # Who stands with the bar on the belt is straight already; what counts is straightening out of the dip.
    dip = largest(body.time_s, -body.y("bar"), after_s=bar["regrip"], before_s=bar["peak_speed"])
    if dip is None:
        return made
    arrives = body.at(body.y("bar"), bar["shoulder"]) - ARRIVES_M
    there = first_crossing(body.time_s, body.y("bar"), arrives, after_s=bar["peak_speed"], before_s=bar["shoulder"]) or bar["shoulder"]
    after = (body.time_s >= dip) & (body.time_s <= there)
    reach = body.hip + body.knee
    straight = after & (reach >= np.max(reach[after], initial=-np.inf) - STRAIGHT_WITHIN_DEG)
    if straight.any():
        made["extension"] = float(body.time_s[straight][0])
    return made


def press_joint_events(body: BodyMotion, bar: Events) -> Events:
    """Elbows locked overhead. Where they are known to some degrees the bar tells it better: it is at rest when they are."""
    if "recovered" not in bar or not body.covers(bar["press_start"], bar["recovered"]):
        return {}
    up = bar["recovered"]
    doubt_deg = body.doubt_deg("elbow", up)
    if doubt_deg > 0:
        return {"lockout": up} if body.at(body.elbow, up) >= LOCKED_DEG - doubt_deg or _held_straight(body, up) is not None else {}
    overhead_deg = np.where(body.y("bar") > body.y("ear"), body.elbow, 0.0)
    locked = first_crossing(body.time_s, overhead_deg, LOCKED_DEG, after_s=bar["press_start"], before_s=up + SEEN_TO_LOCK_WITHIN_S)
    return {} if locked is None else {"lockout": locked}


def _held_straight(body: BodyMotion, since_s: float) -> float | None:
    """At what angle elbows are held from a time on, °, where they may as well be straight."""
    if not body.covers(since_s, since_s + HELD_S):
        return None
    held_deg = float(np.median(body.elbow[(body.time_s >= since_s) & (body.time_s <= since_s + HELD_S)]))
    return held_deg if held_deg >= LOCKED_DEG - 2 * body.doubt_deg("elbow", since_s) else None


def first_foot_to_step(body: BodyMotion, step_s: float, low_s: float) -> str:
    """Which foot recovers first: `front` or `back`."""
    front = body.at(body.x("near_mid_foot") - body.x("far_mid_foot"), low_s) > 0
    stepped_s = step_s + STEP_SHOWS_S
    moved = {
        side: abs(body.at(body.x(f"{side}_mid_foot"), stepped_s) - body.at(body.x(f"{side}_mid_foot"), low_s)) for side in ("near", "far")
    }
    first = max(moved, key=lambda side: moved[side])
    return "front" if (first == "near") == front else "back"


def _received(body: BodyMotion, overhead: bool, apex: float, meet: float, low: float) -> Events:
    if not body.covers(apex, low):
        return {}
    made: Events = {}
    until = low + 0.4 if body.covers(apex, low + 0.4) else low
    # The bar sinks with the shoulders under locked arms, and is known better than they are.
    sinks = "bar" if overhead and body.doubt_up_m("shoulder", low) > 0 else "shoulder"
    lowest = sunk(body.time_s, body.y(sinks), after_s=apex, before_s=until)
    if lowest is not None:
        made["low_point"] = lowest
    if overhead:
        locked_deg = LOCKED_DEG - body.doubt_deg("elbow", meet)
        if body.at(body.elbow, meet) >= locked_deg:
            made["lockout"] = meet
        else:
            # Arms that hang down are straight too, when the bar was let go.
            overhead_deg = np.where(body.y("bar") > body.y("ear"), body.elbow, 0.0)
            by = low + LOCKS_WITHIN_S if body.doubt_deg("elbow", meet) == 0 else made.get("low_point", meet) + SEEN_TO_LOCK_WITHIN_S
            locked = first_crossing(body.time_s, overhead_deg, locked_deg, after_s=meet, before_s=by)
            if locked is None:
                held_deg = _held_straight(body, low)
                if held_deg is not None:
                    locked = first_crossing(body.time_s, overhead_deg, held_deg - HELD_WITHIN_DEG, after_s=meet, before_s=by)
            if locked is not None:
                made["lockout"] = locked
    return made


def _still_before(body: BodyMotion, off_s: float) -> float | None:
    """The last instant before lift-off at which hips, shoulders and bar stood still; or moved no faster than noise lets them seem to, less
    how long they took to get so quick."""
    # What comes after lift-off says nothing of it, but for the speed in the last frame before.
    until = slice(0, int(np.searchsorted(body.time_s, off_s, side="right")) + 2)
    time = body.time_s[until]
    speeds = {
        name: np.hypot(*np.gradient(body.place(name)[until, :2], time, axis=0).T) for name in ("hip", "shoulder", "bar")
    }  # fmt: skip
    doubts = {name: 0.0 if name == "bar" else body.doubt_m_s(name, off_s) for name in speeds}
    still = (time <= off_s) & np.all([speed < STILL_M_S + doubts[name] for name, speed in speeds.items()], axis=0)
    stood = np.flatnonzero(still)
    return min(set_out(time, speed, int(stood[-1])) for speed in speeds.values()) if len(stood) else None


def _bent_again(t: Floats, knees: Floats, start_s: float, stop_s: float) -> tuple[float, float] | None:
    """When the knees were straightest before they bent again, and when they were most bent then."""
    inside = np.flatnonzero((t >= start_s) & (t <= stop_s))
    if len(inside) < 3:
        return None
    span = knees[inside]
    closed = np.maximum.accumulate(span) - span
    again = int(np.argmax(closed))
    if not closed[again] >= REBENT_DEG:
        return None
    straight = int(np.argmax(span[: again + 1]))
    step = float(np.median(np.diff(t)))
    top = largest(t, knees, after_s=float(t[inside[straight]]) - 1.5 * step, before_s=float(t[inside[straight]]) + 1.5 * step)
    low = largest(t, -knees, after_s=float(t[inside[again]]) - 1.5 * step, before_s=float(t[inside[again]]) + 1.5 * step)
    return (top, low) if top is not None and low is not None and low > top else None


def _touch(t: Floats, gap: Floats, since_s: float, peak_s: float) -> float | None:
    """The first time that the shaft comes within 2 cm of the thigh, or when it is nearest."""
    if float(np.interp(since_s, t, gap)) <= TOUCH_M:
        return since_s
    return first_crossing(t, gap, TOUCH_M, after_s=since_s, before_s=peak_s, rising=False) or largest(
        t, -gap, after_s=since_s, before_s=peak_s
    )


def _foot_up(body: BodyMotion, stood_s: float, closing_s: float) -> float | None:
    """When the foot that steps out of a split, and has come closer to the other by a time, left the floor."""
    about = (body.time_s >= max(stood_s, closing_s - STEP_LASTS_S)) & (body.time_s <= closing_s + STEP_LASTS_S)
    side = max(("near", "far"), key=lambda side: abs(np.diff([body.at(body.x(f"{side}_mid_foot"), at) for at in (stood_s, closing_s)])[0]))
    if body.doubt_up_m("toe", closing_s) > 0:
        speed = np.abs(body.speed(body.x(f"{side}_mid_foot")))
        fastest = int(np.flatnonzero(about)[np.argmax(speed[about])])
        stood = np.flatnonzero(about[:fastest] & (speed[:fastest] < LANDED_SHARE * speed[fastest]))
        return set_out(body.time_s, speed, int(stood[-1])) if len(stood) else None
    up = about & (np.minimum(body.y(f"{side}_toe"), body.y(f"{side}_heel")) > OFF_FLOOR_M)
    return float(body.time_s[up][0]) if up.any() else None


def _foot_down(body: BodyMotion, side: str, after_s: float, before_s: float) -> float | None:
    """When a foot that was off the floor is on it again: by its height where that is known exactly; otherwise by its way over the floor,
    which is far longer and ends where it lands."""
    if body.doubt_up_m("toe", before_s) > 0:
        speed = np.abs(body.speed(body.x(f"{side}_mid_foot")))
        inside = (body.time_s >= after_s) & (body.time_s <= before_s)
        quickest = float(np.max(speed[inside], initial=0.0))
        if quickest < STEPS_M_S:
            return None
        fastest = float(body.time_s[inside][np.argmax(speed[inside])])
        return first_crossing(body.time_s, speed, LANDED_SHARE * quickest, after_s=fastest, before_s=before_s + 0.2, rising=False)
    low = np.minimum(body.y(f"{side}_toe"), body.y(f"{side}_heel"))
    inside = (body.time_s >= after_s) & (body.time_s <= before_s + 0.1)
    up = np.flatnonzero(inside & (low > OFF_FLOOR_M))
    if len(up) == 0:
        return None
    return first_crossing(body.time_s, low, OFF_FLOOR_M, after_s=float(body.time_s[up[-1]]), before_s=before_s + 0.2, rising=False)
