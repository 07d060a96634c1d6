"""The shape of the body: what its state holds, how joints follow from it, and where a pose model's points lie against them."""

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
SHARED = ("depth", "yaw", "pitch", "floor", "thigh", "shin", "trunk", "upper_arm", "forearm", "grip", "stance", "received", "seat", "head")
PARTS = ("shoulder", "elbow", "wrist", "hip", "knee", "ankle", "heel", "toe", "ear")
POINTS = tuple(f"{side}_{part}" for side in ("near", "far") for part in PARTS) + ("nose",)
AT = {name: i for i, name in enumerate(STATE)}
POINT = {name: i for i, name in enumerate(POINTS)}
# The pose model's points by our names; its left is the lifter's left.
MODEL_POINT = {
    "nose": (0, 0), "ear": (7, 8), "shoulder": (11, 12), "elbow": (13, 14), "hip": (23, 24), "knee": (25, 26), "ankle": (27, 28),
    "heel": (29, 30), "toe": (31, 32),
}  # fmt: skip

# Shares of stature: mean adult segment lengths from the anthropometric table used throughout biomechanics teaching.
THIGH, SHIN, UPPER_ARM, FOREARM, PALM = 0.245, 0.246, 0.182, 0.142, 0.036
# Hip to shoulder; 0.288 with the arms at the sides, more as soon as they reach or hold.
TRUNK = 0.300
ANKLE_HEIGHT, SHOE_M = 0.039, 0.025
HEEL_BACK, BALL_AHEAD, TOE_AHEAD, NECK = 0.04, 0.0755, 0.125, 0.116
HALF = {"shoulder": 0.106, "hip": 0.052, "ear": 0.030}
# Half of how wide the feet stand: to pull or to dip, and where a lift is received or squatted.
STANCE, RECEIVED, STANCE_SD, RECEIVED_SD = 0.090, 0.120, 0.015, 0.020
# Straight knees lie between hip and ankle; bent ones go out, by so much as the leg is short of straight.
KNEES_OUT = 0.060
TOE_OUT = 0.045
# What people weigh for their stature squared, kg/m².
BODY_KG_PER_M2 = 24.0
# From behind, folded hips look round about the joint, and from above the head about a place ahead of the ear: radii, and how far lifters
# differ in them. Hips look larger the more they are open (`OPEN_SEAT`), and a little so towards the back (`SEAT_BY`, in each direction
# behind). Shares of stature, measured on the demo clips.
SEAT, SEAT_SD, HEAD, HEAD_SD, HEAD_AHEAD = 0.039, 0.008, 0.075, 0.008, 0.009
OPEN_DEG, OPEN_SEAT = (55.0, 67.0, 82.0, 97.0, 112.0, 130.0), (0.0, 0.004, 0.007, 0.012, 0.013, 0.016)
SEAT_BY = (0.005, 0.002, 0.0, -0.001, -0.001, 0.0)
# How far beyond toe and heel the foot ends in each direction below it: shares of stature, measured on demo and unseen clips, the same on
# both to a thousandth.
SOLE = (0.001, 0.0025, 0.005, 0.0098, 0.0067, 0.0045)
LEG_SD, TRUNK_SD, ARM_SD, SUM_SD = 0.035, 0.035, 0.04, 0.012
STATURE_SD_UNKNOWN = 0.08

# Where the model's points lie against the joints, in thousandths of stature along and to the left of a direction in the picture of a
# lifter who faces right: measured on simulated figures whose joints are known exactly (`docs/decisions`); knees and
# feet anew on the demo clips.
CONVENTION = {
    "near_hip": ("trunk", 10, -10), "far_hip": ("trunk", 8, -16), "near_shoulder": ("trunk", 24, 9), "far_shoulder": ("trunk", 21, 5),
    "near_knee": ("thigh", 15, -4), "far_knee": ("thigh", 0, 1), "near_ankle": ("shin", 25, 4), "far_ankle": ("shin", 13, 1),
    "near_heel": ("foot", 11, 41), "far_heel": ("foot", 17, 30), "near_toe": ("foot", -25, 32), "far_toe": ("foot", -24, 7),
    "near_elbow": ("arm", 46, 6), "far_elbow": ("arm", 33, 22), "near_ear": ("head", 21, 6), "far_ear": ("head", 25, 12),
    "nose": ("head", 4, 13),
}  # fmt: skip


# How much further off it lies the more a joint is bent, likewise measured, on the demo clips: by the angle between the ways to two other
# points, thousandths of stature along the way from one point to another and to the left of it.
BENT_DEG = (42.0, 67.0, 92.0, 117.0, 142.0, 167.0)
BENT = {
    "near_hip": ("knee", "shoulder", ("hip", "knee"), (13, 3, 0, 7, 6, 6), (14, 12, 7, 7, 8, 7)),
    "far_hip": ("knee", "shoulder", ("hip", "knee"), (14, 4, 8, 9, 9, 4), (8, 16, 13, 5, 5, -3)),
    "near_knee": ("hip", "ankle", ("knee", "hip"), (4, -1, 0, 0, 0, 0), (-15, -3, -2, 1, 2, 0)),
    "far_knee": ("hip", "ankle", ("knee", "hip"), (23, 5, 7, 0, -1, 4), (10, 12, 10, 9, 2, -4)),
    "near_shoulder": ("hip", "elbow", ("hip", "shoulder"), (-4, -4, -2, 0, 15, 7), (-1, 4, 3, 2, 2, 0)),
}  # fmt: skip


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


_DIRECTIONS = {"trunk": ("hip", "shoulder"), "thigh": ("knee", "hip"), "shin": ("ankle", "knee"), "foot": ("heel", "toe"),
               "arm": ("elbow", "shoulder"), "head": ("ear", "nose")}  # fmt: skip


def _convention() -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64], Floats, Floats]:
    """For every point of `CONVENTION`: the point, where its direction starts and stops, and how far off it is along and to the left."""
    rows = []
    for name, (direction, along, left) in CONVENTION.items():
        side = name.partition("_")[0] if "_" in name else "near"
        start, stop = _DIRECTIONS[direction]
        rows.append((POINT[name], POINT[f"{side}_{start}"], POINT["nose" if stop == "nose" else f"{side}_{stop}"], along, left))
    point, start_at, stop_at, along_by, left_by = np.array(rows).T
    return point, start_at, stop_at, along_by / 1000, left_by / 1000


_SEEN, _SEEN_START, _SEEN_STOP, _SEEN_ALONG, _SEEN_LEFT = _convention()


def as_model_sees(points: Floats, stature: float) -> Floats:
    """Where the model's points lie for joints `(frames, POINTS, 3)`."""
    made = points.copy(order="K")
    x, y = points[..., 0], points[..., 1]
    way_x, way_y = x[:, _SEEN_STOP] - x[:, _SEEN_START], y[:, _SEEN_STOP] - y[:, _SEEN_START]
    share = stature / np.maximum(np.sqrt(way_x**2 + way_y**2), 1e-6)
    way_x, way_y = way_x * share, way_y * share
    made[:, _SEEN, 0] += _SEEN_ALONG * way_x - _SEEN_LEFT * way_y
    made[:, _SEEN, 1] += _SEEN_ALONG * way_y + _SEEN_LEFT * way_x
    for name, (one, other, (start, stop), along_by, left_by) in BENT.items():
        side = name.partition("_")[0]
        joint, a, b = (points[:, POINT[part], :2] for part in (name, f"{side}_{one}", f"{side}_{other}"))
        bent = included_deg(a, joint, b)
        way = points[:, POINT[f"{side}_{stop}"], :2] - points[:, POINT[f"{side}_{start}"], :2]
        way *= stature / np.maximum(np.sqrt((way**2).sum(1)), 1e-6)[:, None]
        along, left = (np.interp(bent, BENT_DEG, by) / 1000 for by in (along_by, left_by))
        made[:, POINT[name], 0] += along * way[:, 0] - left * way[:, 1]
        made[:, POINT[name], 1] += along * way[:, 1] + left * way[:, 0]
    return made


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
