"""Measures of paused work: how long, how high, and whether the shape is kept after the first third of the hold."""

from __future__ import annotations

import numpy as np

from .posture import CM, stretch
from .registry import LiftData, Value, measure

FAMILIES, HELD = ("pull", "squat"), ("hold_start", "hold_end")


def _third_s(data: LiftData) -> float:
    start, stop = (data.events_s[name] for name in HELD)
    return start + (stop - start) / 3


@measure("hold_time", "Held for", "s", families=FAMILIES, needs=HELD)
def hold_time(data: LiftData) -> Value:
    """How long the bar is held still."""
    return Value(data.events_s["hold_end"] - data.events_s["hold_start"], data.events_s["hold_end"])


@measure("hold_height", "Held at", "cm", families=FAMILIES, needs=HELD, requires=("floor",))
def hold_height(data: LiftData) -> Value:
    """Bar above the floor when the hold begins."""
    return Value(CM * data.at("y_m", "hold_start"), data.events_s["hold_start"])


@measure("hold_drift_bar", "Bar drifts forward, held", "cm", families=FAMILIES, needs=HELD)
def hold_drift_bar(data: LiftData) -> Value | None:
    """How far the bar goes forward after the first third of the hold."""
    t = data.motion.time_s
    here = np.flatnonzero((t >= _third_s(data)) & (t <= data.events_s["hold_end"]))
    if len(here) == 0:
        return None
    x = data.motion.x_m[here]
    top = int(np.argmax(x))
    return Value(CM * float(x[top] - x[0]), float(t[here[top]]))


@measure("hold_drift_trunk", "Trunk tips, held", "°", families=FAMILIES, needs=HELD, requires=("joints",))
def hold_drift_trunk(data: LiftData) -> Value | None:
    """How far the trunk tips forward after the first third of the hold."""
    body = data.lifter
    here = stretch(data, _third_s(data), data.events_s["hold_end"])
    if len(here) == 0:
        return None
    low = int(np.argmin(body.trunk[here]))
    return Value(float(body.trunk[here[0]] - body.trunk[here[low]]), float(body.time_s[here[low]]))


@measure("hold_settle", "Settles back, held", "cm", families=FAMILIES, needs=HELD)
def hold_settle(data: LiftData) -> Value:
    """How far the bar moves, forward or back, in the first third of the hold: settling into shape is what a pause is for."""
    return Value(CM * abs(data.motion.at("x_m", _third_s(data)) - data.at("x_m", "hold_start")), _third_s(data))
