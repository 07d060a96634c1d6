"""Made or missed, as the bar's way shows it: proposed to the coach, who was there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..motion import BarMotion
from .families import FAMILY_OF_KIND, FROM_RACK, OVERHEAD, RECEIVED
from .lifts import Lift

BROUGHT_UP = FROM_RACK | {"continental"}
# A bar that has come down this far below its highest point without being stood up with was let go.
LET_GO_M = 0.45
# And one let go this far in front of or behind where it was met went that way.
AWAY_M = 0.08
# A bar that was stood up with stays up at least so long.
UP_S = 0.3
# A bar met only after such a fall was never got under.
NEVER_UNDER_M = 0.35


@dataclass(frozen=True)
class Outcome:
    """Whether a lift was made, and how it was missed (`forward`, `behind`, `short`; empty when it was made or that does not show)."""

    made: bool
    how: str = ""


def outcome_of(motion: BarMotion, lift: Lift, arms_seen: bool = False) -> Outcome | None:
    """What became of a lift that is received, or brought to the shoulders or from there overhead; None for other lifts, where the clip ends
    before it shows, and for presses and ways by the belt that were not made, of which the bar shows too little.

    Args:
        motion: y counted upwards, from anywhere.
        arms_seen: the joints tell when the elbows lock, so that a lift without `lockout` is one in which they did not.
    """
    events = lift.events_s
    if lift.kind not in RECEIVED and FAMILY_OF_KIND[lift.kind] not in BROUGHT_UP:
        return None
    t, y = motion.time_s, motion.y_m
    up = next((events[name] for name in ("stand", "recovered", "shoulder") if name in events), None)
    if up is not None:
        after = t[(t >= up) & (y < motion.at("y_m", up) - 0.1)]
        # The bar comes down at last; or the clip, or the next lift of the complex, ends this one.
        if not len(after) or float(after[0]) - up >= UP_S:
            return Outcome(True)
    if "apex" not in events:
        return None
    top = motion.at("y_m", events["apex"])
    later = (t > events["apex"]) & (t <= lift.stop_s + UP_S)
    if not later.any() or top - float(y[later].min()) < LET_GO_M:
        return None
    met = events.get("meet")
    if met is None or top - motion.at("y_m", met) > NEVER_UNDER_M:
        return Outcome(False, "short")
    if arms_seen and FAMILY_OF_KIND[lift.kind] == "jerk" and "lockout" not in events:
        return Outcome(False, "short")
    down = int(np.flatnonzero(later & (y <= top - LET_GO_M))[0])
    off = float(motion.x_m[down]) - motion.at("x_m", met)
    if lift.kind in OVERHEAD and off < -AWAY_M:
        return Outcome(False, "behind")
    return Outcome(False, "forward" if off > AWAY_M else "")
