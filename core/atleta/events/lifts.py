"""Cut a clip into its lifts: from the floor and back to it, and the jerks done from the rack in between."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..motion import BarMotion
from ..motion.filters import runs
from .axle import continental_events, press_events
from .body import BodyHeights
from .families import FAMILY_OF_KIND, FROM_FLOOR, FROM_RACK
from .jerk import jerk_events
from .pull import pull_events, with_hold
from .search import still_since
from .squat import squat_reps

# A bar raised less than this and put down again was only moved into place.
LEAST_RISE_M = 0.30
NEAR_FLOOR_M = 0.04
# A bar that goes up from higher than this above where it lay may be stood up with.
PULLED_BELOW_M = 0.4
# A bar that moves up or down no faster than this may be at rest.
STILL_M_S = 0.08
# A lift goes on for so long after it was stood up with, or let go.
AFTERWARDS_S = 0.3
STANDS_IN_FROM_STATURE = frozenset({"knee"})


@dataclass(frozen=True)
class Lift:
    """One lift of a clip: kind, the stretch of time it takes, its events (s), and the bar's resting place before it."""

    kind: str
    start_s: float
    stop_s: float
    events_s: dict[str, float]
    rest_x_m: float
    rest_y_m: float
    height_known: bool
    """Whether the bar lay on the floor before, so that heights above the floor are known."""
    on_blocks: bool = False
    """Whether it lay on blocks instead."""
    seen_late: bool = False
    """Whether the bar was on its way up when it was first seen: when it left the floor is not known, and where it lay shows only after."""
    place: int = 0
    """Which lift of the clip it is."""

    @property
    def begins(self) -> str:
        """Where the bar was: floor, blocks or rack."""
        return "floor" if self.height_known else "blocks" if self.on_blocks else "rack"


def find_lifts(motion: BarMotion, kinds: Sequence[str], *, heights: BodyHeights | None = None, disc_radius_m: float = 0.225) -> list[Lift]:
    """Every lift of the clip, in order; empty when the bar was never raised.

    Args:
        kinds: what was lifted, in order, one kind or a complex. What comes from the floor goes with the rises from the floor, one after
            the other and the last again and again; what follows it in the rack or overhead is looked for before the bar comes down.
    """
    family = FAMILY_OF_KIND[kinds[0]]
    if family in FROM_RACK:
        return _from_rack(motion, kinds, float(motion.time_s[0]), float(motion.time_s[-1]), heights)
    if family == "squat":
        return _squats(motion, kinds[0])
    turns = _turns(kinds)
    lifts: list[Lift] = []
    for start_s, stop_s, rest_y in raised(motion):
        kind, *after = turns[min(sum(FAMILY_OF_KIND[one.kind] in FROM_FLOOR for one in lifts), len(turns) - 1)]
        events = from_floor_events(motion, kind, heights, start_s, stop_s, rest_y, disc_radius_m)
        if "lift_off" not in events:
            continue
        if FAMILY_OF_KIND[kind] != "continental":
            events = with_hold(motion, kind, events, stop_s, rest_y)
        origin_x = float(np.interp(events["lift_off"], motion.time_s, motion.x_m))
        end_s = min(stop_s, events.get("release", stop_s) + AFTERWARDS_S)
        stood = events.get("stand", events.get("shoulder"))
        followed = _from_rack(motion, after, stood - 0.05, stop_s, heights) if after and stood is not None else []
        if followed:
            events.pop("release", None)
            end_s = followed[0].start_s
        begins_s = max(start_s, events["lift_off"] - 1.0)
        late = _seen_late(motion, events["lift_off"])
        if late:
            for name in ("pull_start", "lift_off"):
                del events[name]
        lifts.append(Lift(kind, begins_s, end_s, events, origin_x, rest_y, True, seen_late=late))
        lifts.extend(followed)
    return lifts


def from_floor_events(
    motion: BarMotion, kind: str, heights: BodyHeights | None, start_s: float, stop_s: float, rest_y_m: float, disc_radius_m: float
) -> dict[str, float]:
    """Events of a lift from the floor by its kind; arguments as `pull_events` has them."""
    if FAMILY_OF_KIND[kind] == "continental":
        return continental_events(motion, heights, start_s, stop_s, rest_y_m, disc_radius_m)
    return pull_events(motion, kind, heights, start_s, stop_s, rest_y_m, disc_radius_m)


def _turns(kinds: Sequence[str]) -> list[list[str]]:
    """A complex cut where it begins at the floor: each lift from there with what follows it."""
    turns: list[list[str]] = []
    for kind in kinds:
        if FAMILY_OF_KIND[kind] not in FROM_FLOOR and turns:
            turns[-1].append(kind)
        else:
            turns.append([kind])
    return turns


def _from_rack(motion: BarMotion, kinds: Sequence[str], start_s: float, stop_s: float, heights: BodyHeights | None) -> list[Lift]:
    """Jerks, presses and squats one after another between two times; those that are not there are left out."""
    lifts: list[Lift] = []
    for place, kind in enumerate(kinds):
        if FAMILY_OF_KIND[kind] == "squat":
            found = next(iter(_squats(motion, kind, start_s, stop_s)), None)
        else:
            again = any(FAMILY_OF_KIND[later] in FROM_RACK for later in kinds[place + 1 :])
            until = _set_down(motion, start_s, stop_s) if again else stop_s
            found = _jerk(motion, kind, start_s, until) if FAMILY_OF_KIND[kind] == "jerk" else _press(motion, kind, start_s, until, heights)
        if found:
            lifts.append(found)
            start_s = found.events_s["stand"] if FAMILY_OF_KIND[kind] == "squat" else found.events_s.get("recovered", found.stop_s)
    # A squat is dropped only where nothing follows it.
    for place, one in enumerate(lifts[:-1]):
        if FAMILY_OF_KIND[one.kind] == "squat" and one.events_s.pop("release", None) is not None:
            lifts[place] = replace(one, stop_s=one.events_s["stand"] + AFTERWARDS_S)
    return lifts


def _set_down(motion: BarMotion, start_s: float, stop_s: float) -> float:
    """When a bar that was raised from the rack after a time is back there, with another lift to follow; the end where it never is."""
    t, y = motion.time_s, motion.y_m
    rack = motion.at("y_m", start_s)
    up = np.flatnonzero((t >= start_s) & (t <= stop_s) & (y > rack + LEAST_RISE_M))
    if len(up) == 0:
        return stop_s
    back = np.flatnonzero((t > t[up[0]]) & (t <= stop_s) & (y < rack + 0.10))
    return float(t[back[0]]) if len(back) else stop_s


def _squats(motion: BarMotion, kind: str, after_s: float = -np.inf, before_s: float = np.inf) -> list[Lift]:
    """Every repetition between two times; between two of them the bar stands still and belongs to the later one."""
    made: list[Lift] = []
    for events in squat_reps(motion, after_s, before_s):
        start = max(events["descent_start"] - 0.6, made[-1].stop_s if made else float(motion.time_s[0]))
        x = motion.at("x_m", events["descent_start"])
        stop = events.get("release", events["stand"]) + AFTERWARDS_S
        made.append(Lift(kind, start, stop, events, x, motion.at("raw_y_m", events["descent_start"]), False))
    return made


def _seen_late(motion: BarMotion, lift_off_s: float) -> bool:
    first, second = motion.time_s[:2]
    return bool(lift_off_s < second + (second - first) / 2 and motion.vy_m_s[0] > STILL_M_S)


def raised(motion: BarMotion) -> list[tuple[float, float, float]]:
    """Stretches from the floor up and back: (start, stop, resting height), times in s. One that was not seen to begin is left out, unless
    the bar is on its way up when it is first seen, and where the floor is shows later."""
    t, y = motion.time_s, motion.y_m
    still = np.abs(motion.vy_m_s) < STILL_M_S
    low = still & (y < y.min() + 0.25 * (y.max() - y.min()))
    floor = float(np.median(y[low])) if low.any() else float(y.min())
    up = y > floor + NEAR_FLOOR_M
    found = []
    for first, last in runs(up):
        if float(y[first:last].max()) - floor < LEAST_RISE_M:
            continue
        if first == 0 and not (motion.vy_m_s[0] > STILL_M_S and y[0] < floor + PULLED_BELOW_M and low[last:].any()):
            continue
        before = (t < t[first] - 0.15) & (t > t[first] - 1.5) & (np.abs(motion.raw_y_m - floor) < NEAR_FLOOR_M)
        rest = float(np.median(motion.raw_y_m[before])) if before.sum() >= 3 else floor
        # Not further back than to where the bar last came down.
        down = np.flatnonzero(up[:first])
        start = max(float(t[max(first - 1, 0)]) - 1.5, float(t[down[-1] + 1]) if len(down) else float(t[0]))
        found.append((start, float(t[last - 1]), rest))
    return found


def _jerk(motion: BarMotion, kind: str, start_s: float, stop_s: float) -> Lift | None:
    """A jerk between two times: the bar still, a dip, and a drive faster than any standing up."""
    t = motion.time_s
    inside = (t >= start_s) & (t <= stop_s)
    if inside.sum() < 15 or float(motion.vy_m_s[inside].max()) < 0.7:
        return None
    calm = still_since(t, motion.y_m, after_s=start_s, within=0.01, for_s=0.15)
    if calm is None or calm > stop_s:
        return None
    events = jerk_events(motion, calm, stop_s)
    if "dip_start" not in events:
        return None
    rack = (t >= calm) & (t <= events["dip_start"])
    x, y = float(np.median(motion.x_m[rack])), float(np.median(motion.raw_y_m[rack]))
    return Lift(kind, max(calm, events["dip_start"] - 0.6), stop_s, events, x, y, False)


def _press(motion: BarMotion, kind: str, start_s: float, stop_s: float, heights: BodyHeights | None) -> Lift | None:
    """A press between two times: from rest on the shoulders to overhead, without a dip before."""
    events = press_events(motion, heights.stature_m if heights else None, start_s, stop_s)
    if not events:
        return None
    rack = (motion.time_s >= events["rack"]) & (motion.time_s <= events["press_start"])
    x, y = float(np.median(motion.x_m[rack])), float(np.median(motion.raw_y_m[rack]))
    return Lift(kind, max(events["rack"], events["press_start"] - 0.6), stop_s, events, x, y, False)
