"""The lifter's body, found from the bar: shoulders from bar and arms, hips from shoulders and trunk, knees by two-link inverse
kinematics. All in the sagittal plane, metres, x forward from the bar's place at lift-off, y up from the floor."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from .barpath import BarPath
from .build import Build

Point = NDArray[np.float64]
GRIP_HALF_WIDTH_M = {"snatch": 0.42, "clean": 0.27}


@dataclass(frozen=True)
class Pose:
    """Joint places `(2,)` in metres; both sides of the body alike except where a split parts the feet."""

    bar: Point
    shoulder: Point
    elbow: Point
    hip: Point
    knee: Point
    ankle: Point
    heel: Point
    toe: Point
    head: Point
    back_knee: Point
    back_ankle: Point
    back_heel: Point
    back_toe: Point
    stance_half_width_m: float
    grip_half_width_m: float


def pose_at(path: BarPath, build: Build, time_s: float) -> Pose:
    """The body at one instant of a lift."""
    keys = _keys(path.kind, build, tuple(sorted(path.events_s.items())))
    bar = np.array(path.at(time_s))
    grip = keys.grip_m
    released = path.events_s.get("release", np.inf)
    held = bar if time_s <= released else np.array(path.at(released))
    offset = np.array([keys.shoulder_x(time_s), keys.shoulder_y(time_s)])
    shoulder = held + offset
    trunk = np.radians(keys.trunk(time_s))
    hip = shoulder - build.trunk_m * np.array([np.cos(trunk), np.sin(trunk)])
    lift = float(np.clip(keys.heel(time_s), 0, 0.16))
    split = float(keys.split(time_s))
    ankle, heel, toe = _foot(build, keys.ball_x, lift)
    shift = np.array([0.55 * split, 0.0])
    front = _leg(build, hip, ankle + shift)
    if split > 0.02:
        back_ankle, back_heel, back_toe = _foot(build, keys.ball_x, 0.22 * split / (0.4 + split))
        back_shift = np.array([-0.45 * split, 0.0])
    else:
        back_ankle, back_heel, back_toe, back_shift = ankle, heel, toe, np.zeros(2)
    back = _leg(build, hip, back_ankle + back_shift)
    hip = front[0] if split < 0.02 else hip
    shoulder = hip + build.trunk_m * np.array([np.cos(trunk), np.sin(trunk)])
    hand = bar if time_s <= released else shoulder + np.array([0.18, -0.52 * build.stature_m * 0.5])
    elbow = _two_link(shoulder, hand, _seen(build.upper_arm_m, grip, build), _seen(build.forearm_m, grip, build), -1.0)
    # In the front rack the arm is folded almost flat and the plane says little: the elbow points ahead, a little down.
    racked = float(keys.elbows_forward(time_s))
    elbow = (1 - racked) * elbow + racked * (shoulder + 0.9 * build.upper_arm_m * np.array([0.93, -0.3]))
    neck = np.array([np.cos(trunk + 0.05), np.sin(trunk + 0.05)])
    head = shoulder + 0.115 * build.stature_m * (0.6 * neck + 0.4 * np.array([0.35, 0.95]))
    stance = float(keys.stance(time_s))
    return Pose(
        hand if time_s <= released else bar,
        shoulder,
        elbow,
        hip,
        front[1],
        ankle + shift,
        heel + shift,
        toe + shift,
        head,
        back[1],
        back_ankle + back_shift,
        back_heel + back_shift,
        back_toe + back_shift,
        stance,
        grip,
    )


@dataclass(frozen=True)
class _Keys:
    shoulder_x: PchipInterpolator
    shoulder_y: PchipInterpolator
    trunk: PchipInterpolator
    heel: PchipInterpolator
    split: PchipInterpolator
    stance: PchipInterpolator
    elbows_forward: PchipInterpolator
    grip_m: float
    ball_x: float


@lru_cache(maxsize=64)
def _keys(kind: str, build: Build, events: tuple[tuple[str, float], ...]) -> _Keys:
    at = dict(events)
    return _jerk_keys(build, at) if "dip_start" in at else _pull_keys(kind, build, at)


def _pull_keys(kind: str, build: Build, at: dict[str, float]) -> _Keys:
    snatch = kind.endswith("snatch")
    grip = GRIP_HALF_WIDTH_M["snatch" if snatch else "clean"]
    reach = build.arm_reach_m(grip) - 0.005
    overhead = build.arm_reach_m(grip) - 0.01
    low = _start_trunk(build, reach)
    times = [
        -5.0,
        at["lift_off"],
        at["knee"],
        at["contact"],
        at["peak_speed"],
        at["apex"],
        at["meet"],
        at["bottom"],
        at["bottom"] + 0.35,
        at["stand"],
        at["stand"] + 5,
    ]
    up = at["stand"]
    if snatch:
        x = [0.02, 0.02, 0.06, 0.01, -0.07, -0.04, 0.03, 0.02, 0.02, 0.01, 0.01]
        y = [
            reach,
            reach,
            reach * 0.99,
            reach,
            reach * 0.985,
            -0.12 * build.stature_m,
            -overhead * 0.93,
            -overhead,
            -overhead,
            -overhead,
            -overhead,
        ]
        trunk = [low, low, low + 2, 76, 96, 84, 74, 70, 70, 89, 89]
        forward = [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]
    else:
        x = [0.02, 0.02, 0.06, 0.01, -0.07, -0.13, -0.09, -0.08, -0.08, -0.08, -0.08]
        y = [reach, reach, reach * 0.99, reach, reach * 0.985, 0.10, -0.01, -0.02, -0.02, -0.02, -0.02]
        trunk = [low, low, low + 2, 76, 96, 86, 80, 76, 76, 89, 89]
        forward = [0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 1]
    heel = [0, 0, 0, 0, 0.11, 0.03, 0, 0, 0, 0, 0]
    stance = [0.14, 0.14, 0.14, 0.14, 0.14, 0.18, 0.21, 0.21, 0.21, 0.21, 0.21]
    flat = [0.0] * len(times)

    def curve(values: Sequence[float]) -> PchipInterpolator:
        return PchipInterpolator(times, values)

    assert up > at["bottom"]
    return _Keys(curve(x), curve(y), curve(trunk), curve(heel), curve(flat), curve(stance), curve(forward), grip, 0.0)


def _jerk_keys(build: Build, at: dict[str, float]) -> _Keys:
    grip = GRIP_HALF_WIDTH_M["clean"]
    overhead = build.arm_reach_m(grip) - 0.01
    times = [
        -5.0,
        at["dip_start"],
        at["dip_bottom"],
        at["drive_end"],
        at["apex"],
        at["meet"],
        at["bottom"],
        at["bottom"] + 0.4,
        at["recovered"],
        at["recovered"] + 5,
    ]
    x = [-0.08, -0.08, -0.08, -0.08, -0.04, 0.0, 0.0, 0.0, 0.0, 0.0]
    y = [-0.02, -0.02, -0.02, -0.05, -0.7 * overhead, -overhead, -overhead, -overhead, -overhead, -overhead]
    trunk = [89.0, 89, 88, 89, 89, 88, 88, 88, 89, 89]
    heel = [0, 0, 0, 0.09, 0.02, 0, 0, 0, 0, 0]
    split = [0, 0, 0, 0, 0.5, 0.8, 0.8, 0.8, 0, 0]
    stance = [0.15] * len(times)
    forward = [1, 1, 1, 1, 0, 0, 0, 0, 0, 0]

    def curve(values: Sequence[float]) -> PchipInterpolator:
        return PchipInterpolator(times, values)

    return _Keys(curve(x), curve(y), curve(trunk), curve(heel), curve(split), curve(stance), curve(forward), grip, 0.04)


def _start_trunk(build: Build, reach: float) -> float:
    """Trunk angle at the start that puts the knee just ahead of the bar: the start that this build asks for."""
    ankle, _, _ = _foot(build, 0.0, 0.0)
    shoulder = np.array([0.02, 0.225 + reach])

    def knee_ahead(degrees: float) -> float:
        trunk = np.radians(degrees)
        hip = shoulder - build.trunk_m * np.array([np.cos(trunk), np.sin(trunk)])
        return float(_leg(build, hip, ankle)[1][0] - 0.03)

    grid = np.arange(5.0, 70.0, 1.0)
    values = [knee_ahead(g) for g in grid]
    for left, right, a, b in zip(grid, grid[1:], values, values[1:], strict=False):
        if a * b < 0:
            return float(brentq(knee_ahead, left, right))
    return float(grid[int(np.argmin(np.abs(values)))])


def _foot(build: Build, ball_x: float, lift: float) -> tuple[Point, Point, Point]:
    """Ankle, heel and toe with the heel raised by `lift` about the ball of the foot."""
    length = build.foot_m
    turn = float(np.arcsin(np.clip(lift / (0.7 * length), 0, 0.95)))
    cos, sin = np.cos(turn), np.sin(turn)
    ball = np.array([ball_x, 0.0])
    heel = ball + 0.7 * length * np.array([-cos, sin])
    ankle = ball + np.array([-0.47 * length * cos + build.ankle_m * sin, 0.47 * length * sin + build.ankle_m * cos])
    return ankle, heel, ball + np.array([0.3 * length, 0.0])


def _leg(build: Build, hip: Point, ankle: Point) -> tuple[Point, Point]:
    """Hip (drawn in to what the leg can reach) and knee, knee forward."""
    away = hip - ankle
    far = float(np.hypot(*away))
    longest = 0.999 * (build.shank_m + build.thigh_m)
    if far > longest:
        hip = ankle + away * longest / far
    return hip, _two_link(ankle, hip, build.shank_m, build.thigh_m, -1.0)


def _two_link(root: Point, tip: Point, first: float, second: float, side: float) -> Point:
    """The joint between two links; drawn straight when the tip is out of reach. `side` +1 bends to the left of root→tip."""
    along = tip - root
    far = float(np.clip(np.hypot(*along), abs(first - second) + 1e-6, (first + second) * 0.9995))
    along = along / max(float(np.hypot(*along)), 1e-9)
    reach = (first**2 - second**2 + far**2) / (2 * far)
    out = np.sqrt(max(first**2 - reach**2, 0.0))
    return np.asarray(root + reach * along + side * out * np.array([-along[1], along[0]]))


def _seen(length: float, grip: float, build: Build) -> float:
    """A straight arm's part as seen from the side."""
    return length * build.arm_reach_m(grip) / (build.upper_arm_m + build.forearm_m)
