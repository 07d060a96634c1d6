"""Measures of going under the bar, receiving it and standing up."""

from __future__ import annotations

import numpy as np

from ..events import OVERHEAD, RECEIVED
from ..events.joints import KNOWN_M, LOCKED_DEG, OFF_FLOOR_M
from ..events.search import first_crossing
from .posture import CM, LEAST_RISE_M, depth_cm, most, stretch
from .registry import LiftData, Value, measure

CLEANS = frozenset({"clean", "power_clean", "muscle_clean"})
SNATCHED = RECEIVED & OVERHEAD
JERKED = frozenset({"split_jerk", "power_jerk", "squat_jerk"})
# A bar that moves less than this is held still.
STILL_M_S = 0.06
BEFORE_RELEASE_S = 0.1
# Elbows known less well than this only seem to be pressed: what moves is then the doubt (measured on simulated clips).
PRESSED_DEG = 5.0
SIDES = ("near", "far")
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
    """Upper arm above (+) the horizontal in the rack; not of an elbow that is only guessed, as beside a disc all are."""
    if data.lifter.doubt_m("elbow") > KNOWN_M:
        return None
    return Value(data.lifter.at(data.lifter.angle("shoulder", "elbow"), data.events_s["bottom"]), data.events_s["bottom"])


@measure("press_out", "Pressed out", "°", families=("pull", "jerk"), needs=("meet", "low_point"), requires=("joints",),
         kinds=SNATCHED | JERKED)  # fmt: skip
def press_out(data: LiftData) -> Value | None:
    """Elbow extension made after the shoulders stopped sinking: what a referee sees. An aid; the rules and the referees decide."""
    elbow, low = data.lifter.elbow, data.events_s["low_point"]
    at_low = data.lifter.at(elbow, low)
    if data.lifter.doubt_deg("elbow", low) > PRESSED_DEG:
        return None
    if at_low >= LOCKED_DEG:
        return Value(0.0, low)
    here = stretch(data, low, data.events_s.get("stand", data.events_s.get("recovered", low + 1.0)))
    locked = next((k for k, i in enumerate(here) if elbow[i] >= LOCKED_DEG), len(here) - 1)
    if len(here) == 0:
        return None
    return Value(max(float(elbow[here[: locked + 1]].max()) - at_low, 0.0), float(data.lifter.time_s[here[locked]]))


@measure("elbow_lock_delay", "Elbows locked after the meeting", "ms", families=("pull", "jerk"), needs=("meet", "lockout"),
         requires=("joints",), kinds=SNATCHED | JERKED)  # fmt: skip
def elbow_lock_delay(data: LiftData) -> Value:
    """How long after the meeting the elbows reach 170°."""
    return Value(1000 * (data.events_s["lockout"] - data.events_s["meet"]), data.events_s["lockout"])


def _wrist_offset(event: str, families: tuple[str, ...], kinds: frozenset[str]) -> None:
    @measure(f"wrist_offset@{event}", f"Bar ahead of the wrist at the {event}", "cm", families=families, needs=(event,),
             requires=("joints",), kinds=kinds)  # fmt: skip
    def wrist_offset(data: LiftData) -> Value:
        """Bar in front of (+) the wrist joint overhead."""
        body = data.lifter
        return Value(CM * body.at(body.x("bar") - body.x("wrist"), data.events_s[event]), data.events_s[event])


_wrist_offset("bottom", ("pull", "squat"), SNATCHED | {"overhead_squat"})
_wrist_offset("lockout", ("jerk",), JERKED)


@measure("bar_shoulder_offset@rack", "Bar ahead of the shoulder in the rack", "cm", families=("pull", "jerk", "squat"),
         requires=("joints",), kinds=RACKED | JERKED)  # fmt: skip
def bar_shoulder_offset(data: LiftData) -> Value | None:
    """Bar in front of (+) the shoulder joint where it sits on the shoulders: before the dip, or at the bottom."""
    when = data.events_s.get("dip_start", data.events_s.get("bottom"))
    body = data.lifter
    return None if when is None else Value(CM * body.at(body.x("bar") - body.x("shoulder"), when), when)


@measure("feet_air_time", "Feet off the floor", "ms", needs=("peak_speed", "meet"), requires=("joints",))
def feet_air_time(data: LiftData) -> Value | None:
    """How long both feet are off the floor around the apex; of feet that are known to a few millimetres."""
    body, t = data.lifter, data.lifter.time_s
    if body.doubt_up_m("toe", data.events_s["meet"]) > OFF_FLOOR_M:
        return None
    here = (t >= data.events_s["peak_speed"] - 0.1) & (t <= data.events_s["meet"])
    low = np.min([body.y(f"{side}_{part}") for side in SIDES for part in ("toe", "heel")], axis=0)
    return Value(1000 * float(np.sum(here & (low > OFF_FLOOR_M)) * np.median(np.diff(t))), data.events_s["peak_speed"])


@measure("hip_shoulder_rise_ratio@stand", "Hips against shoulders, standing up", "–", families=("pull", "squat"), needs=("bottom", "stand"),
         requires=("joints",))  # fmt: skip
def hip_shoulder_rise_ratio_stand(data: LiftData) -> Value | None:
    """Rise of the hips over rise of the shoulders in the first third of standing up: 1 is together."""
    t, y = data.motion.time_s, data.motion.y_m
    bottom, stand = data.events_s["bottom"], data.events_s["stand"]
    low, tall = data.at("y_m", "bottom"), data.at("y_m", "stand")
    until = first_crossing(t, y, low + (tall - low) / 3, after_s=bottom, before_s=stand)
    if until is None:
        return None
    # Hips that shoot up do so while bar and shoulders still stay down: each rises from where it was itself lowest.
    body = data.lifter
    here = stretch(data, bottom, until)
    if len(here) == 0:
        return None
    hips, shoulders = (body.at(body.y(name), until) - float(body.y(name)[here].min()) for name in ("hip", "shoulder"))
    return Value(hips / shoulders if shoulders > LEAST_RISE_M else np.nan, until)


@measure("stand_peak_speed", "Peak velocity standing up", "m/s", families=("pull", "squat"), needs=("bottom", "stand"))
def stand_peak_speed(data: LiftData) -> Value:
    """Largest upward bar speed while standing up."""
    return data.fastest("bottom", "stand")


@measure("elbow_to_knee", "Elbow from the knee in the catch", "cm", needs=("meet", "bottom"), requires=("joints",), kinds=CLEANS)
def elbow_to_knee(data: LiftData) -> Value | None:
    """Least distance from elbow joint to knee joint in the catch, in the picture's plane: an elbow that touches the leg is no lift."""
    body = data.lifter
    far = np.min(
        [np.hypot(body.x(f"{side}_elbow") - body.x(f"{side}_knee"), body.y(f"{side}_elbow") - body.y(f"{side}_knee")) for side in SIDES],
        axis=0,
    )
    until = min(data.events_s["bottom"] + 0.5, data.events_s.get("stand", np.inf))
    least = most(data, -far, data.events_s["meet"], until, CM)
    return None if least is None else Value(-least.value, least.time_s)


@measure("feet_apart", "Feet out of line when put down", "cm", families=("pull", "jerk"), needs=("release",), requires=("joints",),
         kinds=SNATCHED | JERKED | CLEANS)  # fmt: skip
def feet_apart(data: LiftData) -> Value | None:
    """How far one foot is ahead of the other just before the bar is let go."""
    body, gone = data.lifter, data.events_s["release"]
    last = stretch(data, gone - BEFORE_RELEASE_S, gone)
    if len(last) == 0:
        return None
    i = int(last[0])
    return Value(CM * abs(float(body.x("near_mid_foot")[i] - body.x("far_mid_foot")[i])), float(body.time_s[i]))


@measure("held_still", "Held still", "s", families=("pull", "jerk"), needs=("release",), kinds=RECEIVED | JERKED)
def held_still(data: LiftData) -> Value | None:
    """Longest time that the bar is still between standing up and being let go."""
    up = "stand" if "stand" in data.events_s else "recovered"
    if up not in data.events_s:
        return None
    here = data.between(up, "release")
    t = data.motion.time_s[here]
    slow = np.hypot(data.motion.vx_m_s[here], data.motion.vy_m_s[here]) < STILL_M_S
    longest, when, since = 0.0, float(t[0]), None
    for at, still in zip(t, slow, strict=True):
        since = (at if since is None else since) if still else None
        if since is not None and at - since > longest:
            longest, when = float(at - since), float(since)
    return Value(longest, when)
