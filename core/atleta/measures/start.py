"""The start position that a lifter's own build asks for: the relations are the rule, the degrees follow from the segments."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..motion.body.model import ANKLE_HEIGHT, BALL_AHEAD, HALF, PALM, SHOE_M, STANCE

# How far out to the side the knees of a set position are, of stature.
KNEE_OUT = 0.120
# The joint of an arm that hangs straight down a little ahead of the bar: the lats hold the bar back.
SHOULDER_AHEAD_M, KNEE_AHEAD_M = 0.03, 0.02
LEAST_HIP_ABOVE_KNEE_M = 0.035


@dataclass(frozen=True)
class Start:
    """Joints by name over the bar's place (x forward) and the floor, m, and the trunk's angle against the horizontal."""

    points_m: dict[str, tuple[float, float]]
    """ankle, knee, hip, shoulder, bar; all as seen from the side."""
    trunk_deg: float


def solved_start(segments_m: Mapping[str, float], stature_m: float, bar_y_m: float) -> Start:
    """Foot flat, ball of the foot under the bar, arm straight with the shoulder joint just ahead of the bar, knee a little ahead of it.

    Where a build would have to put its hips level with the knees for that, the knees give way backwards as far as they must.

    Args:
        segments_m: thigh, shin, trunk, upper_arm, forearm, and grip (from the bar's middle to a hand).
        bar_y_m: the bar above the floor.
    """
    return _solved(*(segments_m[name] for name in ("thigh", "shin", "trunk", "upper_arm", "forearm", "grip")), stature_m, bar_y_m)


@lru_cache(maxsize=64)
def _solved(
    thigh_m: float, shin_m: float, trunk_m: float, upper_arm_m: float, forearm_m: float, grip_m: float, stature_m: float, bar_y_m: float
) -> Start:
    arm = upper_arm_m + forearm_m + PALM * stature_m
    aside = grip_m - HALF["shoulder"] * stature_m
    shoulder = np.array([SHOULDER_AHEAD_M, bar_y_m + np.sqrt(max(arm**2 - aside**2 - SHOULDER_AHEAD_M**2, 0.01))])
    ankle = np.array([-BALL_AHEAD * stature_m, ANKLE_HEIGHT * stature_m + SHOE_M])
    shin = _seen(shin_m, (KNEE_OUT - STANCE) * stature_m)
    thigh = _seen(thigh_m, (KNEE_OUT - HALF["hip"]) * stature_m)
    for ahead in np.arange(KNEE_AHEAD_M, -0.081, -0.01):
        knee = np.array([ahead, ankle[1] + np.sqrt(max(shin**2 - (ahead - ankle[0]) ** 2, 0.01))])
        hip = _behind(knee, thigh, shoulder, trunk_m)
        if hip[1] - knee[1] >= LEAST_HIP_ABOVE_KNEE_M:
            break
    trunk = float(np.degrees(np.arctan2(shoulder[1] - hip[1], shoulder[0] - hip[0])))
    points = {"ankle": ankle, "knee": knee, "hip": hip, "shoulder": shoulder, "bar": np.array([0.0, bar_y_m])}
    return Start({name: (float(place[0]), float(place[1])) for name, place in points.items()}, trunk)


def _seen(length_m: float, aside_m: float) -> float:
    """How long a segment looks from the side."""
    return float(np.sqrt(max(length_m**2 - aside_m**2, 0.01)))


def _behind(a: np.ndarray, to_a: float, b: np.ndarray, to_b: float) -> np.ndarray:
    """The point behind (at the smaller x) at these distances from two others; between them where they are too far apart."""
    way = b - a
    far = float(np.hypot(*way))
    along = np.clip((to_a**2 - to_b**2 + far**2) / (2 * far), -to_a, to_a)
    off = np.sqrt(max(to_a**2 - along**2, 0.0))
    unit = way / far
    return np.asarray(a + along * unit + off * np.array([-unit[1], unit[0]]))
