"""The shape of the body: what its state holds, and how joints follow from it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

STATE = (
    "hip_x", "hip_y", "shoulder_x", "shoulder_y", "near_knee_x", "near_knee_y", "far_knee_x", "far_knee_y", "near_ankle_x",
    "near_ankle_y", "far_ankle_x", "far_ankle_y", "near_foot", "far_foot", "elbow_x", "elbow_y", "elbow_z", "wrist_x", "wrist_y",
    "ear_x", "ear_y", "nose_x", "nose_y",
)  # fmt: skip
SIZE = len(STATE)
SHARED = ("depth", "yaw", "pitch", "floor", "thigh", "shin", "trunk", "upper_arm", "forearm", "grip", "stance", "received")
PARTS = ("shoulder", "elbow", "wrist", "hip", "knee", "ankle", "heel", "toe", "ear")
POINTS = tuple(f"{side}_{part}" for side in ("near", "far") for part in PARTS) + ("nose",)
AT = {name: i for i, name in enumerate(STATE)}
POINT = {name: i for i, name in enumerate(POINTS)}
# Shares of stature: mean adult segment lengths from the anthropometric table used throughout biomechanics teaching.
THIGH, SHIN, UPPER_ARM, FOREARM, PALM = 0.245, 0.246, 0.182, 0.142, 0.036
# Hip to shoulder; 0.288 with the arms at the sides, more as soon as they reach or hold.
TRUNK = 0.300
ANKLE_HEIGHT, SHOE_M = 0.039, 0.025
# Heels and toes are the ends of the sole.
HEEL_BACK, BALL_AHEAD, TOE_AHEAD, NECK = 0.053, 0.0755, 0.135, 0.116
HALF = {"shoulder": 0.106, "hip": 0.052, "ear": 0.030}
# Half of how wide the feet stand: to pull or to dip, and where a lift is received or squatted.
STANCE, RECEIVED, STANCE_SD, RECEIVED_SD = 0.090, 0.120, 0.015, 0.020
# Straight knees lie between hip and ankle; bent ones go out, by so much as the leg is short of straight.
KNEES_OUT = 0.060
TOE_OUT = 0.045
# What people weigh for their stature squared, kg/m².
BODY_KG_PER_M2 = 24.0
LEG_SD, TRUNK_SD, ARM_SD, SUM_SD = 0.035, 0.035, 0.04, 0.012
STATURE_SD_UNKNOWN = 0.08


def places_of(states: Floats, shared: Floats, stature: float, received: Floats) -> Floats:
    """All `POINTS` `(frames, POINTS, 3)` of states; `received` `(frames,)` is how far the feet have gone from `STANCE` to `RECEIVED`."""
    made = np.zeros((len(POINTS), 3, len(states))).transpose(2, 0, 1)
    foot_aside = shared[..., 10] + received * (shared[..., 11] - shared[..., 10])
    for sign, side in ((1.0, "near"), (-1.0, "far")):
        for part in ("shoulder", "elbow", "wrist", "hip", "knee", "ankle", "ear"):
            here = made[:, POINT[f"{side}_{part}"]]
            name = part if part not in ("knee", "ankle") else f"{side}_{part}"
            here[:, 0], here[:, 1] = states[:, AT[f"{name}_x"]], states[:, AT[f"{name}_y"]]
            aside = (
                foot_aside if part == "ankle"
                else _knee_aside(states, side, stature, foot_aside) if part == "knee"
                else HALF.get(part, 0.0) * stature
            )  # fmt: skip
            here[:, 2] = sign * (states[:, AT["elbow_z"]] if part == "elbow" else shared[..., 9] if part == "wrist" else aside)
        ankle, angle = made[:, POINT[f"{side}_ankle"]], states[:, AT[f"{side}_foot"]]
        cos, sin, low = np.cos(angle), np.sin(angle), ANKLE_HEIGHT * stature + SHOE_M
        heel, ball = (
            ankle + np.stack([ahead * cos + low * sin, ahead * sin - low * cos, 0 * cos], axis=-1)
            for ahead in (-HEEL_BACK * stature, BALL_AHEAD * stature)
        )
        # A foot whose heel comes up turns about the ball; the toes stay flat.
        toes, up = (TOE_AHEAD - BALL_AHEAD) * stature, np.maximum(angle, 0.0)
        made[:, POINT[f"{side}_heel"]] = heel
        made[:, POINT[f"{side}_toe"]] = ball + np.stack([toes * np.cos(up), toes * np.sin(up), 0 * cos + sign * TOE_OUT * stature], axis=-1)
    made[:, POINT["nose"], :2] = states[:, [AT["nose_x"], AT["nose_y"]]]
    return made


def _knee_aside(states: Floats, side: str, stature: float, foot_aside: Floats) -> Floats:
    """How far a knee is from the middle of the body, by how bent the leg is."""
    across = states[:, AT["hip_x"]] - states[:, AT[f"{side}_ankle_x"]]
    up = states[:, AT["hip_y"]] - states[:, AT[f"{side}_ankle_y"]]
    straight = np.clip(np.hypot(across, up) / ((THIGH + SHIN) * stature), 0.0, 0.999)
    return np.asarray((HALF["hip"] * stature + foot_aside) / 2 + stature * KNEES_OUT * np.sqrt(1 - straight**2))


def balance_of(places: Floats) -> tuple[Floats, Floats]:
    """How far forward the lifter's centre of mass and the middle of the feet are (m), by the published table of segment masses."""

    def x(name: str) -> Floats:
        return places[:, POINT[name], 0]

    mass = 0.081 * x("near_ear") + 0.497 * (0.5 * x("near_hip") + 0.5 * x("near_shoulder"))
    mass = mass + 2 * 0.028 * (0.564 * x("near_shoulder") + 0.436 * x("near_elbow"))
    mass = mass + 2 * 0.022 * (0.32 * x("near_elbow") + 0.68 * x("near_wrist"))
    middle = 0.0 * mass
    for side in ("near", "far"):
        mass = mass + 0.100 * (0.567 * x(f"{side}_hip") + 0.433 * x(f"{side}_knee"))
        mass = mass + 0.0465 * (0.567 * x(f"{side}_knee") + 0.433 * x(f"{side}_ankle"))
        foot = 0.5 * (x(f"{side}_heel") + x(f"{side}_toe"))
        mass = mass + 0.0145 * foot
        middle = middle + 0.5 * foot
    return mass, middle


def included_deg(one: Floats, joint: Floats, other: Floats) -> Floats:
    """Included angle at a joint in the plane, degrees, 180 straight, of places `(frames, 2 or more)`."""
    u, v = one[:, :2] - joint[:, :2], other[:, :2] - joint[:, :2]
    return np.asarray(np.degrees(np.arctan2(np.abs(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]), (u * v).sum(1))))
