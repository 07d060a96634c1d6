"""Measures of the lifter in a jerk: the dip, the drive, the split, the lockout, the recovery."""

from __future__ import annotations

import numpy as np

from ..events.joints import KNOWN_M, SPLIT_M, first_foot_to_step
from ..motion.body.model import ANKLE_HEIGHT, HALF, PALM, SHOE_M
from .posture import CM, Floats, change, most, stretch
from .registry import LiftData, Value, measure

JERK, OVERHEAD = ("jerk",), ("jerk", "press")
JERKS = frozenset({"split_jerk", "power_jerk", "squat_jerk"})
SPLIT = frozenset({"split_jerk"})
AFTER_DRIVE_S, BEFORE_THE_STEP_S = 0.04, 0.1
# Feet so high are clear of the floor. They are so by this long after the drive, if ever, and left it at least and at most so long before.
CLEAR_M, LEFT_BY_S, JUST_LEFT_S, LONG_LEFT_S = 0.015, 0.25, 0.03, 0.12
# A leg that is short of straight by this (m) is bent to some 165°: one whose length is known no better is not told from a straight one.
LEG_KNOWN_M = 0.007
# A proper split is so long against the leg, and an extended wrist shortens the reach by so much; mid-foot ahead of the ankle, of stature.
PROPER_SPLIT, WRIST_TAKES_M, MID_FOOT_AHEAD = 0.9, 0.01, 0.0425


@measure("dip_hip_back", "Hips back in the dip", "cm", families=JERK, needs=("dip_start", "dip_bottom"), requires=("joints",))
def dip_hip_back(data: LiftData) -> Value:
    """How far the hips move back against the ankles in the dip."""
    return change(data, data.lifter.x("ankle") - data.lifter.x("hip"), "dip_start", "dip_bottom", CM)


@measure("dip_trunk_tilt", "Trunk tips in the dip", "°", families=JERK, needs=("dip_start", "dip_bottom"), requires=("joints",))
def dip_trunk_tilt(data: LiftData) -> Value | None:
    """How far the trunk tips forward in the dip."""
    body, start = data.lifter, data.events_s["dip_start"]
    return most(data, body.at(body.trunk, start) - body.trunk, start, data.events_s["dip_bottom"])


@measure("dip_elbow_drop", "Elbows drop in the dip", "°", families=JERK, needs=("dip_start", "dip_bottom"), requires=("joints",))
def dip_elbow_drop(data: LiftData) -> Value:
    """How far the upper arms drop in the dip."""
    return change(data, -data.lifter.angle("shoulder", "elbow"), "dip_start", "dip_bottom")


@measure("dip_turn_time", "Turning the dip", "s", families=JERK, needs=("dip_start", "dip_bottom"))
def dip_turn_time(data: LiftData) -> Value:
    """From the fastest way down to the bottom of the dip."""
    path = data.between("dip_start", "dip_bottom")
    fastest = float(data.motion.time_s[path[np.argmin(data.motion.vy_m_s[path])]])
    return Value(data.events_s["dip_bottom"] - fastest, data.events_s["dip_bottom"])


def _driven(id: str, label: str, joint: str) -> None:
    @measure(id, label, "°", families=JERK, needs=("dip_bottom", "drive_end"), requires=("joints",))
    def straight(data: LiftData) -> Value | None:
        """Straightest the joint gets in the drive: 180 is straight."""
        if joint == "knee_straight" and data.lifter.doubt_leg_m(data.events_s["drive_end"]) > LEG_KNOWN_M:
            return None
        return most(data, getattr(data.lifter, joint), data.events_s["dip_bottom"], data.events_s["drive_end"] + AFTER_DRIVE_S)


_driven("drive_extension_knee", "Knee at the end of the drive", "knee_straight")
_driven("drive_extension_hip", "Hip at the end of the drive", "hip")


@measure("jerk_bar_shift", "Bar forward, rack to lockout", "cm", families=JERK, needs=("dip_start", "lockout"), requires=("joints",))
def jerk_bar_shift(data: LiftData) -> Value:
    """How far forward the bar goes from the rack to the lockout."""
    return Value(CM * data.at("x_m", "lockout"), data.events_s["lockout"])


@measure("under_drop", "Shoulders under the bar", "cm", families=JERK, needs=("dip_start", "low_point"), requires=("joints",))
def under_drop(data: LiftData) -> Value:
    """How far the shoulders go down under the bar, from the rack to the lowest point."""
    return Value(-change(data, data.lifter.y("shoulder"), "dip_start", "low_point", CM).value, data.events_s["low_point"])


@measure("bar_surplus", "Bar higher than needed", "cm", families=JERK, needs=("apex", "low_point"), requires=("joints",), kinds=SPLIT)
def bar_surplus(data: LiftData) -> Value:
    """Apex above the height at which this build would receive the bar in a proper split: 0.9 of the leg, arms locked."""
    body, lengths, stature = data.lifter, data.lifter.segments_m, data.lifter.stature_m
    ankle = ANKLE_HEIGHT * stature + SHOE_M
    # Front shin upright, hips over the middle of the split.
    ahead = PROPER_SPLIT * (ankle + lengths["shin"] + lengths["thigh"]) / 2 - MID_FOOT_AHEAD * stature
    hip = ankle + lengths["shin"] + np.sqrt(max(lengths["thigh"] ** 2 - ahead**2, 0.0))
    aside = lengths["grip"] - HALF["shoulder"] * stature
    arm = np.sqrt(max((lengths["upper_arm"] + lengths["forearm"] + PALM * stature) ** 2 - aside**2, 0.01)) - WRIST_TAKES_M
    proper = hip + lengths["trunk"] + arm
    return Value(CM * (body.at(body.y("bar"), data.events_s["apex"]) - proper), data.events_s["apex"])


@measure("bar_over_hip@lockout", "Bar ahead of the hips at lockout", "cm", families=OVERHEAD, needs=("lockout",), requires=("joints",))
def bar_over_hip(data: LiftData) -> Value:
    """Bar in front of (+) the hips when the elbows lock."""
    body = data.lifter
    return Value(CM * body.at(body.x("bar") - body.x("hip"), data.events_s["lockout"]), data.events_s["lockout"])


@measure("head_through", "Head ahead of the bar", "cm", families=OVERHEAD, needs=("lockout",), requires=("joints",))
def head_through(data: LiftData) -> Value:
    """Ear in front of (+) the bar at lockout."""
    body = data.lifter
    return Value(CM * body.at(body.x("ear") - body.x("bar"), data.events_s["lockout"]), data.events_s["lockout"])


# -- the split --------------------------------------------------------------------------------------------------------------


def _sides(data: LiftData) -> tuple[str, str]:
    """Front and back foot at the lowest point: `near` or `far`."""
    ahead = data.lifter.at(data.lifter.x("near_mid_foot") - data.lifter.x("far_mid_foot"), data.events_s["low_point"])
    return ("near", "far") if ahead > 0 else ("far", "near")


def _length_m(data: LiftData) -> float:
    body = data.lifter
    return abs(body.at(body.x("near_mid_foot") - body.x("far_mid_foot"), data.events_s["low_point"]))


@measure("split_length", "Split", "cm", families=JERK, needs=("low_point",), requires=("joints",), kinds=SPLIT)
def split_length(data: LiftData) -> Value:
    """From mid-foot to mid-foot, horizontally."""
    return Value(CM * _length_m(data), data.events_s["low_point"])


@measure("split_length_share", "Split against the leg", "–", families=JERK, needs=("low_point",), requires=("joints",), kinds=SPLIT)
def split_length_share(data: LiftData) -> Value:
    """Split over the leg's length, from hip joint to floor standing."""
    body = data.lifter
    leg = body.at(body.y("hip"), data.events_s.get("dip_start", data.events_s["low_point"]))
    return Value(_length_m(data) / leg, data.events_s["low_point"])


def _in_the_split(data: LiftData, side: str, series: Floats) -> Value | None:
    """What a leg of one side holds in the split, from the lowest point until a foot moves. A leg behind the other one is not seen well
    enough: None unless it is known to a centimetre."""
    if _length_m(data) < SPLIT_M or (side == "far" and data.lifter.doubt_m("knee", side) > KNOWN_M):
        return None
    low = data.events_s["low_point"]
    held = stretch(data, low, max(data.events_s.get("first_step", low) - BEFORE_THE_STEP_S, low))
    return Value(float(np.median(series[held])) if len(held) else data.lifter.at(series, low), low)


@measure("front_shin_off_vertical", "Front shin off vertical", "°", families=JERK, needs=("low_point",), requires=("joints",), kinds=SPLIT)
def front_shin_off_vertical(data: LiftData) -> Value | None:
    """How far the front shin is off the vertical in the split; only of a leg that is not behind the other."""
    front, _ = _sides(data)
    return _in_the_split(data, front, np.abs(90 - data.lifter.angle(f"{front}_ankle", f"{front}_knee")))


@measure("front_shin_angle", "Front shin", "°", families=JERK, needs=("low_point",), requires=("joints",), kinds=SPLIT)
def front_shin_angle(data: LiftData) -> Value | None:
    """Front shin against the horizontal in the split, below 90 the knee ahead of the ankle; only of a leg that is not behind the other."""
    front, _ = _sides(data)
    return _in_the_split(data, front, data.lifter.angle(f"{front}_ankle", f"{front}_knee"))


@measure("back_knee_angle", "Back knee", "°", families=JERK, needs=("low_point",), requires=("joints",), kinds=SPLIT)
def back_knee_angle(data: LiftData) -> Value | None:
    """Included angle of the back knee in the split, 180 straight; only of a leg that is not behind the other."""
    _, back = _sides(data)
    return _in_the_split(data, back, data.lifter.bend(f"{back}_hip", f"{back}_knee", f"{back}_ankle"))


@measure("foot_order", "Front foot after the back foot", "ms", families=JERK, needs=("front_foot_down", "back_foot_down"),
         requires=("joints",), kinds=SPLIT)  # fmt: skip
def foot_order(data: LiftData) -> Value:
    """When the front foot lands after the back foot; negative is front foot first."""
    return Value(1000 * (data.events_s["front_foot_down"] - data.events_s["back_foot_down"]), data.events_s["front_foot_down"])


@measure("recovery_order", "First to step", "foot", families=JERK, needs=("low_point", "first_step"), requires=("joints",), kinds=SPLIT)
def recovery_order(data: LiftData) -> Value:
    """Which foot recovers first: +1 the front foot, −1 the back foot."""
    first = first_foot_to_step(data.lifter, data.events_s["first_step"], data.events_s["low_point"])
    return Value(1.0 if first == "front" else -1.0, data.events_s["first_step"])


@measure("knee_rebend", "Knees give before the split", "°", families=JERK, needs=("drive_end", "meet"), requires=("joints",), kinds=JERKS)
def knee_rebend(data: LiftData) -> Value | None:
    """How far the knees bend again between the drive's end and the feet leaving the floor."""
    body, drive = data.lifter, data.events_s["drive_end"]
    here = stretch(data, drive - 0.06, min(drive + LEFT_BY_S, data.events_s["meet"]))
    feet = np.minimum(*(np.minimum(body.y(f"{side}_toe"), body.y(f"{side}_heel")) for side in ("near", "far")))
    off = np.flatnonzero(feet[here] > CLEAR_M)
    if not len(off):
        return None
    # Feet that are clear of the floor left it a moment ago: the sooner, the slower they rise.
    clear = here[off[0]]
    rises = body.speed(feet)[clear]
    left = body.time_s[clear] - np.clip(feet[clear] / max(rises, 1e-3), JUST_LEFT_S, LONG_LEFT_S)
    here = here[body.time_s[here] <= left]
    if len(here) < 2:
        return None
    straight = np.maximum.accumulate(body.knee[here])
    return Value(float((straight - body.knee[here]).max()), drive)
