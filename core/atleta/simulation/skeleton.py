"""The simulated skeleton: joints of the whole body from the few quantities that carry a lift.

World axes: x forward, y up, z to the lifter's right, metres. What carries the lift is the middle of the hips, the trunk's angle, the
glide of the shoulder girdle, the bar, and where the feet stand; knees and elbows follow by two-link inverse kinematics.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .build import Build

Floats = NDArray[np.float64]
BALL_SHARE = 0.70
ANKLE_SHARE = 0.23
# How far the sole goes on behind the heel and beyond the toes, shares of the foot.
SOLE_BEYOND = 0.08, 0.06
SIDES = {"left": -1.0, "right": 1.0}


@dataclass(frozen=True)
class Setting:
    """What is settled before the body is fitted to the bar, `(samples,)` each; `(2, samples)` for left and right leg.

    `wrist` is the wrist's extension (rad), `rack` 1 where the bar lies on the shoulders with the hands under it, `pole` the direction
    (3, samples) to which the elbows bend (z outward), `toe_out` the angle (rad) by which feet and knees turn outward,
    `knee_in` that by which the knees then fall inward; `tilt` (rad) raises the bar's right end, `aside` (m) is how far the bar's middle is
    to the right of the hands'.
    """

    bar_y: Floats
    ball_x: Floats
    air: Floats
    heel: Floats
    stance: Floats
    toe_out: Floats
    grip: Floats
    wrist: Floats
    rack: Floats
    rack_palm: Floats
    pole: Floats
    held: Floats
    knee_in: Floats
    tilt: Floats
    aside: Floats


@dataclass(frozen=True)
class Carriage:
    """The fitted quantities `(samples,)`: hip centre, trunk angle above horizontal (rad), bar x, rise of the shoulder girdle (m)."""

    hip_x: Floats
    hip_y: Floats
    trunk: Floats
    bar_x: Floats
    girdle: Floats


def foot(build: Build, ball_x: Floats, air: Floats, lift: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """Ankle x and y, heel x and y with the heel raised by `lift` about the ball of the foot, the whole foot `air` off the floor."""
    length = build.foot_m
    turn = np.arcsin(np.clip(lift / (BALL_SHARE * length), -0.2, 0.95))
    cos, sin = np.cos(turn), np.sin(turn)
    back = (BALL_SHARE - ANKLE_SHARE) * length
    ankle_x, ankle_y = ball_x - back * cos + build.ankle_m * sin, air + back * sin + build.ankle_m * cos
    return ankle_x, ankle_y, ball_x - BALL_SHARE * length * cos, air + BALL_SHARE * length * sin


def knee_of(build: Build, hip: Floats, ankle: Floats, out: Floats) -> Floats:
    """Knee `(3, samples)` between hip and ankle `(3, samples)`, bent towards `out`."""
    return two_link(ankle, hip, build.shank_m, build.thigh_m, out)


def bent_towards(setting: Setting, row: int) -> Floats:
    """Direction `(3, samples)` in which the knee of a leg (0 left, 1 right) bends."""
    turn = setting.toe_out[row] - setting.knee_in
    return np.stack([np.cos(turn), np.zeros_like(turn), np.sin(turn)])


def two_link(root: Floats, tip: Floats, first: float, second: float, pole: Floats) -> Floats:
    """The joint `(3, samples)` between two links; drawn straight when the tip is out of reach."""
    along = tip - root
    far = np.sqrt((along**2).sum(0))
    held = np.clip(far, abs(first - second) + 1e-6, (first + second) * 0.99999)
    along = along / np.maximum(far, 1e-9)
    reach = (first**2 - second**2 + held**2) / (2 * held)
    aside = pole - (pole * along).sum(0) * along
    aside = aside / np.maximum(np.sqrt((aside**2).sum(0)), 1e-9)
    return np.asarray(root + reach * along + np.sqrt(np.maximum(first**2 - reach**2, 0.0)) * aside)


def shoulder_of(build: Build, carried: Carriage) -> tuple[Floats, Floats]:
    """Shoulder joint x and y."""
    long = build.trunk_m + carried.girdle
    return carried.hip_x + long * np.cos(carried.trunk), carried.hip_y + long * np.sin(carried.trunk)


def wrist_of(build: Build, shoulder: Floats, hand: Floats, wrist: Floats, rack: Floats, rack_palm: Floats) -> Floats:
    """Wrist joint `(3, samples)` of the right hand that holds the bar at `hand`."""
    along = hand - shoulder
    along = along / np.maximum(np.sqrt((along**2).sum(0)), 1e-9)
    cos, sin = np.cos(wrist), np.sin(wrist)
    straight = np.stack([along[0] * cos - along[1] * sin, along[0] * sin + along[1] * cos, along[2]])
    racked = np.stack([np.cos(rack_palm), np.sin(rack_palm), np.zeros_like(wrist)])
    palm = (1 - rack) * straight + rack * racked
    palm = palm / np.maximum(np.sqrt((palm**2).sum(0)), 1e-9)
    return np.asarray(hand - build.palm_m * palm)


def joints(build: Build, setting: Setting, carried: Carriage) -> dict[str, Floats]:
    """Every joint `(3, samples)` by name, with `bar` and the hands' places on it.

    Names: nose, ear, shoulder, elbow, wrist, hand, hip, knee, ankle, heel, toe with `left_`/`right_` (nose and neck have none);
    `bar_right` is a point of the bar one metre to the right of its middle.
    """
    count = len(setting.bar_y)
    shoulder_x, shoulder_y = shoulder_of(build, carried)
    slope = np.stack([np.zeros(count), np.sin(setting.tilt), np.cos(setting.tilt)])
    middle = np.stack([carried.bar_x, setting.bar_y, np.zeros(count)]) + setting.aside * slope
    made: dict[str, Floats] = {"bar": middle, "bar_right": middle + slope}
    for row, (side, sign) in enumerate(SIDES.items()):
        flip = np.array([1.0, 1.0, sign])[:, None]
        hip = np.stack([carried.hip_x, carried.hip_y, np.full(count, build.hip_half_m)])
        ankle_x, ankle_y, heel_x, heel_y = foot(build, setting.ball_x[row], setting.air[row], setting.heel[row])
        turn, stance = setting.toe_out[row], setting.stance[row]
        # The foot turns outward about its ankle's place on the floor; its length along x shrinks a little by that.
        ankle = np.stack([ankle_x, ankle_y, stance])
        out = bent_towards(setting, row)
        heel = np.stack([heel_x, heel_y, stance - (ankle_x - heel_x) * np.tan(turn)])
        toe_far = setting.ball_x[row] + (1 - BALL_SHARE) * build.foot_m
        toe = np.stack([toe_far, setting.air[row] + np.zeros(count), stance + (toe_far - ankle_x) * np.tan(turn)])
        # On the side where the bar is higher the shoulder goes up with the hand.
        higher = sign * setting.grip * np.tan(setting.tilt)
        shoulder = np.stack([shoulder_x, shoulder_y + higher, np.full(count, build.shoulder_half_m)])
        hand = np.stack([carried.bar_x, setting.bar_y + higher, setting.grip])
        hanging = shoulder + np.stack([0.10 * np.ones(count), -0.94 * build.arm_m * np.ones(count), 0.06 * np.ones(count)])
        hand = setting.held * hand + (1 - setting.held) * hanging
        # A hand that follows a falling bar lets it go where the arm ends, and does not go through the shoulder.
        far = hand - shoulder
        reach = np.sqrt((far**2).sum(0))
        near = build.upper_arm_m - build.forearm_m + build.palm_m + 0.02 + 0.3 * build.arm_m * (1 - setting.held)
        short = np.where(setting.held < 1, np.clip(reach, near, 0.985 * build.arm_m) / reach, 1.0)
        hand = shoulder + short * far
        wrist = wrist_of(build, shoulder, hand, setting.wrist, setting.rack, setting.rack_palm)
        elbow = two_link(shoulder, wrist, build.upper_arm_m, build.forearm_m, setting.pole)
        for name, place in {
            "shoulder": shoulder, "elbow": elbow, "wrist": wrist, "hand": hand, "hip": hip, "knee": knee_of(build, hip, ankle, out),
            "ankle": ankle, "heel": heel, "toe": toe,
        }.items():  # fmt: skip
            made[f"{side}_{name}"] = flip * place
    # The neck carries the head half upright, whatever the trunk does; the eyes look ahead.
    lean = 0.45 * carried.trunk + 0.55 * np.radians(92)
    base = np.stack([shoulder_x - 0.01, shoulder_y, np.zeros(count)])
    up = np.stack([np.cos(lean), np.sin(lean), np.zeros(count)])
    ahead = np.stack([np.sin(lean), -np.cos(lean), np.zeros(count)])
    made["neck"] = base + 0.055 * build.stature_m * up
    for side, sign in SIDES.items():
        made[f"{side}_ear"] = made["neck"] + build.stature_m * (0.062 * up + 0.008 * ahead) + np.array([0, 0, sign * 0.043])[:, None]
    made["nose"] = made["neck"] + build.stature_m * (0.052 * up + 0.068 * ahead)
    return made


def soled(joints: Mapping[str, Floats], build: Build) -> dict[str, Floats]:
    """The same joints `(3, ...)` with heels and toes at the ends of the shoes' soles, where they can be seen."""
    made = dict(joints)
    for side in ("left", "right"):
        heel, toe = joints[f"{side}_heel"], joints[f"{side}_toe"]
        ahead = toe - heel
        ahead[1] = 0.0
        ahead = ahead / np.linalg.norm(ahead, axis=0)
        back = heel - (toe - (1 - BALL_SHARE) * build.foot_m * ahead)
        made[f"{side}_heel"] = heel + SOLE_BEYOND[0] * build.foot_m * back / np.linalg.norm(back, axis=0)
        made[f"{side}_toe"] = toe + SOLE_BEYOND[1] * build.foot_m * ahead
    return made
