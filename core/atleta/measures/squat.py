"""Measures of squats and of dips from the rack."""

from __future__ import annotations

import numpy as np

from ..events.search import first_crossing
from ..motion import brake
from .posture import CM, stretch
from .registry import LiftData, Value, measure

SQUAT = ("squat",)
AT_ITS_FASTEST = 0.98


@measure("torso_shin_difference", "Trunk flatter than the shin", "°", families=SQUAT, needs=("bottom",), requires=("joints",))
def torso_shin_difference(data: LiftData) -> Value:
    """How much flatter (+) than the shin the trunk is at the bottom; 0 is parallel."""
    body, when = data.lifter, data.events_s["bottom"]
    return Value(body.at(body.angle("ankle", "knee") - body.trunk, when), when)


def _fastest_down(data: LiftData) -> tuple[float, float, float]:
    """The largest speed downwards (m/s), when it was last there (s), and how far above the bottom (m)."""
    motion, bottom_s = data.motion, data.events_s["bottom"]
    path, t = data.between("descent_start", "bottom"), motion.time_s
    down = -motion.vy_m_s
    fastest = data.fastest("descent_start", "bottom", up=False)
    level = AT_ITS_FASTEST * fastest.value
    # It may have been so fast between two frames and in neither of them.
    last = max([fastest.time_s, *t[path[down[path] >= level]]])
    slower = first_crossing(t, down, level, after_s=last, before_s=bottom_s, rising=False)
    last = float(last) if slower is None else slower
    sudden = brake(t, motion.raw_y_m, share=AT_ITS_FASTEST, falls_at_s=last, lowest_s=bottom_s, noise_m=motion.noise_m)
    if sudden:
        return sudden.speed_m_s, last, sudden.way_m
    return fastest.value, last, motion.at("y_m", last) - data.at("y_m", "bottom")


@measure("sink_speed", "Fastest way down", "m/s", families=SQUAT, needs=("descent_start", "bottom"))
def sink_speed(data: LiftData) -> Value:
    """Largest downward speed on the way down."""
    fastest, last, _ = _fastest_down(data)
    return Value(fastest, last)


@measure("brake_distance", "Braked over", "cm", families=SQUAT, needs=("descent_start", "bottom"))
def brake_distance(data: LiftData) -> Value:
    """Height above the bottom at which the way down was last at its fastest."""
    _, last, left = _fastest_down(data)
    return Value(CM * left, last)


@measure("bar_off_midfoot", "Bar drifts off mid-foot", "cm", families=SQUAT, needs=("descent_start", "stand"), requires=("joints",))
def bar_off_midfoot(data: LiftData) -> Value | None:
    """Furthest the bar goes forward or back over the foot from where it was before the descent."""
    body, start = data.lifter, data.events_s["descent_start"]
    here = stretch(data, start, data.events_s["stand"])
    if len(here) == 0:
        return None
    over = body.x("bar") - body.x("mid_foot")
    drift = np.abs(over[here] - body.at(over, start))
    top = int(np.argmax(drift))
    return Value(CM * float(drift[top]), float(body.time_s[here[top]]))
