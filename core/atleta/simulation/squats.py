"""Squats with the bar on the back, in the front rack or overhead, with or without a pause in the bottom."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .build import Build
from .jerks import BEHIND_NECK_ELBOW, racked
from .pulls import LOCKED_ELBOW, RACK_ABOVE_SHOULDER_M, RACK_AHEAD_M, catch_stance_m, overhead_m, standing_shoulder_m
from .script import Script
from .skeleton import ANKLE_SHARE, BALL_SHARE

PAUSE_S = 3.0
# Where the bar lies against the shoulder joints on the back: behind and above, m.
BACK_BEHIND_M, BACK_ABOVE_M = 0.065, 0.035
TOE_OUT_DEG = 27.0


@dataclass(frozen=True)
class SquatPlan:
    """What the lifter sets out to do in one squat. Angles in degrees, lengths in m, times in s; forward and up positive."""

    kind: str
    higher_m: float = 0.0
    """How far above the depth that shin and trunk settle the lifter turns round."""
    shin_deg: float = 50.0
    trunk_deg: float = 66.0
    down_s: float = 1.3
    up_s: float = 1.3
    pause_s: float = 0.0
    drop_late: float = 0.0
    """0 for an even descent; 1 for one that falls fastest just above the bottom."""
    hips_first: float = 0.0
    drift_m: float = 0.0
    """Bar forward of mid-foot in the bottom."""
    rack_elbow_deg: float = 66.0
    wrist_deg: float = 26.0
    knee_in_deg: float = 0.0
    """How far the knees fall inward of where the feet point, on the way up."""
    tilt_deg: float = 0.0
    """How far the bar's right end is above the level."""
    aside_m: float = 0.0
    """How far the bar's middle is to the right of the hands'."""


SOUND_DEG = {"back_squat": (60.0, 56.0), "front_squat": (70.5, 62.0), "overhead_squat": (70.0, 50.0)}
"""Trunk and shin in the bottom of a sound squat."""


def sound_squat(kind: str, *, paused: bool = False, **changes: float) -> SquatPlan:
    """A sound squat of this kind: as deep as the build allows with the heels down; with `paused`, held there for three seconds."""
    trunk, shin = SOUND_DEG[kind]
    return SquatPlan(kind, **({"trunk_deg": trunk, "shin_deg": shin, "pause_s": PAUSE_S if paused else 0.0} | changes))


def low_hip_m(build: Build, plan: SquatPlan) -> float:
    """Height of the hips in the bottom: what trunk and shin leave when the bar stays over mid-foot, at least 5 cm under the knees."""
    behind = {"back_squat": BACK_BEHIND_M, "front_squat": -RACK_AHEAD_M}.get(plan.kind, 0.022)
    ankle_x, mid_x = -(BALL_SHARE - ANKLE_SHARE) * build.foot_m, (0.5 - BALL_SHARE) * build.foot_m
    shin, trunk, out = np.radians([plan.shin_deg, plan.trunk_deg, TOE_OUT_DEG])
    knee = np.array([ankle_x + build.shank_m * np.cos(shin), build.ankle_m + build.shank_m * np.sin(shin)])
    hip_x = mid_x + plan.drift_m + behind - build.trunk_m * np.cos(trunk)
    thigh = build.thigh_m * float(np.cos(0.75 * out))
    under = float(np.sqrt(max(thigh**2 - float(knee[0] - hip_x) ** 2, 0.0)))
    return float(knee[1]) - max(under, 0.05)


def bar_above_shoulder_m(build: Build, plan: SquatPlan) -> float:
    if plan.kind == "back_squat":
        return BACK_ABOVE_M
    return RACK_ABOVE_SHOULDER_M if plan.kind == "front_squat" else overhead_m(build, build.snatch_grip_m, plan.wrist_deg)


def stand_ready(script: Script, plan: SquatPlan, length_s: float) -> None:
    """Begin a script standing with the bar where the squat wants it."""
    build = script.build
    wide = catch_stance_m(build)
    tall = standing_shoulder_m(build, wide) - 0.001 + bar_above_shoulder_m(build, plan)
    begin, end = script.hold(length_s, tall)
    script.both("ball", [(begin, 0.0)])
    script.both("stance", [(begin, wide)])
    script.both("toe_out", [(begin, TOE_OUT_DEG)])
    grip = {"back_squat": 0.5 * (build.clean_grip_m + build.snatch_grip_m), "front_squat": build.clean_grip_m}
    script.set("grip", [(begin, grip.get(plan.kind, build.snatch_grip_m))])
    _carry(script, plan, begin, end)
    script.wish("trunk", [(begin, 88.5), (end, 88.5)], 0.6, 2.0)
    script.wish("knee", [(begin, 176.0), (end, 176.0)], 0.8, 3.0)
    script.wish("balance", [(begin, 0.0), (end, 0.0)], 0.008, 0.012)
    script.wish("hip_y", [(begin, build.hip_height_m), (end, build.hip_height_m)], 0.5, 0.8)
    script.wish("hip_x", [(begin, -0.12), (end, -0.12)], 0.5, 0.8)


def squat(script: Script, plan: SquatPlan) -> dict[str, float]:
    """Write one repetition into the script, which must stand ready; the meant times of its events."""
    build = script.build
    part = script.begin_part(plan.kind, "rack")
    top, back = script.height_m, 0.22
    hip = low_hip_m(build, plan) + plan.higher_m
    low = hip + build.trunk_m * float(np.sin(np.radians(plan.trunk_deg))) + bar_above_shoulder_m(build, plan)
    if plan.drop_late > 0.05:
        begin, bottom = script.sink(low, plan.down_s, 0.45 * (top - low) * (1 - plan.drop_late) + 0.038 * plan.drop_late)
    else:
        begin, bottom = script.move(low, plan.down_s)
    _, out = script.hold(max(plan.pause_s, 0.04))
    _, up = script.move(top, plan.up_s, lean=4.0)
    _, end = script.hold(0.9)
    script.quick.append((bottom - 0.35, bottom + 0.35))
    _carry(script, plan, begin, end)
    script.set("aside", [(begin, plan.aside_m), (end, plan.aside_m)])
    script.set("tilt", [(begin, 0.0), (bottom, plan.tilt_deg), (out, plan.tilt_deg), (up, 0.0)])
    script.set("knee_in", [(out, 0.0), (out + 0.3 * (up - out), plan.knee_in_deg), (up, 0.0)])
    tip = 16.0 * plan.hips_first
    third = out + 0.40 * (up - out)
    script.wish(
        "trunk",
        [(begin, 88.5), (bottom, plan.trunk_deg), (out, plan.trunk_deg), (third, plan.trunk_deg - tip + 2), (up, 88.5), (end, 88.5)],
        0.8,
        3.0,
    )
    script.wish("bar_over_midfoot", [(begin, 0.0), (bottom, plan.drift_m), (out, plan.drift_m), (up, 0.0), (end, 0.0)], 0.006, 0.012)
    if plan.higher_m < 0.02:
        script.wish("shin", [(bottom, plan.shin_deg), (out, plan.shin_deg)], 0.8, 1.0)
    script.wish("knee", [(up, 176.0), (end, 176.0)], 0.8, 2.0)
    script.wish(
        "hip_y", [(begin, build.hip_height_m), (bottom, hip), (out, hip), (up, build.hip_height_m), (end, build.hip_height_m)], 0.08, 0.15
    )
    script.wish("hip_x", [(begin, -0.12), (bottom, -0.12 - back * 0.7), (out, -0.12 - back * 0.7), (up, -0.12), (end, -0.12)], 0.4, 0.5)
    part.stop_s, part.meant_s = end, {"descent_start": begin, "bottom": bottom, "rise": out, "stand": up}
    if plan.pause_s:
        part.meant_s |= {"hold_start": bottom, "hold_end": out}
        part.asked |= {"hold_s": PAUSE_S}
    return part.meant_s


def _carry(script: Script, plan: SquatPlan, begin: float, end: float) -> None:
    if plan.kind == "front_squat":
        racked(script, begin, end)
        elbow = np.radians(plan.rack_elbow_deg)
        pole = (float(np.cos(elbow)), float(np.sin(elbow)), 0.25)
        script.set("rack", [(begin, 1.0), (end, 1.0)])
        script.set("wrist", [(begin, 20.0), (end, 20.0)])
    elif plan.kind == "back_squat":
        pole = BEHIND_NECK_ELBOW
        script.wish("shoulder_over_bar", [(begin, BACK_BEHIND_M), (end, BACK_BEHIND_M)], 0.004, 0.004)
        script.wish("shoulder_above_bar", [(begin, -BACK_ABOVE_M), (end, -BACK_ABOVE_M)], 0.003, 0.003)
        script.wish("girdle", [(begin, 0.0), (end, 0.0)], 0.004, 0.004)
    else:
        pole = LOCKED_ELBOW
        script.set("wrist", [(begin, plan.wrist_deg), (end, plan.wrist_deg)])
        script.wish("arm_slack", [(begin, 0.0012), (end, 0.0012)], 0.002, 0.002)
        script.wish("shoulder_over_bar", [(begin, 0.022), (end, 0.022)], 0.006, 0.008)
        script.wish("girdle", [(begin, 0.0), (end, 0.0)], 0.006, 0.006)
    for axis, value in zip("xyz", pole, strict=True):
        script.set(f"pole_{axis}", [(begin, value), (end, value)])
