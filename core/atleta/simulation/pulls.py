"""Lifts that begin with a pull: snatches, cleans, and the pulls that stop short of receiving the bar."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from .barpath import PRESS_S, BarPath, PullSpec, pull_path
from .build import Build
from .posture import body_of
from .script import Script
from .skeleton import ANKLE_SHARE, BALL_SHARE, Carriage, Setting

Floats = NDArray[np.float64]
STANCE_M = 0.15
RACK_AHEAD_M = 0.055
TOE_OUT_DEG = 14.0
# A bar caught further in front than this was already in front when it was met.
LANDS_FORWARD_M = 0.03
# Where the elbows point (x forward, y up, z outward): hanging, in the turnover of a wide and of a narrow grip, locked overhead.
STRAIGHT_ELBOW = (-0.35, 0.1, 1.0)
HIGH_ELBOW = (-0.6, 0.8, 0.3)
RAISED_ELBOW = (-0.15, 0.45, 1.0)
LOCKED_ELBOW = (-0.8, -0.35, 0.5)


@dataclass(frozen=True)
class PullPlan:
    """What the lifter sets out to do in one pull. Angles in degrees, lengths in m, times in s; forward and up positive."""

    bar: PullSpec
    grip_m: float
    received: bool = True
    bar_over_ball_m: float = 0.0
    shoulder_start_m: float = 0.030
    hip_start_m: float = 0.0
    """Hips at the start above the height that this build asks for."""
    roll_m: float = 0.0
    trunk_tip_deg: float = 0.0
    """How much flatter the trunk is at the knee than at lift-off."""
    shoulder_knee_m: float = 0.088
    shin_early_m: float = 0.02
    """How far below the knee the bar is when the shins stand upright."""
    opened_deg: float = 1.0
    """How far the trunk has opened when the bar is 10 cm above the knee."""
    gap_m: float = 0.0325
    """Largest gap between shaft and thigh on the way to contact."""
    balance_m: float = 0.005
    heel_lead_s: float = -0.02
    knee_first_pull_deg: float = 146.0
    rebend_deg: float = 11.0
    contact_trunk_deg: float = 90.0
    legs_first_s: float = 0.0
    thrust_m_s: float = 0.0
    """Forward speed of the hips at contact beyond what the extension itself asks for."""
    approach_m_s: float = 0.0
    bump_m_s: float = 0.0
    """Forward speed that the bar is struck to just after contact; zero for one that is only brushed."""
    arms_early_s: float = -0.03
    """How long before the extension the elbows bend."""
    hip_top_deg: float = 178.0
    knee_top_deg: float = 172.0
    lean_deg: float = 7.0
    shrug_m: float = 0.05
    body_gap_m: float = 0.0
    """Bar in front of the trunk half-way from contact to the apex; zero leaves it where it comes to be."""
    trunk_catch_deg: float = 70.0
    caught_m: float = 0.0
    """Bar in front of mid-foot at the bottom."""
    elbow_late_s: float = 0.0
    press_deg: float = 0.0
    wrist_deg: float = 28.0
    rack_elbow_deg: float = 70.0
    rack_ahead_m: float = RACK_AHEAD_M
    """Bar in front of the shoulder joint where it lies on the shoulders."""
    turnover_gap_m: float = 0.10
    """Bar in front of the shoulder joint at the apex of a clean."""
    stance_m: float = STANCE_M
    """Half the distance between the feet during the pull."""
    feet_shift_m: float = 0.0
    miss: str = ""
    """How the lift is missed: forward, behind, short; empty when it is made."""
    hips_first: float = 0.0
    """How far the hips come up before the trunk when standing up: 0 together, 1 as far as they can."""
    knee_in_deg: float = 0.0
    """How far the knees fall inward of where the feet point, on the way up."""
    tilt_deg: float = 0.0
    """How far the bar's right end is above the level, from the turnover on."""
    aside_m: float = 0.0
    """How far the bar's middle is to the right of the hands'."""


@dataclass(frozen=True)
class Start:
    """The start position that a build asks for: hip joint, trunk angle (degrees), and the shoulder joint."""

    hip_x: float
    hip_y: float
    trunk_deg: float
    shoulder_x: float
    shoulder_y: float


def _posture(build: Build, grip: float, ball_x: float, bar: tuple[float, float], hip: tuple[float, float], trunk: float):  # type: ignore[no-untyped-def]
    one = np.ones(1)
    two = np.ones((2, 1))
    setting = Setting(bar[1] * one, ball_x * two, 0 * two, 0 * two, STANCE_M * two, np.radians(TOE_OUT_DEG) * two, grip * one, 0 * one,
                      0 * one, one, np.stack([0 * one, 0 * one, one]), one, 0 * one, 0 * one, 0 * one)  # fmt: skip
    return body_of(build, setting, Carriage(hip[0] * one, hip[1] * one, np.radians(trunk) * one, bar[0] * one, 0 * one))


def solved_start(build: Build, grip_m: float, *, bar_y: float, ball_x: float = 0.0, shoulder_m: float = 0.030) -> Start:
    """Foot flat, bar over the ball of the foot, straight arm, knee joint 2 cm ahead of the bar: hip and trunk follow.

    Where that would put the hips level with the knees or lower (a wide grip, short thighs), the knees give way backwards.
    """
    for ahead_m in np.arange(0.02, -0.061, -0.01):
        start, hip_above_knee = _start_with_knee(build, grip_m, bar_y, ball_x, shoulder_m, float(ahead_m))
        if hip_above_knee >= 0.035:
            break
    return start


def _start_with_knee(build: Build, grip_m: float, bar_y: float, ball_x: float, shoulder_m: float, ahead_m: float) -> tuple[Start, float]:
    reach = build.arm_reach_m(grip_m)
    shoulder = (shoulder_m, bar_y + float(np.sqrt(reach**2 - shoulder_m**2)))

    def hip(degrees: float) -> tuple[float, float]:
        angle = np.radians(degrees)
        return shoulder[0] - build.trunk_m * float(np.cos(angle)), shoulder[1] - build.trunk_m * float(np.sin(angle))

    def ahead(degrees: float) -> float:
        return float(_posture(build, grip_m, ball_x, (0.0, bar_y), hip(degrees), degrees).knees[1][0, 0]) - ahead_m

    angles = np.arange(8.0, 75.0, 3.0)
    values = [ahead(float(a)) for a in angles]
    degrees = float(angles[int(np.argmin(np.abs(values)))])
    for low, high, a, b in zip(angles, angles[1:], values, values[1:], strict=False):
        if a < 0 <= b:
            degrees = float(brentq(ahead, low, high, xtol=1e-3))
            break
    knee_y = float(_posture(build, grip_m, ball_x, (0.0, bar_y), hip(degrees), degrees).knees[1][1, 0])
    return Start(*hip(degrees), degrees, *shoulder), hip(degrees)[1] - knee_y


def standing_shoulder_m(build: Build, stance_m: float = STANCE_M) -> float:
    """Height of the shoulder joints, standing upright with the feet so far apart."""
    leg = build.shank_m + build.thigh_m - 0.001
    return build.ankle_m + float(np.sqrt(leg**2 - (stance_m - build.hip_half_m) ** 2)) + build.trunk_m


def rack_m(build: Build) -> float:
    """Height of a bar that lies on the shoulders of a lifter who stands."""
    return standing_shoulder_m(build) - 0.001 + RACK_ABOVE_SHOULDER_M


def hang_m(build: Build, grip_m: float) -> float:
    """Height of a bar that hangs from the straight arms of a lifter who stands."""
    return build.hip_height_m + build.trunk_m - build.arm_reach_m(grip_m) - 0.012


def overhead_m(build: Build, grip_m: float, wrist_deg: float) -> float:
    """How far above the shoulder joints a locked-out bar is."""
    return build.arm_reach_m(grip_m) - build.palm_m * (1 - float(np.cos(np.radians(wrist_deg)))) - 0.004


def squat_shoulder_m(build: Build, knee_deg: float, trunk_deg: float, stance_m: float, back_m: float) -> float:
    """Height of the shoulder joints in a squat with this knee angle and trunk, the hips so far behind the ankles."""
    return squat_hip_m(build, knee_deg, stance_m, back_m) + build.trunk_m * float(np.sin(np.radians(trunk_deg)))


def squat_hip_m(build: Build, knee_deg: float, stance_m: float, back_m: float) -> float:
    """Height of the hip joints in the same squat."""
    leg_sq = build.shank_m**2 + build.thigh_m**2 - 2 * build.shank_m * build.thigh_m * float(np.cos(np.radians(knee_deg)))
    return build.ankle_m + float(np.sqrt(max(leg_sq - back_m**2 - (stance_m - build.hip_half_m) ** 2, 0.01)))


def extended_bar_m(build: Build, plan: PullPlan) -> float:
    """Height of the bar with legs, hips and arms straight, on the toes."""
    lifted = HEEL_TOP_SHARE * build.stature_m * (BALL_SHARE - ANKLE_SHARE) / BALL_SHARE
    slanted = float(np.sqrt(build.arm_reach_m(plan.grip_m) ** 2 - EXTENDED_BEHIND_M**2))
    return build.hip_height_m + lifted + build.trunk_m + plan.shrug_m - 0.038 - slanted


def pressed_m(build: Build, press_deg: float) -> float:
    """By how much elbows bent so far (from 168 degrees) shorten the arm: what is left to press out."""
    return (build.upper_arm_m + build.forearm_m) * (1 - float(np.sin(np.radians((168 - press_deg) / 2))))


def catch_stance_m(build: Build) -> float:
    return 0.115 * build.stature_m + 0.02


RACK_ABOVE_SHOULDER_M = 0.02
HEEL_TOP_SHARE = 0.052
# Hips come forward no faster than this at contact in a sound lift.
HIP_FORWARD_M_S = 0.72
SOUND_SHIN_EARLY_M = 0.02
# The trunk keeps the bar off the shoulders' plumb line: so far are they behind it at the extension.
EXTENDED_BEHIND_M = 0.15
# Knee angle of the catch, by how deep the lift is received, in the sagittal plane and in space.
DEEP_DEG, POWER_DEG = 45.0, 66.0


@lru_cache(maxsize=256)
def sound_plan(kind: str, build: Build, **changes: float | bool) -> PullPlan:
    """A sound lift of this kind for this build: how deep it is received settles how high, and so how fast, the bar must go."""
    snatch, power = "snatch" in kind, kind.startswith("power")
    received = not kind.endswith("pull")
    grip = build.snatch_grip_m if snatch else build.clean_grip_m
    plan = PullPlan(PullSpec(kind, 1.0, 1.0, 0.05, 0.03, 1.0), grip, received)
    if not snatch:
        plan = replace(plan, contact_trunk_deg=81.0, shoulder_knee_m=0.085, trunk_catch_deg=75.0)
    if power:
        plan = replace(plan, trunk_catch_deg=80.0)
    known = {field.name for field in fields(PullPlan)}
    plan = replace(plan, knee_first_pull_deg=max(plan.knee_first_pull_deg, min(knee_passing_deg(build, plan)[0] + 6.0, 158.0)))
    plan = replace(plan, **{name: value for name, value in changes.items() if name in known})  # type: ignore[arg-type]
    wide = catch_stance_m(build)
    bottom = squat_shoulder_m(build, POWER_DEG if power else DEEP_DEG, plan.trunk_catch_deg, wide, 0.14 if power else 0.20)
    stand = standing_shoulder_m(build, wide) - 0.006
    above = overhead_m(build, grip, plan.wrist_deg) if snatch else -RACK_ABOVE_SHOULDER_M + 0.04
    spec = PullSpec(
        kind, 1.0, extended_bar_m(build, plan) + 0.035, drop_m=0.05 if snatch else 0.04,
        ride_m=(0.02 if snatch else 0.17) * build.stature_m,
        stand_height_m=stand + above, early_ratio=0.78 if snatch else 0.86,
        fall_share=0.70 if power or snatch else 0.72, back_at_knee_m=0.026, back_at_contact_m=0.036,
        loop_forward_m=0.032 if snatch else 0.024, loop_back_m=0.035 if snatch else 0.03,
    )  # fmt: skip
    if power:
        spec = replace(spec, ride_m=(0.02 if snatch else 0.06) * build.stature_m)
    if plan.press_deg > 0 and snatch:
        spec = replace(spec, press_m=pressed_m(build, plan.press_deg))
    told = {field.name for field in fields(PullSpec)}
    spec = replace(spec, **{name: value for name, value in changes.items() if name in told})  # type: ignore[arg-type]
    if "peak_speed_m_s" not in changes:
        top = (
            bottom + above + spec.drop_m + spec.ride_m - spec.press_m
            if received
            else spec.peak_speed_height_m + (0.30 if kind.endswith("high_pull") else 0.14) * build.stature_m
        )
        spec = replace(spec, peak_speed_m_s=_speed_for(top - spec.peak_speed_height_m, spec.fall_share))
    if "early_ratio" not in changes:
        # A slow pull pushes little more than the bar weighs, so its first push cannot be much weaker than its last.
        while spec.early_ratio < 0.93 and not liftable(spec, build):
            spec = replace(spec, early_ratio=spec.early_ratio + 0.01)
    while spec.middle_push_m_s2 > 0.4 and not liftable(spec, build):
        spec = replace(spec, middle_push_m_s2=spec.middle_push_m_s2 - 0.2)
    for share in (0.9, 0.8, 0.7, 0.6, 0.5, 0.3):
        if liftable(spec, build):
            break
        spec = replace(spec, middle_push_m_s2=2.0, transition_m_s2=share * spec.transition_m_s2)
    # What is left is a first push that was asked for weaker than the bar allows.
    while spec.early_ratio < 0.98 and not liftable(spec, build):
        spec = replace(spec, early_ratio=spec.early_ratio + 0.01)
    return replace(plan, bar=spec)


def liftable(spec: PullSpec, build: Build) -> bool:
    """Whether some bar does what the spec asks."""
    try:
        pull_path(spec, build)
    except ValueError:
        return False
    return True


def knee_passing_deg(build: Build, plan: PullPlan) -> tuple[float, float]:
    """Knee and trunk angle when the bar passes the knees: shin almost upright, straight arms, shoulders as far over as planned."""
    ankle = np.array([-(BALL_SHARE - ANKLE_SHARE) * build.foot_m, build.ankle_m])
    knee = ankle + build.shank_m * np.array([np.cos(np.radians(86.0)), np.sin(np.radians(86.0))])
    reach = build.arm_reach_m(plan.grip_m)
    shoulder = np.array([plan.shoulder_knee_m - 0.026, knee[1] + float(np.sqrt(reach**2 - plan.shoulder_knee_m**2))])
    far = float(np.hypot(*(shoulder - knee)))
    at_knee = np.arccos(np.clip((build.thigh_m**2 + far**2 - build.trunk_m**2) / (2 * build.thigh_m * far), -1, 1))
    towards = np.arctan2(*(shoulder - knee)[::-1])
    thigh = float(towards + at_knee)
    hip = knee + build.thigh_m * np.array([np.cos(thigh), np.sin(thigh)])
    return float(180.0 - (np.degrees(thigh) - 86.0)), float(np.degrees(np.arctan2(*(shoulder - hip)[::-1])))


def _speed_for(rise_m: float, fall_share: float) -> float:
    """Largest speed from which the bar rises so far: a push that fades in 0.07 s, then flight."""
    fade, fall = 0.07, 9.81 * fall_share

    def surplus(speed: float) -> float:
        left = speed - fall * fade * 2 / np.pi
        return float(fade * speed - fall * fade**2 * (1 - 2 / np.pi) * 2 / np.pi + left**2 / (2 * fall) - rise_m)

    return float(brentq(surplus, 0.6, 4.0))


def pull(script: Script, plan: PullPlan) -> dict[str, float]:
    """Write one pull into the script, with its receiving and standing up when it is received; the meant times of its events."""
    build, spec = script.build, plan.bar
    snatch = "snatch" in spec.kind
    first = not script.parts
    high = spec.start_height_m > build.knee_height_m - 0.08
    part = script.begin_part(spec.kind, begins_at(build, spec.start_height_m) if first or not high else "floor")
    origin = script.now_s
    path = pull_path(spec, build)
    if plan.miss == "short":
        path = path.until(path.events_s["apex"] + 0.06)
    elif plan.miss:
        path = path.until(path.events_s["bottom"] + 0.10)
    elif not plan.received:
        path = path.until(path.events_s["apex"])
    at = script.add_path(path)
    clock = origin + (path.time_s - path.time_s[0])
    rising = slice(0, int(np.searchsorted(path.time_s, path.events_s["peak_speed"])) + 1)

    def passes(height: float) -> float:
        return float(np.interp(height, path.y_m[rising], clock[rising]))

    ball = script.last("left_ball") if not first else -plan.bar_over_ball_m - (0.0 if not high else 0.025)
    x0 = ball + plan.bar_over_ball_m + (0.025 if high and first else -plan.bar.back_at_knee_m if high else 0.0)
    start = solved_start(build, plan.grip_m, bar_y=min(spec.start_height_m, 0.45), ball_x=0.0, shoulder_m=plan.shoulder_start_m)
    raised = _trunk_with_hips(build, start, plan.hip_start_m)
    # Long legs open the trunk a little by the knee; nobody's tips forward there unless the plan says so.
    at_knee = float(np.clip(knee_passing_deg(build, plan)[1], raised - 1.5, raised + 6.0)) - plan.trunk_tip_deg
    begin = at["pull_start"] if high else at["lift_off"]
    apex, peak = at["apex"], at["peak_speed"]
    knee = begin if high else passes(build.ankle_m + 0.995 * build.shank_m)

    # Contact: knees bent again, the trunk as far open as planned, straight arms: that settles the bar's height.
    rebent = plan.knee_first_pull_deg - plan.rebend_deg + (21 if snatch else 6)
    # Legs that go their own way leave less of a say to everything else.
    own_way = plan.rebend_deg < 4 or plan.legs_first_s > 0.03
    settles = 5.0 if own_way else 1.0
    leg = float(np.sqrt(build.shank_m**2 + build.thigh_m**2 - 2 * build.shank_m * build.thigh_m * np.cos(np.radians(rebent))))
    hip_contact = build.ankle_m + leg * 0.992
    contact_y = hip_contact + build.trunk_m * np.sin(np.radians(plan.contact_trunk_deg)) + 0.01 - build.arm_reach_m(plan.grip_m)
    extension = min(passes(extended_bar_m(build, plan)), peak + 0.02)
    contact = min(passes(contact_y), extension - 0.045)
    # Legs that come straight early pass the knee almost straight.
    stiff = plan.trunk_tip_deg > 3 or plan.hip_start_m > 0.03 or plan.shoulder_start_m > 0.06 or plan.shoulder_knee_m > 0.12
    first_end = knee + (0.25 if high else 0.18 if stiff else 0.36) * (contact - knee)
    rebend = knee + (0.68 if snatch else 0.74) * (contact - knee)
    at |= {"contact": contact, "extension": extension, "first_pull_end": first_end, "rebend": rebend} | ({} if high else {"knee": knee})
    script.quick.append((begin - 0.15, min(at.get("bottom", apex), script.now_s) + 0.25))

    # The feet, the hands.
    up = contact - plan.heel_lead_s
    script.both("ball", [(origin, ball), (extension + 0.03, ball)])
    script.both("heel", [(origin, 0.0), (up - 0.05, 0.0), (up + 0.015, 0.024), (extension + 0.02, HEEL_TOP_SHARE * build.stature_m)])
    stands = plan.stance_m if plan.stance_m != STANCE_M else script.last("right_stance")
    script.both("stance", [(origin, stands), (extension + 0.04, plan.stance_m)])
    script.both("toe_out", [(origin, script.last("right_toe_out")), (extension + 0.04, TOE_OUT_DEG)])
    script.set("grip", [(origin, plan.grip_m), (script.now_s, plan.grip_m)])
    script.set("wrist", [(origin, 0.0), (apex if plan.received else script.now_s, 0.0)])
    script.set("rack", [(origin, 0.0), (apex - 0.02 if plan.received else script.now_s, 0.0)])
    for axis, straight, raised_elbow in zip("xyz", STRAIGHT_ELBOW, HIGH_ELBOW if snatch else RAISED_ELBOW, strict=True):
        script.set(f"pole_{axis}", [(origin, straight), (extension - 0.05, straight), (apex - 0.06, raised_elbow)])

    if plan.arms_early_s <= 0:
        # Straight to the hip; then the elbows give way a little, since the bar is faster than the shoulders.
        script.wish("arm_slack", [(origin, 0.0006), (contact, 0.0006)], 0.0008, 0.0008)
        script.wish("arm_slack", [(contact, 0.0006), (extension, 0.0045)], 0.0015, 0.002)
    else:
        script.wish("arm_slack", [(origin, 0.0006), (extension - plan.arms_early_s, 0.0006)], 0.0008, 0.0008)
        bent = (build.upper_arm_m + build.forearm_m) * (1 - np.sin(np.radians(150 / 2)))
        script.wish("arm_slack", [(extension - plan.arms_early_s + 0.05, bent), (extension, 1.5 * bent)], 0.003)
    if high:
        script.wish("bar_x", [(origin, x0), (begin, x0)], 0.002, 0.003)
        script.wish("shoulder_over_bar", [(origin, plan.shoulder_knee_m - 0.01), (begin, plan.shoulder_knee_m - 0.01)], 0.005, 0.01)
        script.wish("knee", [(origin, plan.knee_first_pull_deg - 6), (begin, plan.knee_first_pull_deg - 6)], 1.5, 3.0)
        script.wish("balance", [(origin, 0.005), (begin, 0.005)], 0.02, 0.03)
        script.wish("shin_gap", [(origin, 0.004), (begin, 0.004)], 0.006, 0.006, 1)
    else:
        _first_pull(script, plan, origin, begin, knee, x0, (raised, at_knee), start)
        above_knee = passes(build.ankle_m + 0.995 * build.shank_m + 0.10)
        top = at_knee + plan.opened_deg
        script.wish("trunk", [(knee, at_knee), (above_knee, top)], 0.5, 1.0)
        script.wish("trunk", [(above_knee, top), (contact, plan.contact_trunk_deg)], settles, 6.0)
    # From the knee to the hip.
    script.wish("trunk", [(contact, plan.contact_trunk_deg), (extension, 90 + plan.lean_deg)], settles, 6.0)
    x_knee = x0 if high else x0 - plan.bar.back_at_knee_m
    x_contact = ball + plan.bar_over_ball_m - spec.back_at_contact_m
    script.wish(
        "bar_x", [(knee, x_knee), (knee + 0.5 * (contact - knee), 0.5 * x_knee + 0.5 * x_contact), (contact, x_contact)], 0.002, 0.0025
    )
    if plan.legs_first_s > 0.03:
        # Legs straight long before the hips: the trunk is thrown up over them.
        legs_done = max(extension - plan.legs_first_s, first_end + 0.02)
        script.wish(
            "knee", [(first_end, plan.knee_first_pull_deg), (legs_done, plan.knee_top_deg - 1), (extension, plan.knee_top_deg)], 0.4, 0.5
        )
        script.wish("hip", [(legs_done, 138.0), (legs_done + 0.02, 140.0)], 1.0)
    else:
        bends = [(first_end, plan.knee_first_pull_deg), (rebend, plan.knee_first_pull_deg - plan.rebend_deg), (contact, rebent)]
        script.wish("knee", bends, 0.3 if own_way else 1.0, 0.4 if own_way else 5.0)
    closing = max(0.015, (plan.gap_m - 0.01) / 0.9)
    loose = 10.0 if own_way else 1.0
    script.wish("gap", [(first_end, plan.gap_m), (contact - closing, plan.gap_m), (contact + 0.012, 0.009)], 0.003 * loose, 0.0025 * loose)
    script.wish("gap", [(contact + 0.01, 0.006)], 0.0012 * loose)
    chest = _passes_upward(path, clock, build.hip_height_m + 0.55 * build.trunk_m)
    script.wish("trunk_gap", [(contact, 0.012), (min(chest, apex - 0.06), 0.012)], 0.006, 0.006, 1)
    script.wish("balance", [(knee, plan.balance_m), (contact, plan.balance_m)], 0.012, 0.03)
    script.wish(
        "hip_x'",
        [(contact - 0.04, HIP_FORWARD_M_S), (contact + 0.02, HIP_FORWARD_M_S)],
        0.3 if own_way else 0.03,
        0.3 if own_way else 0.03,
        -1,
    )
    if plan.thrust_m_s:
        script.wished.pop()
        script.wish("hip_x'", [(contact - 0.005, plan.thrust_m_s), (contact + 0.005, plan.thrust_m_s)], 0.02, 0.02)
    if plan.approach_m_s:
        script.wish("bar_x'", [(contact - 0.02, -plan.approach_m_s), (contact - 0.01, -plan.approach_m_s)], 0.01, 0.01)
    if plan.body_gap_m > 0.03:
        middle = contact + 0.62 * (apex - contact)
        script.wish("trunk_gap", [(middle - 0.03, plan.body_gap_m), (middle + 0.03, plan.body_gap_m)], 0.004, 0.006)
    if plan.bump_m_s:
        script.wish("bar_x'", [(contact + 0.05, plan.bump_m_s), (contact + 0.06, plan.bump_m_s)], 0.01, 0.01)
    else:
        script.wish("bar_x'", [(contact, 0.2), (contact + 0.1, 0.2)], 0.012, 0.012, -1)
    script.wish("hip", [(extension, plan.hip_top_deg)], 1.0)
    script.wish("knee", [(extension, plan.knee_top_deg)], 0.8)
    script.wish("girdle", [(origin, 0.0), (contact, 0.005), (extension, plan.shrug_m), (apex, 0.02)], 0.01, 0.02)
    script.wish("hip_over_ankle", [(extension, -0.04)], 0.02)
    script.wish("trunk", [(extension, 90 + plan.lean_deg), (peak + 0.03, 90 + plan.lean_deg)], 2.0, 2.0)
    script.wish("knee", [(extension, plan.knee_top_deg), (peak + 0.02, plan.knee_top_deg)], 1.0, 2.0)
    script.wish("hip_y", [(knee, start.hip_y + 0.12), (extension, build.hip_height_m + 0.03)], 0.5, 0.8)
    script.wish("hip_x", [(knee, ball + start.hip_x), (extension, ball - 0.06)], 0.5, 0.8)

    script.set("aside", [(origin, plan.aside_m), (script.now_s, plan.aside_m)])
    if plan.tilt_deg:
        script.set("tilt", [(contact, 0.0), (apex, plan.tilt_deg), (at.get("bottom", apex), plan.tilt_deg), (script.now_s - 0.2, 0.0)])
    if plan.miss == "short":
        script.wish("hip_y", [(extension + 0.02, build.hip_height_m + 0.03), (script.now_s, 0.9 * build.hip_height_m)], 0.05, 0.05)
        script.wish("trunk", [(apex, 86.0)], 3.0)
    elif plan.received:
        _receive(script, plan, at, x_contact, ball)
    else:
        near = x_contact + 0.012
        script.wish("bar_x", [(contact, x_contact), (peak, near), (apex, near)], 0.004, 0.008)
        script.wish("trunk", [(peak, 90 + plan.lean_deg), (apex, 91.0)], 2.0, 4.0)
        script.wish("shoulder_over_bar", [(apex, -0.09)], 0.02)
        script.wish("hip_over_ankle", [(peak, 0.02), (apex, 0.02)], 0.03, 0.03)
        script.wish("hip_y", [(peak, build.hip_height_m + 0.04), (apex, build.hip_height_m + 0.03)], 0.02, 0.02)
        _finish_pull(script, plan, at, start, raised, ball)
    part.stop_s, part.meant_s, part.made = script.now_s, at, not plan.miss
    return at


def _passes_upward(path: BarPath, clock: Floats, height_m: float) -> float:
    """When the bar reaches a height on its way up, or its apex when it never does."""
    top = int(np.searchsorted(path.time_s, path.events_s["apex"]))
    return float(np.interp(height_m, path.y_m[:top], clock[:top]))


def begins_at(build: Build, height_m: float) -> str:
    """Where a lift that starts with the bar this high starts from, in the document's words."""
    return "floor" if height_m < 0.25 else "blocks"


def _trunk_with_hips(build: Build, start: Start, higher_m: float) -> float:
    return float(np.degrees(np.arcsin(np.clip((start.shoulder_y - start.hip_y - higher_m) / build.trunk_m, -0.3, 0.95))))


def _first_pull(
    script: Script, plan: PullPlan, origin: float, lift_off: float, knee: float, x0: float, trunks: tuple[float, float], start: Start
) -> None:
    """Set position and floor to knee: arms straight, the relations as planned."""
    spec, (raised, at_knee) = plan.bar, trunks
    rolled = [(origin, x0)]
    if abs(plan.roll_m) > 1e-6:
        rolled = [(origin, x0 + plan.roll_m), (lift_off - 0.9, x0 + plan.roll_m), (lift_off - 0.18, x0)]
    script.wish("bar_x", [*rolled, (lift_off, x0)], 0.001, 0.002)
    bar_keys = [(lift_off, x0), (lift_off + 0.45 * (knee - lift_off), x0 + spec.forward_off_floor_m), (knee, x0 - spec.back_at_knee_m)]
    script.wish("bar_x", bar_keys, 0.0015, 0.006)
    over = [(origin, plan.shoulder_start_m), (lift_off, plan.shoulder_start_m), (knee, plan.shoulder_knee_m)]
    script.wish("shoulder_over_bar", over[:2], 0.004, 0.02)
    script.wish("shoulder_over_bar", over[1:], 0.002 if plan.shoulder_knee_m > 0.10 else 0.008, 0.02)
    script.wish("trunk", [(origin, raised), (lift_off, raised), (knee, at_knee)], 0.5, 4.0)
    script.wish("balance", [(origin, plan.balance_m), (lift_off, plan.balance_m), (knee, plan.balance_m)], 0.02, 0.03)
    script.wish("hip_y", [(origin, start.hip_y), (knee, start.hip_y + 0.12)], 0.5, 0.8)
    script.wish("hip_x", [(origin, x0 - plan.bar_over_ball_m + start.hip_x), (knee, x0 - plan.bar_over_ball_m + start.hip_x)], 0.5, 0.8)
    if plan.shin_early_m > SOUND_SHIN_EARLY_M:
        low = script.build.knee_height_m - plan.shin_early_m
        early = lift_off + (knee - lift_off) * float(
            np.sqrt(max((low - spec.start_height_m) / (script.build.knee_height_m - spec.start_height_m), 0.05))
        )
        script.wish("shin", [(early - 0.03, 86.5), (knee, 88.0)], 0.6, 1.5)
    else:
        script.wish("shin_gap", [(lift_off + 0.02, 0.004), (knee, 0.004)], 0.006, 0.006, 1)


def _receive(script: Script, plan: PullPlan, at: dict[str, float], x_contact: float, ball0: float) -> None:
    """Under the bar, into the bottom and, unless the lift is missed, up again."""
    build, spec = script.build, plan.bar
    snatch = "snatch" in spec.kind
    apex, meet, bottom, end = at["apex"], at["meet"], at["bottom"], script.now_s
    stand = at.get("stand", end)
    contact, extension = at["contact"], at["extension"]
    ball = ball0 + plan.feet_shift_m
    wide = catch_stance_m(build)
    land = min(apex + 0.10, meet - 0.01)
    leave = extension + 0.035
    middle = (leave + land) / 2
    script.both("ball", [(leave + 0.005, ball0), (land - 0.005, ball), (end, ball)])
    script.both("air", [(leave, 0.0), (middle, 0.025), (land, 0.0), (end, 0.0)])
    script.both("heel", [(leave + 0.05, 0.05 * build.stature_m), (land, 0.012), (land + 0.03, 0.0), (end, 0.0)])
    script.both("stance", [(leave + 0.01, plan.stance_m), (land - 0.005, wide), (end, wide)])
    script.both("toe_out", [(leave + 0.01, TOE_OUT_DEG), (land - 0.005, 27.0), (end, 27.0)])
    script.set("wrist", [(meet, plan.wrist_deg if snatch else 20.0), (end, plan.wrist_deg if snatch else 20.0)])

    # The way of the bar after contact: off the hip, up, and back over the foot.
    top = x_contact + spec.loop_forward_m
    forward = contact + 0.75 * (apex - contact)
    script.wish("bar_x", [(contact, x_contact), (forward, top), (meet, top - spec.loop_back_m)], 0.003, 0.003)
    script.wish("bar_over_midfoot", [(bottom, plan.caught_m)], 0.002)
    if plan.caught_m > LANDS_FORWARD_M and bottom - meet > 0.3:
        # A bar that is ridden down long is in front on the way, and does not dart there in the bottom.
        script.wish("bar_over_midfoot", [(meet + 0.15 * (bottom - meet), plan.caught_m), (bottom, plan.caught_m)], 0.006, 0.012)
    power = spec.kind.startswith("power")
    deep = squat_hip_m(build, POWER_DEG if power else DEEP_DEG, wide, 0.14 if power else 0.20)
    tilt = plan.trunk_catch_deg
    script.wish("trunk", [(meet, tilt + 4), (bottom, tilt)], 0.8, 4.0)
    if not plan.miss:
        rise = [(bottom + share * (stand - bottom), share) for share in (0.48, 0.75)]
        tip = 16.0 * plan.hips_first
        script.wish(
            "trunk", [(bottom, tilt), (rise[0][0], tilt - tip), (rise[1][0], tilt - 0.5 * tip + 6), (stand, 89.0), (end, 89.0)], 0.8, 4.0
        )
        script.wish("bar_over_midfoot", [(bottom, plan.caught_m), (stand, 0.0), (end, 0.0)], 0.004, 0.008)
        if plan.knee_in_deg:
            script.set("knee_in", [(bottom, 0.0), (bottom + 0.3 * (stand - bottom), plan.knee_in_deg), (stand, 0.0)])
        script.wish("knee", [(stand, 176.0), (end, 176.0)], 0.8, 3.0)
        script.wish("balance", [(bottom, 0.0), (stand, 0.0), (end, 0.0)], 0.015, 0.03)
        script.wish("hip_over_ankle", [(bottom, -0.18), (stand, 0.03), (end, 0.03)], 0.05)
        script.wish("hip_y", [(bottom, deep), (stand, build.hip_height_m)], 0.5, 0.8)
    if snatch:
        lock = 0.0012
        late = meet + min(0.03, 0.4 * (bottom - meet)) + plan.elbow_late_s
        bent = 0.4 * (build.upper_arm_m + build.forearm_m) * (1 - np.sin(np.radians(150 / 2)))
        keys = [(meet, bent), (late, lock), (end, lock)]
        if plan.press_deg > 0:
            bent = pressed_m(build, plan.press_deg)
            keys = [(meet, bent), (bottom + 0.03, bent), (bottom + 0.03 + PRESS_S, lock), (end, lock)]
        script.wish("arm_slack", keys, 0.0012, 0.002)
        if plan.body_gap_m > 0.03:
            script.wish("shoulder_over_bar", [(apex, -0.12), (meet, 0.0)], 0.04)
        else:
            script.wish("shoulder_over_bar", [(extension + 0.06, -0.08), (apex, 0.0), (meet, 0.03)], 0.02, 0.04)
        script.wish("shoulder_over_bar", [(meet, 0.03), (bottom, 0.025), (stand, 0.02), (end, 0.02)], 0.006, 0.015)
        for axis, high, locked in zip("xyz", HIGH_ELBOW, LOCKED_ELBOW, strict=True):
            script.set(f"pole_{axis}", [(apex - 0.03, high), (meet, locked), (end, locked)])
    else:
        script.set("rack", [(apex + 0.01, 0.0), (meet - 0.005, 1.0), (end, 1.0)])
        elbow = np.radians(plan.rack_elbow_deg)
        for axis, high, racked in zip("xyz", RAISED_ELBOW, (np.cos(elbow), np.sin(elbow), 0.25), strict=True):
            script.set(f"pole_{axis}", [(apex - 0.03, high), (meet, racked), (end, racked)])
        ahead, far = -plan.rack_ahead_m, -plan.turnover_gap_m
        script.wish("shoulder_over_bar", [(extension + 0.05, far), (apex, far)], 0.02, 0.04)
        script.wish("shoulder_over_bar", [(meet, ahead), (bottom, ahead), (end, ahead)], 0.003, 0.004)
        script.wish("shoulder_above_bar", [(meet, -0.02), (bottom, -0.02), (end, -0.02)], 0.003, 0.004)
    script.wish("shin", [(meet, 50.0), (bottom, 50.0), (stand, 50.0)], 2.0, 2.0, 1)
    dropping = (104.0, 84.0) if power else (96.0, 60.0) if snatch else (104.0, 78.0)
    script.wish("knee", [(apex, dropping[0]), (meet, dropping[1])], 8.0)
    script.wish("trunk", [(apex, 86.0)], 4.0)
    script.wish("hip_over_ankle", [(apex, -0.08), (meet, -0.15), (bottom, -0.18)], 0.05)
    falling = [(extension + 0.02, build.hip_height_m + 0.03), (apex, squat_hip_m(build, dropping[0], wide, 0.06)), (bottom, deep)]
    script.wish("hip_y", falling, 0.06, 0.06)
    script.wish("girdle", [(meet, 0.01), (bottom, 0.0), (end, 0.0)], 0.01, 0.015)


def _finish_pull(script: Script, plan: PullPlan, at: dict[str, float], start: Start, raised: float, ball: float) -> None:
    """After a pull that is not received: the bar sinks back to the hang and is set down."""
    build = script.build
    apex = at["apex"]
    x = ball + plan.bar_over_ball_m
    reach = build.arm_reach_m(plan.grip_m)
    hang = build.hip_height_m + build.trunk_m - reach - 0.012
    script.move(hang, 0.55)
    stood = script.now_s
    script.hold(0.35)
    down = script.now_s
    script.move(build.knee_height_m + 0.02, 0.8)
    passed = script.now_s
    script.move(plan.bar.start_height_m, 0.7)
    end = script.now_s
    script.hold(0.5)
    rest = script.now_s
    script.both("heel", [(apex, 0.05 * build.stature_m), (stood - 0.15, 0.0), (rest, 0.0)])
    script.both("ball", [(rest, ball)])
    script.wish("arm_slack", [(stood, 0.0006), (rest, 0.0006)], 0.0008, 0.0008)
    script.wish("trunk", [(stood, 88.0), (down, 88.0), (passed, raised + 2), (end, raised), (rest, raised)], 1.0, 4.0)
    script.wish("knee", [(stood, 175.0), (down, 175.0)], 1.0, 3.0)
    script.wish("bar_x", [(stood, x - 0.055), (down, x - 0.055), (passed, x - 0.03), (end, x), (rest, x)], 0.003, 0.01)
    script.wish(
        "shoulder_over_bar", [(passed, plan.shoulder_knee_m), (end, plan.shoulder_start_m), (rest, plan.shoulder_start_m)], 0.006, 0.02
    )
    script.wish("hip_y", [(stood, build.hip_height_m), (down, build.hip_height_m), (end, start.hip_y), (rest, start.hip_y)], 0.5, 0.8)
    script.wish("hip_x", [(stood, ball - 0.06), (down, ball - 0.06), (end, ball + start.hip_x), (rest, ball + start.hip_x)], 0.5, 0.8)
