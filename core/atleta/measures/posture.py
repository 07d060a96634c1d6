"""What every file of joint measures uses: how a relation or an angle is read at an event."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..motion import BodyMotion
from .registry import LiftData, Value, measure

Floats = NDArray[np.float64]
Read = Callable[[BodyMotion], Floats]

CM = 100.0
# A rise of the shoulders smaller than this is no rise to hold the hips' against.
LEAST_RISE_M = 0.02


def at_event(name: str, label: str, unit: str, read: Read, event: str, called: str, about: str, *, families: tuple[str, ...]) -> None:
    """Register `name@event`: a series of the lifter read at an event."""

    def found(data: LiftData) -> Value:
        return Value(data.lifter.at(data.lifter.known(read), data.events_s[event]), data.events_s[event])

    found.__doc__ = about
    measure(f"{name}@{event}", f"{label} {called}", unit, families=families, needs=(event,), requires=("joints",))(found)


def stretch(data: LiftData, start_s: float, stop_s: float) -> NDArray[np.intp]:
    """Frames from one time to another in which the lifter is known."""
    t = data.lifter.time_s
    return np.flatnonzero((t >= start_s) & (t <= stop_s) & np.isfinite(data.lifter.points[:, 0, 0]))


def first_past(time_s: Floats, over: Floats) -> float | None:
    """When a series first is above 0, between two frames where it was not before (s); None where it never is."""
    return _passed(time_s, over, int(np.argmax(over > 0))) if (over > 0).any() else None


def past_until(time_s: Floats, over: Floats, last: int) -> float | None:
    """When a series came above 0 to stay there until the frame `last`; None where it is not above then. What was above for a moment before
    that, and no longer, is not it."""
    if not over[last] > 0:
        return None
    before = np.flatnonzero(~(over[:last] > 0))
    return _passed(time_s, over, int(before[-1]) + 1 if len(before) else 0)


def _passed(time_s: Floats, over: Floats, first: int) -> float:
    if first == 0 or not np.isfinite(over[first - 1]):
        return float(time_s[first])
    return float(np.interp(0.0, over[first - 1 : first + 1], time_s[first - 1 : first + 1]))


def most(data: LiftData, series: Floats, start_s: float, stop_s: float, scale: float = 1.0, least: float = -np.inf) -> Value | None:
    """The largest value of a series between two times, both counted in, and when."""
    body, here = data.lifter, stretch(data, start_s, stop_s)
    if len(here) == 0:
        return None
    top = int(here[np.argmax(series[here])])
    # What is quickest at an event is not at its largest in the last frame before it, nor what is short in any frame.
    apart = (body.time_s[1] - body.time_s[0]) * np.array([-0.75, -0.5, -0.25, 0.25, 0.5, 0.75])
    about = np.clip(body.time_s[top] + apart, start_s, stop_s)
    others = [(body.at(series, float(when)), float(when)) for when in (start_s, stop_s, *about)]
    value, when = max([(float(series[top]), float(body.time_s[top])), *(other for other in others if np.isfinite(other[0]))])
    return Value(max(scale * value, least), when)


def change(data: LiftData, series: Floats, first: str, then: str, scale: float = 1.0) -> Value:
    """How much a series has grown from one event to another."""
    body = data.lifter
    return Value(scale * (body.at(series, data.events_s[then]) - body.at(series, data.events_s[first])), data.events_s[then])


def depth_cm(body: BodyMotion) -> Floats:
    """Hip crease below the top of the knee, cm: the crease is the hip joint raised by 4 % of the thigh along the trunk, the top of the knee
    5 cm above its joint."""
    along = (body.place("shoulder") - body.place("hip"))[:, 1] / np.linalg.norm((body.place("shoulder") - body.place("hip"))[:, :2], axis=1)
    crease = body.y("hip") + 0.04 * body.segments_m["thigh"] * along
    return np.asarray(CM * (body.y("knee") + 0.05 - crease))


ANGLES: dict[str, tuple[str, Read, str]] = {
    "trunk_angle": ("Trunk", lambda b: b.trunk, "Hip to shoulder against the horizontal: 90 is upright."),
    "shin_angle": ("Shin", lambda b: b.angle("ankle", "knee"), "Ankle to knee against the horizontal: 90 is upright."),
    "thigh_angle": (
        "Thigh",
        lambda b: b.angle("knee", "hip") % 360,
        "Knee to hip against the horizontal: 90 is upright, 180 level, above it hips below knees.",
    ),
    "knee_angle": ("Knee", lambda b: b.knee, "Included angle at the knee: 180 is straight."),
    "hip_angle": ("Hip", lambda b: b.hip, "Included angle at the hip: 180 is straight."),
    "ankle_angle": (
        "Ankle",
        lambda b: b.bend("knee", "ankle", "toe"),
        "Included angle at the ankle, shin against foot: small is far forward.",
    ),
    "elbow_angle": ("Elbow", lambda b: b.elbow, "Included angle at the elbow, in space: 180 is straight."),
}
# Where arms hang from the shoulders or hold a bar up: in the rack a disc hides elbows, and `front_rack_elbow` says when it does not.
UPPER_ARM_AT = frozenset({"lift_off", "knee", "first_pull_end", "rebend", "contact", "extension", "lockout"})
UPPER_ARM = (
    "upper_arm_angle", "Upper arm", "°", lambda b: b.angle("shoulder", "elbow"),
    "Shoulder to elbow against the horizontal: −90 hangs straight down, 90 is straight up.",
)  # fmt: skip
RELATIONS: dict[str, tuple[str, Read, str]] = {
    "shoulder_over_bar": (
        "Shoulder ahead of the bar",
        lambda b: CM * (b.x("shoulder") - b.x("bar")),
        "Shoulder joint in front of (+) the bar.",
    ),
    "knee_over_bar": ("Knee ahead of the bar", lambda b: CM * (b.x("knee") - b.x("bar")), "Knee joint in front of (+) the bar."),
    "hip_bar_distance": (
        "Hip to bar",
        lambda b: CM * (b.x("bar") - b.x("hip")),
        "Hip joint to bar, horizontally: the lever on the low back.",
    ),
    "bar_over_ball": (
        "Bar over the ball of the foot",
        lambda b: CM * (b.x("bar") - b.x("ball")),
        "Bar in front of (+) the ball of the foot.",
    ),
    "bar_over_midfoot": ("Bar over mid-foot", lambda b: CM * (b.x("bar") - b.x("mid_foot")), "Bar in front of (+) the middle of the foot."),
    "hip_height": ("Hip height", lambda b: CM * b.y("hip"), "Hip joint above the floor."),
    "hip_above_knee": ("Hip above the knee", lambda b: CM * (b.y("hip") - b.y("knee")), "Hip joint above (+) the knee joint."),
}
# Those that are drawn as distances at every frame.
DRAWN = ("shoulder_over_bar", "knee_over_bar", "hip_bar_distance", "bar_over_midfoot")
_EVENTS = (
    ("lift_off", "at lift-off", ("pull", "continental")), ("knee", "at the knee", ("pull", "continental")),
    ("first_pull_end", "at the end of the first pull", ("pull",)), ("rebend", "at the re-bend", ("pull",)),
    ("contact", "at contact", ("pull",)),
    ("belt", "on the belt", ("continental",)), ("regrip", "off the belt", ("continental",)),
    ("extension", "at the extension", ("pull", "continental")), ("shoulder", "on the shoulders", ("continental",)),
    ("apex", "at the apex", ("pull",)),
    ("meet", "at the meeting", ("pull",)), ("descent_start", "before the descent", ("squat",)),
    ("bottom", "at the bottom", ("pull", "squat")), ("dip_start", "before the dip", ("jerk",)), ("dip_bottom", "in the dip", ("jerk",)),
    ("drive_end", "at the end of the drive", ("jerk",)), ("low_point", "at the lowest point", ("jerk",)),
    ("press_start", "before the press", ("press",)), ("lockout", "at lockout", ("jerk", "press")),
)  # fmt: skip
for _event, _called, _families in _EVENTS:
    for _name, (_label, _read, _about) in ANGLES.items():
        at_event(_name, _label, "°", _read, _event, _called, _about, families=_families)
    if _event in UPPER_ARM_AT:
        _name, _label, _unit, _read, _about = UPPER_ARM
        at_event(_name, _label, _unit, _read, _event, _called, _about, families=_families)
    if {"pull", "squat", "continental"} & {*_families}:
        for _name, (_label, _read, _about) in RELATIONS.items():
            at_event(_name, _label, "cm", _read, _event, _called, _about, families=_families)


def drawn_relations(body: BodyMotion) -> dict[str, tuple[Floats, Floats]]:
    """The relations that are `DRAWN`, by name, in every frame, and how far each may be off there: `(frames,)` each, cm; NaN where nothing
    is known of the lifter."""
    reads = {name: RELATIONS[name][1] for name in DRAWN}
    return {name: (body.known(read), body.doubt_of(read)) for name, read in reads.items()}
