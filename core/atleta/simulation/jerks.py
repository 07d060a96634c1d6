"""Lifts from the rack to overhead: split and power jerks, the dips that train them, and presses from behind the neck."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace

import numpy as np
from scipy.optimize import brentq

from .barpath import DRIVEN_ABOVE_RACK_M, PRESS_S, JerkSpec, jerk_path, jerk_rise_m
from .build import Build
from .pulls import (
    HEEL_TOP_SHARE,
    LOCKED_ELBOW,
    RACK_ABOVE_SHOULDER_M,
    RACK_AHEAD_M,
    STANCE_M,
    TOE_OUT_DEG,
    catch_stance_m,
    overhead_m,
    pressed_m,
    rack_m,
    squat_hip_m,
    standing_shoulder_m,
)
from .script import Script
from .skeleton import ANKLE_SHARE, BALL_SHARE

RACK_OVER_MIDFOOT_M = 0.02
# A missed jerk: how far from its place the bar is met, how far from straight the arms stay under one driven too low, and how long
# the lifter fights for it in the split.
LOST_M = {"forward": 0.08, "behind": -0.08}
SHORT_DEG = 55.0
FOUGHT_S = 0.18
PRESS_ELBOW = (0.85, -0.5, -0.05)


@dataclass(frozen=True)
class JerkPlan:
    """What the lifter sets out to do in one jerk. Angles in degrees, lengths in m, times in s; forward and up positive."""

    bar: JerkSpec
    grip_m: float
    surplus_m: float = 0.0
    """How much higher than this split asks for the bar is driven."""
    split_share: float = 0.93
    """Length of the split against the leg's; zero for a power jerk."""
    front_shin_deg: float = 90.0
    back_knee_deg: float = 132.0
    back_first_s: float = 0.012
    """How much earlier the back foot lands than the front foot."""
    dip_forward_m: float = 0.0
    dip_tilt_deg: float = 1.0
    tilt_deg: float = 0.0
    """How far the bar's right end is above the level overhead."""
    aside_m: float = 0.0
    """How far the bar's middle is to the right of the hands'."""
    hips_back_m: float = 0.0
    elbow_drop_deg: float = 0.0
    rack_elbow_deg: float = 56.0
    rack_ahead_m: float = RACK_AHEAD_M
    """Bar in front of the shoulder joint where it lies on the shoulders."""
    knee_rebend_deg: float = 0.0
    knee_top_deg: float = 176.0
    hip_top_deg: float = 177.0
    shift_m: float = -0.01
    """Bar forward from the rack to the lockout."""
    bar_over_hip_m: float = 0.0
    head_through_m: float = 0.045
    elbow_late_s: float = 0.0
    press_deg: float = 0.0
    wrist_deg: float = 28.0
    balance_m: float = 0.0
    back_step_first: bool = False
    miss: str = ""
    """How the lift is missed: forward, behind, short; empty when it is made."""


def sound_jerk(kind: str, build: Build, **changes: float | bool) -> JerkPlan:
    """A sound jerk of this kind for this build: the split settles how high, and so how fast, the bar must go."""
    grip = build.clean_grip_m
    plan = JerkPlan(JerkSpec(kind), grip)
    if kind == "power_jerk":
        plan = replace(plan, split_share=0.0)
    known = {field.name for field in fields(JerkPlan)}
    plan = replace(plan, **{name: value for name, value in changes.items() if name in known})  # type: ignore[arg-type]
    plan = replace(plan, back_knee_deg=min(plan.back_knee_deg, 177.5))
    stand = standing_shoulder_m(build)
    rack = rack_m(build)
    above = overhead_m(build, grip, plan.wrist_deg) + 0.01
    low = received_hip_m(build, plan) + build.trunk_m + above
    tall = stand - 0.004 + above
    spec = replace(plan.bar, rack_height_m=rack, dip_m=0.086 * build.stature_m, dip_s=0.42 * (build.stature_m / 1.72) ** 0.5)
    if plan.miss:
        lost = LOST_M.get(plan.miss, 0.0)
        plan = replace(plan, shift_m=plan.shift_m + lost, bar_over_hip_m=plan.bar_over_hip_m + lost)
    if plan.miss == "short":
        plan = replace(plan, press_deg=max(plan.press_deg, SHORT_DEG))
    if plan.press_deg > 0:
        spec = replace(spec, press_m=pressed_m(build, plan.press_deg))
    told = {field.name for field in fields(JerkSpec)}
    spec = replace(spec, **{name: value for name, value in changes.items() if name in told})  # type: ignore[arg-type]
    if "drive_speed_m_s" not in changes:
        rise = low + plan.surplus_m + spec.ride_m + spec.drop_m - spec.press_m - rack - DRIVEN_ABOVE_RACK_M
        spec = replace(spec, drive_speed_m_s=brentq(lambda speed: jerk_rise_m(speed, spec.fall_share) - rise, 0.5, 4.0))
    # How high the bar is received follows from how fast it was driven and how far it dropped.
    apex = rack + DRIVEN_ABOVE_RACK_M + jerk_rise_m(spec.drive_speed_m_s, spec.fall_share)
    return replace(plan, bar=replace(spec, lockout_gain_m=tall - (apex - spec.drop_m - spec.ride_m)))


def received_hip_m(build: Build, plan: JerkPlan) -> float:
    """Height of the hips in which this split, or power position, receives the bar."""
    if plan.split_share == 0:
        return squat_hip_m(build, 118.0, catch_stance_m(build), 0.08)
    return _split(build, plan)[0]


def _split(build: Build, plan: JerkPlan) -> tuple[float, float, float]:
    """Hip height, and the balls of the front and the back foot against the hips, for the split asked for."""
    foot = build.foot_m
    length = plan.split_share * build.hip_height_m
    lift = back_heel_m(build)
    turn = np.arcsin(lift / (BALL_SHARE * foot))
    back_reach = (BALL_SHARE - ANKLE_SHARE) * foot
    ankle_up = back_reach * np.sin(turn) + build.ankle_m * np.cos(turn)
    # Mid-foot lies half-way from heel to toe; a raised heel brings it forward.
    back_mid = -BALL_SHARE * foot * np.cos(turn) + ((1 - BALL_SHARE) + BALL_SHARE * np.cos(turn)) * foot / 2
    front_mid = (0.5 - BALL_SHARE) * foot
    shin = np.radians(plan.front_shin_deg)
    aside = STANCE_M * 0.8 - build.hip_half_m
    long = float(np.sqrt(build.shank_m**2 + build.thigh_m**2 - 2 * build.shank_m * build.thigh_m * np.cos(np.radians(plan.back_knee_deg))))

    def balls(hip_y: float) -> tuple[float, float]:
        over = hip_y - build.ankle_m - build.shank_m * np.sin(shin)
        ahead = float(np.sqrt(max((build.thigh_m * 0.985) ** 2 - over**2, 1e-4))) - build.shank_m * float(np.cos(shin))
        front = ahead + (BALL_SHARE - ANKLE_SHARE) * foot
        return front, front + front_mid - length - back_mid

    def surplus(hip_y: float) -> float:
        _, back = balls(hip_y)
        ankle_x = back - back_reach * np.cos(turn) + build.ankle_m * np.sin(turn)
        return float(np.sqrt(ankle_x**2 + (hip_y - ankle_up) ** 2 + aside**2)) - long

    heights = np.linspace(0.62, 0.985, 60) * build.hip_height_m
    values = np.array([surplus(float(height)) for height in heights])
    turns = np.flatnonzero(values[:-1] * values[1:] <= 0)
    hip_y = (
        float(heights[np.argmin(np.abs(values))]) if len(turns) == 0 else float(brentq(surplus, heights[turns[-1]], heights[turns[-1] + 1]))
    )
    return (hip_y, *balls(hip_y))


def back_heel_m(build: Build) -> float:
    return 0.062 * build.stature_m


def stand_in_rack(script: Script, length_s: float, *, rack_height_m: float, grip_m: float, elbow_deg: float = 52.0) -> None:
    """Begin a script, or go on in it, standing with the bar on the shoulders."""
    build = script.build
    begin, end = script.hold(length_s, rack_height_m)
    ball = script.last("left_ball") if script.parts else 0.0
    if not script.parts:
        script.both("ball", [(begin, ball)])
        script.set("grip", [(begin, grip_m)])
        script.both("toe_out", [(begin, TOE_OUT_DEG)])
        script.both("stance", [(begin, STANCE_M)])
        script.set("rack", [(begin, 1.0)])
        script.set("wrist", [(begin, 20.0)])
    elbow = np.radians(elbow_deg)
    for axis, value in zip("xyz", (np.cos(elbow), np.sin(elbow), 0.25), strict=True):
        script.set(f"pole_{axis}", [(begin + 0.02, value), (end, value)])
    racked(script, begin + 0.02, end)
    script.wish("trunk", [(begin, 89.0), (end, 89.0)], 0.6, 2.0)
    script.wish("knee", [(begin, 176.0), (end, 176.0)], 0.8, 3.0)
    script.wish("hip_y", [(begin, build.hip_height_m), (end, build.hip_height_m)], 0.5, 0.8)
    script.wish("hip_x", [(begin, ball - 0.12), (end, ball - 0.12)], 0.5, 0.8)
    script.wish("bar_over_midfoot", [(begin, RACK_OVER_MIDFOOT_M), (end, RACK_OVER_MIDFOOT_M)], 0.003, 0.004)


def racked(script: Script, begin_s: float, end_s: float, ahead_m: float = RACK_AHEAD_M) -> None:
    """The bar lies on the shoulders, so far in front of their joints, from one time to another."""
    script.wish("shoulder_over_bar", [(begin_s, -ahead_m), (end_s, -ahead_m)], 0.003, 0.003)
    script.wish("shoulder_above_bar", [(begin_s, -RACK_ABOVE_SHOULDER_M), (end_s, -RACK_ABOVE_SHOULDER_M)], 0.002, 0.002)
    script.wish("girdle", [(begin_s, 0.0), (end_s, 0.0)], 0.004, 0.004)


def feet_in(script: Script) -> None:
    """After a clean: the feet come back under the hips, one after the other."""
    at = script.now_s
    script.hold(1.1)
    if abs(script.last("right_stance") - STANCE_M) > 0.01:
        wide, out = script.last("right_stance"), script.last("right_toe_out")
        for side, lag in (("left", 0.15), ("right", 0.55)):
            script.set(f"{side}_air", [(at + lag, 0.0), (at + lag + 0.14, 0.02), (at + lag + 0.28, 0.0)])
            script.set(f"{side}_stance", [(at + lag + 0.02, wide), (at + lag + 0.26, STANCE_M)])
            script.set(f"{side}_toe_out", [(at + lag + 0.02, out), (at + lag + 0.26, TOE_OUT_DEG)])
    racked(script, at, script.now_s)
    script.wish("trunk", [(at, 89.0), (script.now_s, 89.0)], 0.6, 2.0)
    script.wish("knee", [(at + 0.9, 176.0), (script.now_s, 176.0)], 0.8, 3.0)
    script.wish("bar_over_midfoot", [(at + 0.85, RACK_OVER_MIDFOOT_M), (script.now_s, RACK_OVER_MIDFOOT_M)], 0.003, 0.004)


def jerk(script: Script, plan: JerkPlan) -> dict[str, float]:
    """Write one jerk into the script, which must stand in the rack; the meant times of its events."""
    build, spec = script.build, replace(plan.bar, rack_height_m=script.height_m, rest_before_s=0.3)
    part = script.begin_part(spec.kind, "rack")
    ball0 = script.last("left_ball")
    begin = script.now_s
    path = jerk_path(spec)
    at = script.add_path(path.until(path.events_s["bottom"] + FOUGHT_S) if plan.miss else path)
    down, bottom, driven = at["dip_start"], at["dip_bottom"], at["drive_end"]
    apex, meet, low, end = at["apex"], at["meet"], at["bottom"], script.now_s
    settled, up = at.get("settled", end), at.get("recovered", end)
    script.quick.append((down - 0.1, low + 0.3))

    # In the dip everything goes straight down; the rack holds until the legs are done.
    racked(script, begin, driven - 0.06, plan.rack_ahead_m)
    script.wish("trunk", [(down, 89.0), (bottom, 89.0 - plan.dip_tilt_deg), (driven, 90.0)], 0.4, 1.0)
    script.wish(
        "bar_over_midfoot", [(begin, RACK_OVER_MIDFOOT_M + plan.balance_m), (down, RACK_OVER_MIDFOOT_M + plan.balance_m)], 0.003, 0.004
    )
    script.wish("knee", [(driven - (0.01 if plan.knee_rebend_deg < 2 else 0.03), plan.knee_top_deg)], 0.7)
    script.wish("hip", [(driven - 0.01, plan.hip_top_deg)], 0.8)
    script.anchor("bar_x", down, [(bottom, plan.dip_forward_m), (driven, plan.dip_forward_m * 1.2)], 0.0015, 0.003)
    script.anchor("bar_x", down, [(meet, plan.shift_m), (low, plan.shift_m)], 0.002)
    script.anchor("hip_x", down, [(bottom, -plan.hips_back_m)], 0.003)
    elbow = np.radians([plan.rack_elbow_deg, plan.rack_elbow_deg - plan.elbow_drop_deg])
    for axis, rack, dropped, press, locked in zip(
        "xyz",
        (np.cos(elbow[0]), np.sin(elbow[0]), 0.25),
        (np.cos(elbow[1]), np.sin(elbow[1]), 0.25),
        PRESS_ELBOW,
        LOCKED_ELBOW,
        strict=True,
    ):
        script.set(
            f"pole_{axis}",
            [
                (down, rack),
                (bottom, dropped),
                (driven - 0.03, dropped),
                (driven + 0.18, press),
                (driven + 0.22, press),
                (meet, locked),
                (end, locked),
            ],
        )
    script.set("rack", [(driven - 0.03, 1.0), (driven + 0.13, 0.0), (end, 0.0)])
    script.set("wrist", [(driven, 20.0), (meet, plan.wrist_deg), (end, plan.wrist_deg)])
    script.set("grip", [(begin, plan.grip_m), (end, plan.grip_m)])

    script.set("aside", [(begin, plan.aside_m), (end, plan.aside_m)])
    if plan.tilt_deg:
        script.set("tilt", [(driven, 0.0), (meet, plan.tilt_deg), (settled, plan.tilt_deg), (end, 0.0)])

    # The feet.
    heel_top = 0.9 * HEEL_TOP_SHARE * build.stature_m
    script.both("heel", [(driven - 0.09, 0.0), (driven + 0.01, heel_top)])
    leave = driven - 0.01 if plan.knee_rebend_deg < 2 else driven + 0.04
    land = min(meet - 0.005, apex + 0.05)
    split = plan.split_share > 0
    hip_y = received_hip_m(build, plan)
    # A bar that went higher than the split asks for leaves the lifter higher too.
    hip_y += float(script.bar_y(low)) + spec.press_m - (hip_y + build.trunk_m + overhead_m(build, plan.grip_m, plan.wrist_deg) + 0.01)
    if plan.knee_rebend_deg:
        script.wish("knee", [(leave + 0.015, plan.knee_top_deg - plan.knee_rebend_deg)], 0.6)
    else:
        script.wish("knee", [(leave + 0.015, plan.knee_top_deg - 2.0)], 0.6, bound=1)
    if split:
        _, front, back = _split(build, plan)
        # Received higher, the split is shorter and the legs are straighter.
        straighter = min(plan.back_knee_deg + 150 * plan.surplus_m, 150.0)
        landing = replace(plan, back_knee_deg=straighter, split_share=plan.split_share - 0.9 * plan.surplus_m)
        _, front, back = _split(build, landing) if plan.surplus_m else (0.0, front, back)
        hip_x = ball0 - 0.2 * build.foot_m + RACK_OVER_MIDFOOT_M + plan.shift_m - plan.bar_over_hip_m
        landings = {"left": (ball0, hip_x + front, 0.0, land), "right": (ball0, hip_x + back, back_heel_m(build), land)}
        landings["right"] = (*landings["right"][:3], land - plan.back_first_s if plan.back_first_s > 0 else land)
        landings["left"] = (*landings["left"][:3], land if plan.back_first_s > 0 else land + plan.back_first_s)
        for side, (start, stop, heel, down_s) in landings.items():
            script.set(f"{side}_ball", [(leave, start), (down_s, stop), (settled, stop)])
            script.set(f"{side}_air", [(leave, 0.0), ((leave + down_s) / 2, 0.05), (down_s, 0.0), (settled, 0.0)])
            script.set(f"{side}_heel", [((leave + down_s) / 2, heel_top), (down_s, heel), (settled, heel)])
        at |= {"front_foot_down": landings["left"][3], "back_foot_down": landings["right"][3]}
        script.both("stance", [(leave + 0.01, STANCE_M), (min(stop[3] for stop in landings.values()) - 0.01, STANCE_M * 0.8)])
        script.wish("left_shin", [(meet, plan.front_shin_deg), (settled, plan.front_shin_deg)], 1.0, 2.0)
        if not plan.surplus_m:
            script.wish("knee", [(low, plan.back_knee_deg), (settled, plan.back_knee_deg)], 0.8 if plan.back_knee_deg > 160 else 2.5)
    else:
        wide = catch_stance_m(build)
        script.both("air", [(leave, 0.0), ((leave + land) / 2, 0.02), (land, 0.0), (end, 0.0)])
        script.both("heel", [(leave, heel_top), (land, 0.0), (end, 0.0)])
        script.both("ball", [(leave, ball0), (end, ball0)])
        script.both("stance", [(leave + 0.01, STANCE_M), (land - 0.005, wide), (end, wide)])
        at |= {"front_foot_down": land, "back_foot_down": land}
        script.wish("shin", [(meet, 55.0), (up, 55.0)], 3.0, 3.0, 1)
    caught = RACK_OVER_MIDFOOT_M + plan.shift_m
    script.anchor("bar_x", down, [(driven, plan.dip_forward_m * 1.2), (apex, plan.shift_m), (settled, plan.shift_m)], 0.01, 0.01)
    if not split:
        upwards = [] if plan.miss else [(up, 0.0), (end, 0.0)]
        script.wish("bar_over_midfoot", [(low, caught), (settled, caught), *upwards], 0.01, 0.01)
    # Under the bar: arms straight at the meeting, trunk upright, bar over the hips.
    lock = max(meet + 0.012 + plan.elbow_late_s, meet + 0.008)
    bent = (build.upper_arm_m + build.forearm_m) * (1 - np.sin(np.radians(166 / 2)))
    high = (build.upper_arm_m + build.forearm_m) * (1 - np.sin(np.radians(140 / 2)))
    keys = [(apex, high), (meet, bent), (lock, 0.0012), (end, 0.0012)]
    if plan.press_deg > 0:
        bent = pressed_m(build, plan.press_deg)
        lock = low + 0.05 + PRESS_S
        keys = [(apex, high), (meet, bent), (low + 0.05, bent), (lock, 0.0012), (end, 0.0012)]
        if plan.miss == "short":
            keys = [(apex, high), (meet, bent), (end, bent)]
    script.wish("arm_slack", keys, 0.0012, 0.002)
    at["locked"] = lock
    script.wish("bar_over_hip", [(low, plan.bar_over_hip_m), (settled, plan.bar_over_hip_m)], 0.004, 0.01)
    tall = build.hip_height_m
    script.wish("hip_y", [(driven, tall + 0.02), (apex, 0.35 * tall + 0.65 * hip_y), (low, hip_y), (settled, hip_y)], 0.03, 0.03)
    # The head goes through as far as the bar is where it belongs.
    through = plan.head_through_m - 0.03 - LOST_M.get(plan.miss, 0.0)
    script.wish("shoulder_over_bar", [(driven - 0.06, -plan.rack_ahead_m), (driven + 0.05, -0.050), (driven + 0.12, -0.03)], 0.006, 0.008)
    under, upright = [(driven + 0.12, -0.03), (meet, through), (low, through)], [(meet, 90.0), (settled, 90.0)]
    if not plan.miss:
        under, upright = [*under, (up, 0.02), (end, 0.02)], [*upright, (up, 89.5), (end, 89.5)]
        ball = _step_together(script, plan, at) if split else ball0
        mid = ball + (0.5 - BALL_SHARE) * build.foot_m
        script.wish("hip_y", [(settled, hip_y), (up, tall), (end, tall)], 0.5, 0.8)
        script.wish("bar_x", [(up, mid), (end, mid)], 0.01, 0.02)
        script.wish("balance", [(up, 0.0), (end, 0.0)], 0.01, 0.02)
        script.wish("knee", [(up, 176.0), (end, 176.0)], 0.8, 2.0)
    script.wish("shoulder_over_bar", under, 0.006, 0.012)
    script.wish("trunk", upright, 2.0, 3.0)
    script.wish("girdle", [(meet, 0.012), (end, 0.012)], 0.006, 0.008)
    part.stop_s, part.meant_s, part.made = script.now_s, at, not plan.miss
    return at


def _step_together(script: Script, plan: JerkPlan, at: dict[str, float]) -> float:
    """Out of the split: the front foot comes half-way back, then the back foot comes up to it. Where the balls of the feet then are."""
    settled, end = at["settled"], script.now_s
    meeting = 0.5 * (script.last("left_ball") + script.last("right_ball")) + 0.02
    halves = ((settled + 0.10, settled + 0.50), (settled + 0.60, settled + 1.15))
    for side, (a, b) in zip(("right", "left") if plan.back_step_first else ("left", "right"), halves, strict=True):
        script.set(f"{side}_ball", [(a, script.last(f"{side}_ball")), (b, meeting), (end, meeting)])
        script.set(f"{side}_stance", [(a + 0.02, STANCE_M * 0.8), (b - 0.02, STANCE_M), (end, STANCE_M)])
        script.set(f"{side}_air", [(a, 0.0), ((a + b) / 2, 0.035), (b, 0.0), (end, 0.0)])
        script.set(f"{side}_heel", [(a, script.last(f"{side}_heel")), (b, 0.0), (end, 0.0)])
    at["first_step"] = halves[0][0]
    return meeting


def dip(
    script: Script, *, depth_m: float, down_s: float, up_s: float = 0.45, pause_s: float = 0.0, tilt_deg: float = 1.0
) -> dict[str, float]:
    """One dip and rise in the rack with no drive overhead."""
    part = script.begin_part("other", "rack")
    begin, top = script.now_s, script.height_m
    _, low = script.move(top - depth_m, down_s)
    _, out = script.hold(max(pause_s, 0.05))
    _, up = script.move(top, up_s)
    _, end = script.hold(0.7)
    racked(script, begin, end)
    script.quick.append((begin, up))
    script.wish("trunk", [(begin, 89.0), (low, 89.0 - tilt_deg), (out, 89.0 - tilt_deg), (up, 89.0), (end, 89.0)], 0.5, 1.0)
    script.wish("bar_over_midfoot", [(begin, RACK_OVER_MIDFOOT_M), (end, RACK_OVER_MIDFOOT_M)], 0.003, 0.004)
    part.stop_s, part.meant_s = end, {"dip_start": begin, "dip_bottom": low, "stand": up}
    return part.meant_s


def press_behind_neck(script: Script, *, grip_m: float, up_s: float = 1.3) -> dict[str, float]:
    """One press from the back of the shoulders to overhead and down again; the script must stand with the bar there."""
    build = script.build
    part = script.begin_part("press", "rack")
    begin, low = script.now_s, script.height_m
    tall = standing_shoulder_m(build) - 0.004 + overhead_m(build, grip_m, 20.0)
    _, up = script.move(tall, up_s)
    _, held = script.hold(1.0)
    _, back = script.move(low, 1.4)
    _, end = script.hold(0.6)
    script.wish("trunk", [(begin, 89.0), (end, 89.0)], 0.5, 1.0)
    script.wish("knee", [(begin, 176.0), (end, 176.0)], 0.8, 2.0)
    script.wish("balance", [(begin, 0.0), (end, 0.0)], 0.01, 0.015)
    script.wish("arm_slack", [(up, 0.0012), (held, 0.0012)], 0.002, 0.002)
    script.wish("shoulder_over_bar", [(begin, 0.07), (up, 0.03), (held, 0.03), (back, 0.07), (end, 0.07)], 0.004, 0.012)
    for axis, racks, locked in zip("xyz", BEHIND_NECK_ELBOW, LOCKED_ELBOW, strict=True):
        script.set(f"pole_{axis}", [(begin, racks), (up, locked), (held, locked), (back, racks), (end, racks)])
    part.asked |= {"hold_s": 1.0, "hold_height_m": tall}
    part.stop_s, part.meant_s = end, {"pull_start": begin, "lockout": up, "hold_start": up, "hold_end": held}
    return part.meant_s


BEHIND_NECK_ELBOW = (-0.55, -0.8, 0.35)
