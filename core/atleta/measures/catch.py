"""Measures of going under the bar, receiving it and standing up."""

from __future__ import annotations

import numpy as np

from ..events import OVERHEAD, RECEIVED
from ..events.joints import KNOWN_M, LOCKED_DEG, OFF_FLOOR_M
from .posture import CM, depth_cm, most, rise_ratio, stretch
from .registry import LiftData, Value, measure

CLEANS = frozenset({"clean", "power_clean", "muscle_clean"})
SNATCHED = RECEIVED & OVERHEAD
RACKED = CLEANS | {"front_squat"}


@measure("feet_shift", "Feet moved", "cm", needs=("lift_off", "bottom"), requires=("joints",))
def feet_shift(data: LiftData) -> Value:
    """Mid-foot in the catch in front of (+) where it was before lift-off."""
    foot = data.lifter.x("mid_foot")
    when = data.events_s["bottom"]
    return Value(CM * (data.lifter.at(foot, when) - data.lifter.at(foot, data.events_s["lift_off"])), when)


@measure("depth", "Depth", "cm", families=("pull", "squat"), needs=("bottom",), requires=("joints",))
def depth(data: LiftData) -> Value:
    """Hip crease below (+) the top of the knee at the bottom."""
    return Value(data.lifter.at(depth_cm(data.lifter), data.events_s["bottom"]), data.events_s["bottom"])


@measure("overpull", "Apex above the shoulders that met it", "cm", needs=("apex", "meet"), requires=("joints",), kinds=CLEANS)
def overpull(data: LiftData) -> Value:
    """How far above the shoulders that met it the bar had been pulled."""
    body = data.lifter
    return Value(
        CM * (body.at(body.y("bar"), data.events_s["apex"]) - body.at(body.y("shoulder"), data.events_s["meet"])), data.events_s["apex"]
    )


@measure("bar_shoulder_gap", "Bar from the shoulders, turning over", "cm", needs=("apex", "meet"), requires=("joints",), kinds=CLEANS)
def bar_shoulder_gap(data: LiftData) -> Value | None:
    """Largest distance from bar to shoulder joint between apex and meeting."""
    body = data.lifter
    far = np.hypot(body.x("bar") - body.x("shoulder"), body.y("bar") - body.y("shoulder"))
    return most(data, far, data.events_s["apex"], data.events_s["meet"], CM)


@measure(
    "front_rack_elbow", "Upper arm in the rack", "°", families=("pull", "squat"), needs=("bottom",), requires=("joints",), kinds=RACKED
)
def front_rack_elbow(data: LiftData) -> Value | None:
    """Upper arm above (+) the horizontal in the rack; not of an elbow that the disc hides."""
    body, when = data.lifter, data.events_s["bottom"]
    away = np.hypot(body.x("elbow") - body.x("bar"), body.y("elbow") - body.y("bar"))
    if body.doubt_m("elbow") > KNOWN_M and body.at(away, when) < data.disc_radius_m:
        return None
    return Value(data.lifter.at(data.lifter.angle("shoulder", "elbow"), data.events_s["bottom"]), data.events_s["bottom"])


@measure("press_out", "Pressed out", "°", families=("pull", "jerk"), needs=("meet", "low_point"), requires=("joints",),
         kinds=SNATCHED | {"split_jerk", "power_jerk", "squat_jerk"})  # fmt: skip
def press_out(data: LiftData) -> Value | None:
    """Elbow extension made after the shoulders stopped sinking: what a referee sees. An aid; the rules and the referees decide."""
    elbow, low = data.lifter.elbow, data.events_s["low_point"]
    at_low = data.lifter.at(elbow, low)
    if at_low >= LOCKED_DEG:
        return Value(0.0, low)
    here = stretch(data, low, data.events_s.get("stand", data.events_s.get("recovered", low + 1.0)))
    locked = next((k for k, i in enumerate(here) if elbow[i] >= LOCKED_DEG), len(here) - 1)
    if len(here) == 0:
        return None
    return Value(max(float(elbow[here[: locked + 1]].max()) - at_low, 0.0), float(data.lifter.time_s[here[locked]]))


@measure("elbow_lock_delay", "Elbows locked after the meeting", "ms", families=("pull", "jerk"), needs=("meet", "lockout"),
         requires=("joints",), kinds=SNATCHED | {"split_jerk", "power_jerk", "squat_jerk"})  # fmt: skip
def elbow_lock_delay(data: LiftData) -> Value:
    """How long after the meeting the elbows reach 170°."""
    return Value(1000 * (data.events_s["lockout"] - data.events_s["meet"]), data.events_s["lockout"])


@measure("wrist_offset@bottom", "Bar ahead of the wrist", "cm", families=("pull", "squat"), needs=("bottom",), requires=("joints",),
         kinds=SNATCHED | {"overhead_squat"})  # fmt: skip
def wrist_offset(data: LiftData) -> Value:
    """Bar in front of (+) the wrist joint overhead."""
    body = data.lifter
    return Value(CM * body.at(body.x("bar") - body.x("wrist"), data.events_s["bottom"]), data.events_s["bottom"])


@measure("feet_air_time", "Feet off the floor", "ms", needs=("peak_speed", "meet"), requires=("joints",))
def feet_air_time(data: LiftData) -> Value:
    """How long both feet are off the floor around the apex."""
    body, t = data.lifter, data.lifter.time_s
    here = (t >= data.events_s["peak_speed"] - 0.1) & (t <= data.events_s["meet"])
    low = np.max([np.minimum(body.y(f"{side}_toe"), body.y(f"{side}_heel")) for side in ("near", "far")], axis=0)
    return Value(1000 * float(np.sum(here & (low > OFF_FLOOR_M)) * np.median(np.diff(t))), data.events_s["peak_speed"])


@measure("hip_shoulder_rise_ratio@stand", "Hips against shoulders, standing up", "–", families=("pull", "squat"), needs=("bottom", "stand"),
         requires=("joints",))  # fmt: skip
def hip_shoulder_rise_ratio_stand(data: LiftData) -> Value | None:
    """Rise of the hips over rise of the shoulders in the first third of standing up: 1 is together."""
    t, y = data.motion.time_s, data.motion.y_m
    bottom, stand = data.events_s["bottom"], data.events_s["stand"]
    low, tall = data.at("y_m", "bottom"), data.at("y_m", "stand")
    third = np.flatnonzero((t > bottom) & (t < stand) & (y > low + (tall - low) / 3))
    if len(third) == 0:
        return None
    # A pause in the bottom is no part of standing up: the rise begins where the bar was last at its lowest.
    down = np.flatnonzero((t >= bottom) & (t <= t[third[0]]) & (y < low + 0.01))
    return rise_ratio(data, float(t[down[-1]]) if len(down) else bottom, float(t[third[0]]))


@measure("stand_peak_speed", "Peak velocity standing up", "m/s", families=("pull", "squat"), needs=("bottom", "stand"))
def stand_peak_speed(data: LiftData) -> Value:
    """Largest upward bar speed while standing up."""
    here = data.between("bottom", "stand")
    top = int(here[np.argmax(data.motion.vy_m_s[here])])
    return Value(float(data.motion.vy_m_s[top]), float(data.motion.time_s[top]))
