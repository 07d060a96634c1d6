"""Measures of lifts by way of the belt, and of presses."""

from __future__ import annotations

from .posture import CM, most
from .registry import LiftData, Value, measure

CONTINENTAL, PRESS = ("continental",), ("press",)
# From the ear's opening to the top of the head, of stature; a published table.
TOP_ABOVE_EAR = 0.075


@measure("belt_rest", "Rest on the belt", "s", families=CONTINENTAL, needs=("belt", "regrip"))
def belt_rest(data: LiftData) -> Value:
    """How long the bar lies on the belt while the hands change."""
    return Value(data.events_s["regrip"] - data.events_s["belt"], data.events_s["belt"])


@measure("belt_height", "Height of the belt", "cm", families=CONTINENTAL, needs=("belt",), requires=("floor",))
def belt_height(data: LiftData) -> Value:
    """How high above the floor the bar lies on the belt."""
    return Value(CM * data.at("y_m", "belt"), data.events_s["belt"])


@measure("peak_velocity_from_belt", "Peak velocity from the belt", "m/s", families=CONTINENTAL, needs=("regrip", "shoulder"))
def peak_velocity_from_belt(data: LiftData) -> Value:
    """The bar's largest upward speed between belt and shoulders."""
    return data.fastest("regrip", "shoulder")


@measure(
    "elbow_close_before_shrug", "Elbows close before the shrug", "°", families=CONTINENTAL, needs=("regrip", "extension"),
    requires=("joints",),
)  # fmt: skip
def elbow_close_before_shrug(data: LiftData) -> Value | None:
    """By how much the elbows have closed since the belt, until legs and hips are straight and the shoulders rise."""
    elbow, left = data.lifter.elbow, data.events_s["regrip"]
    return most(data, data.lifter.at(elbow, left) - elbow, left, data.events_s["extension"])


@measure("press_time", "From the shoulders to overhead", "s", families=PRESS, needs=("press_start", "recovered"))
def press_time(data: LiftData) -> Value:
    """How long the press takes, until the bar is at rest overhead."""
    return Value(data.events_s["recovered"] - data.events_s["press_start"], data.events_s["recovered"])


@measure("press_peak_speed", "Peak velocity of the press", "m/s", families=PRESS, needs=("press_start", "recovered"))
def press_peak_speed(data: LiftData) -> Value:
    """The bar's largest upward speed on its way overhead."""
    return data.fastest("press_start", "recovered")


@measure(
    "press_bar_forward", "Bar ahead of the hips, pressed", "cm", families=PRESS, needs=("press_start", "recovered"), requires=("joints",)
)
def press_bar_forward(data: LiftData) -> Value | None:
    """How far the bar is ahead of the hips from the top of the head to rest overhead, on average; lower it has to pass the face."""
    body, up = data.lifter, data.events_s["recovered"]
    inside = (body.time_s >= data.events_s["press_start"]) & (body.time_s <= up)
    over = inside & (body.y("bar") > body.y("ear") + TOP_ABOVE_EAR * body.stature_m)
    if not over.any():
        return None
    return Value(CM * float((body.x("bar") - body.x("hip"))[over].mean()), up)
