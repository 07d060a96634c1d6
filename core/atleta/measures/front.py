"""Measures of a lift filmed from the front or from behind: how level the bar is, and where knees, feet and hands are to either side."""

from __future__ import annotations

import numpy as np

from .posture import Floats
from .registry import LiftData, Value, measure

FAMILIES = ("pull", "jerk", "squat")
# From what a lift begins with to what it ends with, as its family has it: a bar that is let go may tilt.
BEGINS, ENDS = ("lift_off", "pull_start", "dip_start", "descent_start"), ("stand", "recovered", "low_point", "bottom", "apex")


def _largest(data: LiftData, series: Floats, start_s: float, stop_s: float) -> Value | None:
    """The largest value of a series between two times, and when."""
    time = data.seen_from_front.time_s
    here = np.flatnonzero((time >= start_s) & (time <= stop_s) & np.isfinite(series))
    if len(here) == 0:
        return None
    top = int(here[np.argmax(series[here])])
    return Value(float(series[top]), float(time[top]))


@measure("bar_tilt_max", "Bar out of level", "°", families=FAMILIES, requires=("front",))
def bar_tilt_max(data: LiftData) -> Value | None:
    """How far the bar tilts to either side at most while it is lifted and held."""
    starts, stops = ([data.events_s[name] for name in names if name in data.events_s] for names in (BEGINS, ENDS))
    return _largest(data, data.seen_from_front.tilt_deg, min(starts), max(stops)) if starts and stops else None


@measure(
    "knee_track", "Knees inside hip and ankle", "cm", families=("pull", "squat"), needs=("bottom", "stand"), requires=("front", "face")
)
def knee_track(data: LiftData) -> Value | None:
    """How far the knees fall inside the lines from hips to ankles on the way up, the mean of both; negative is outside."""
    return _largest(data, data.seen_from_front.knees_in_cm, data.events_s["bottom"], data.events_s["stand"])


def _feet(event: str, called: str, families: tuple[str, ...]) -> None:
    @measure(f"stance_width@{event}", f"Feet apart {called}", "cm", families=families, needs=(event,), requires=("front", "face"))
    def feet_apart(data: LiftData) -> Value:
        """From ankle to ankle, to the side."""
        return _at(data, data.seen_from_front.feet_apart_cm, event)

    @measure(f"stance_share@{event}", f"Feet apart {called}, of stature", "–", families=families, needs=(event,),
             requires=("front", "face", "stature"))  # fmt: skip
    def share(data: LiftData) -> Value:
        """From ankle to ankle, as a share of stature."""
        return _of_stature(data, _at(data, data.seen_from_front.feet_apart_cm, event))


for _event, _called, _families in (
    ("lift_off", "at lift-off", ("pull",)), ("bottom", "at the bottom", ("pull", "squat")), ("dip_start", "before the dip", ("jerk",)),
    ("descent_start", "before the descent", ("squat",)),
):  # fmt: skip
    _feet(_event, _called, _families)


@measure("grip_width", "Hands apart", "cm", needs=("lift_off",), requires=("front", "face"))
def grip_width(data: LiftData) -> Value:
    """From hand to hand, before the lift begins; of hands that hold a bar on the shoulders it is not told well."""
    return _at(data, data.seen_from_front.hands_apart_cm, "lift_off")


@measure("grip_share", "Hands apart, of stature", "–", needs=("lift_off",), requires=("front", "face", "stature"))
def grip_share(data: LiftData) -> Value:
    """From hand to hand, before the lift begins, as a share of stature."""
    return _of_stature(data, _at(data, data.seen_from_front.hands_apart_cm, "lift_off"))


def _of_stature(data: LiftData, apart: Value) -> Value:
    return Value(apart.value / (100 * float(data.stature_m or np.nan)), apart.time_s)


def _at(data: LiftData, series: Floats, event: str) -> Value:
    return Value(data.seen_from_front.at(series, data.events_s[event]), data.events_s[event])
