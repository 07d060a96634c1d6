"""Everything known about a lifting body at once, as residuals: sight, segments, hands, floor, limits, balance; and prior belief."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .model import (
    ARM_SD,
    AT,
    FOREARM,
    HALF,
    LEG_SD,
    NECK,
    PALM,
    POINT,
    POINTS,
    RECEIVED,
    RECEIVED_SD,
    SHARED,
    SHIN,
    STANCE,
    STANCE_SD,
    STATURE_SD_UNKNOWN,
    SUM_SD,
    THIGH,
    TRUNK,
    TRUNK_SD,
    UPPER_ARM,
    balance_of,
    places_of,
)
from .scene import Scene

Floats = NDArray[np.float64]

# A joint set by hand.
SET_SD_M = 0.002
# A point this well known (m) is where a fit may start from.
TRUSTED_M = 0.05
# Fewer looks at feet than these tell no floor.
FEWEST_STOOD = 11
# What the network says of a joint errs alike for so long (s): as many looks as fall into that count once.
CORRELATED_S = 0.5
REPEATED_S = 0.4
# Focal length of a phone over the picture's long side.
USUAL_FOCAL = 0.95
FLOOR_SD_M, HEEL_SD_M = 0.008, 0.03
# Feet that may be in the air are no higher than this above it.
AIR_SD_M = 0.15
# Feet this far apart stand in a split; the one behind is turned so far up about its ball.
SPLIT_M, SPLIT_FOOT_RAD = 0.15, 0.6
BALANCE_SD_M = 0.12
# While a bar hangs in front of the legs, the hips are at least so far behind it: at the knees and below, and by the time it reaches them
# (shares of stature).
KNEE_HEIGHT, HIP_HEIGHT, HIP_BEHIND, HIP_BEHIND_HIGH = 0.285, 0.53, 0.10, 0.04
SHAFT_RADIUS_M = 0.014
CLOSE_SD_M, THIGH_MET = 0.40, 0.42
OVER_SHOULDERS_SD_M = 0.06
HUNG_UPRIGHT, HANGING_AHEAD, HANGING_SD = 0.33, 0.02, 0.24
RACKED_ELBOW_SD_M = 0.40
# Which way wrists lie from a bar on the shoulders.
RACKED_WRIST = np.array([0.0, -1.0])
# How far out to the side of the shoulders the elbows are while a bar in a narrow grip is turned over, in upper arms.
TURNED_OUT = 0.8
# Hips of a lifter who holds a bar on the floor: so high, and so far behind it (shares of stature), give or take as much as lifters differ.
# Where the disc hides them nothing else tells; where they are seen this weighs next to nothing.
SET_HIP_HEIGHT, SET_HIP_BEHIND, SET_HIP_SD = 0.32, 0.225, 0.16
# How much of what a hanging bar has risen the hips have risen too, at the least.
HIPS_RISE = 0.5


# How a residual counts: fully, less the larger it is, or (below zero fully) less the larger it is above zero, or only below zero.
FULL, SOFT, SOFT_ABOVE, ONLY_BELOW = range(4)


def _cross(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def _in_front(a: Floats, b: Floats, point: Floats) -> tuple[Floats, Floats]:
    """How far a point lies to the right of the way from a to b (in front of a limb that rises), and where along it, 0 to 1."""
    way = b - a
    length = np.maximum(np.linalg.norm(way, axis=-1), 1e-6)
    return -_cross(way, point - a) / length, ((point - a) * way).sum(-1) / length**2


def residuals(scene: Scene, states: Floats, shared: Floats) -> tuple[Floats, NDArray[np.int64]]:
    """Residuals `(frames, terms)`, each over its own deviation, and how each term counts."""
    seen, S = scene.seen, scene.seen.stature_m
    places = places_of(states, shared, S, scene.received)
    pixels, m_per_px = scene.project(places, shared)
    rows: list[Floats] = []
    kinds: list[int] = []

    def add(value: Floats, kind: int) -> None:
        rows.append(value if value.ndim == 2 else value[:, None])
        kinds.extend([kind] * (1 if value.ndim == 1 else value.shape[1]))

    slow = np.sqrt(max(CORRELATED_S * scene.rate_hz, 1.0))
    off = (pixels - seen.points) * m_per_px[..., None] / (seen.sd * slow)[..., None]
    add(np.nan_to_num(off, nan=0.0, posinf=0.0, neginf=0.0).reshape(len(states), -1), SOFT)

    # What the coach set by hand is all but certain, and is the joint itself.
    told = np.zeros((len(states), len(POINTS), 2))
    if seen.fixed:
        frames, points = np.array([row[0] for row in seen.fixed]), np.array([row[1] for row in seen.fixed])
        wanted = np.array([row[2:] for row in seen.fixed])
        told[frames, points] = (pixels[frames, points] - wanted) * m_per_px[frames, points][:, None] / SET_SD_M
        add(told.reshape(len(states), -1), FULL)

    def at(name: str) -> Floats:
        return places[:, POINT[name]]

    def length(a: str, b: str) -> Floats:
        return np.asarray(np.linalg.norm(at(a) - at(b), axis=1))

    for side in ("near", "far"):
        for a, b, known in (("hip", "knee", shared[..., 4]), ("knee", "ankle", shared[..., 5])):
            off = length(f"{side}_{a}", f"{side}_{b}") - known
            # Knees that go out to the side shorten what is seen; nothing lengthens it.
            add(np.where(off > 0, off / 0.010, off / 0.022), FULL)
    add((length("near_hip", "near_shoulder") - shared[..., 6]) / (0.014 * S), FULL)
    add((length("near_shoulder", "near_elbow") - shared[..., 7]) / 0.010, FULL)
    add((length("near_elbow", "near_wrist") - shared[..., 8]) / 0.010, FULL)

    bar = scene.bar_m(shared)
    held = (seen.held & np.isfinite(bar[:, 0])).astype(float)
    bar = np.nan_to_num(bar)
    wrist, elbow = at("near_wrist")[:, :2], at("near_elbow")[:, :2]
    overhead = held * is_overhead(scene)
    racked = held * scene.resting_high
    # The hand carries on the forearm, and with it goes out to the side.
    toward = np.column_stack([elbow - bar, states[:, AT["elbow_z"]] - shared[..., 9]])
    toward = (toward / np.maximum(np.linalg.norm(toward, axis=1, keepdims=True), 0.05))[:, :2]
    # Under a bar on the shoulders they are bent right back: below it.
    toward = np.where(racked[:, None] * (1 - seen.behind) > 0, RACKED_WRIST, toward)
    hand = wrist - bar
    add(held * (np.linalg.norm(hand, axis=1) - PALM * S * np.linalg.norm(toward, axis=1)) / 0.010, FULL)
    add((held - racked * seen.behind)[:, None] * (hand - PALM * S * toward) / 0.025, FULL)

    shoulder = at("near_shoulder")[:, :2]
    # A bar at rest on the shoulders lies just in front of the joints and above them.
    add(racked[:, None] * (shoulder - bar - S * scene.racked) / (0.03 * slow), SOFT)

    # Under it the elbows point ahead, up and a little out; before a jerk they may hang lower.
    add(racked[:, None] * (elbow - shoulder - UPPER_ARM * S * scene.racked_elbow) / (RACKED_ELBOW_SD_M * slow), SOFT)
    aside = np.sqrt(1 - (scene.racked_elbow**2).sum()) * UPPER_ARM * S
    between = 0.5 * (HALF["shoulder"] * S + shared[..., 9])
    # With a narrow grip they go out to the side on their way round the bar.
    turning, out = held * scene.turning * seen.wide_grip, held * scene.turning * (1 - seen.wide_grip)
    beside = HALF["shoulder"] * S - between
    add((states[:, AT["elbow_z"]] - between - racked * (beside + aside) - out * (beside + TURNED_OUT * UPPER_ARM * S)) / 0.10, SOFT)
    # With a wide grip they go up and out while the bar is thrown: not ahead of it, and as high as shoulders and bar.
    add(turning * (np.minimum(shoulder[:, 0], bar[:, 0]) - elbow[:, 0]) / 0.05, ONLY_BELOW)
    add(turning * (elbow[:, 1] - np.maximum(shoulder[:, 1], bar[:, 1])) / 0.10, ONLY_BELOW)

    floor = -shared[..., 3]
    resting = held * (scene.height_m < scene.seen.disc_radius_m + 0.02) * float(seen.from_floor)
    # Where the bar lies over the foot does not change while it lies: in all those frames together it is believed once.
    once = np.sqrt(max(resting.sum() * scene.frames / len(resting), 1.0))
    set_hip = np.stack([bar[:, 0] - SET_HIP_BEHIND * S, floor + np.full(len(bar), SET_HIP_HEIGHT * S)], axis=-1)
    add(resting[:, None] * (at("near_hip")[:, :2] - set_hip) / (SET_HIP_SD * S * slow), SOFT)
    pulled = held * (scene.height_m < 0.53 * S)
    add(held * scene.hanging * (bar[:, 0] - at("near_hip")[:, 0] - hip_behind(scene.height_m, S)) / 0.02, ONLY_BELOW)
    # Hips are no lower than they are set, and rise with a bar that leaves the floor.
    risen = np.maximum(np.nan_to_num(scene.height_m) - seen.disc_radius_m, 0.0)
    lowest = floor + (SET_HIP_HEIGHT - SET_HIP_SD) * S + HIPS_RISE * risen
    add(float(seen.from_floor) * held * scene.hanging * (at("near_hip")[:, 1] - lowest) / 0.02, ONLY_BELOW)
    for side in ("near", "far"):
        toe = at(f"{side}_toe")[:, 1] - floor
        add(toe / (np.where((toe > 0) & (scene.airborne > 0), AIR_SD_M, FLOOR_SD_M) * slow), SOFT_ABOVE)
        # In a split the foot behind stands on its ball.
        other = at("far_ankle" if side == "near" else "near_ankle")[:, 0]
        behind = scene.apart * np.clip((other - at(f"{side}_ankle")[:, 0]) / SPLIT_M, 0, 1)
        # Heels rise at the end of every pull and drive.
        stands = (1 - behind) * (1 - np.maximum(scene.rising, scene.airborne))
        heel = at(f"{side}_heel")[:, 1] - floor
        add(np.where(heel > 0, stands, 1.0) * heel / (HEEL_SD_M * slow), SOFT_ABOVE)
        hip, knee, ankle = at(f"{side}_hip")[:, :2], at(f"{side}_knee")[:, :2], at(f"{side}_ankle")[:, :2]
        for turn, least, most in (
            (_turn(knee - ankle, hip - knee), 0.0, 2.7),
            (_turn(hip - knee, shoulder - hip), -2.5, 0.35),
            (_turn(at(f"{side}_toe")[:, :2] - at(f"{side}_heel")[:, :2], knee - ankle), 0.75, 2.4),
        ):
            # From the middle of what the joint allows, so that half a turn away both ways are equally wrong.
            off = turn - (least + most) / 2
            add(((most - least) / 2 - np.abs(np.arctan2(np.sin(off), np.cos(off)))) / 0.10, ONLY_BELOW)
        # The bar passes in front of shin and thigh. It counts gradually: a fit would balance on the edge of what counts at once.
        beside = np.clip((bar[:, 1] - knee[:, 1]) / 0.05 + 0.5, 0, 1)
        for low, high, least, there in ((ankle, knee, 0.03 * S, 1 - beside), (knee, hip, 0.042 * S, beside)):
            gap, along = _in_front(low, high, bar)
            there = there * np.clip(np.minimum(along, 1 - along) / 0.15, 0, 1)
            free = gap - least - SHAFT_RADIUS_M
            add(pulled * there * np.maximum(free, -0.06) / 0.015, ONLY_BELOW)
            # On its way up it stays close to shins that its disc hides, and meets the thighs high up; how close it is between is seen.
            close = scene.hanging * (1.0 if low is ankle else scene.height_m > THIGH_MET * S)
            add(pulled * close * there * np.maximum(free, 0.0) / (CLOSE_SD_M * slow), SOFT)
        add((states[:, AT[f"{side}_foot"]] + SPLIT_FOOT_RAD * behind) / 0.6, FULL)
        # A bar on the floor lies over the ball of the foot, more or less.
        ball = 0.3 * at(f"{side}_heel")[:, 0] + 0.7 * at(f"{side}_toe")[:, 0]
        add(resting * (ball - bar[:, 0]) / (0.035 * once), SOFT)
    together = (1 - scene.apart)[:, None]
    add(together * (states[:, [6, 7]] - states[:, [4, 5]]) / 0.03, SOFT)
    add(together * (states[:, [10, 11]] - states[:, [8, 9]]) / 0.03, SOFT)
    add(together[:, 0] * (states[:, AT["near_foot"]] - states[:, AT["far_foot"]]) / 0.15, SOFT)

    add((length("near_ear", "nose") - 0.069 * S) / 0.008, FULL)
    trunk = np.arctan2(shoulder[:, 1] - at("near_hip")[:, 1], shoulder[:, 0] - at("near_hip")[:, 0])
    # A lifter looks ahead: the neck stands up more than the trunk does.
    neck = np.radians(50) + 0.44 * np.clip(trunk, 0.2, 1.8)
    add((at("near_ear")[:, :2] - shoulder - NECK * S * np.stack([np.cos(neck), np.sin(neck)], axis=-1)) / (0.025 * slow), SOFT)
    add((at("nose")[:, :2] - at("near_ear")[:, :2] - [0.057 * S, -0.02 * S]) / (0.02 * slow), FULL)
    # Arms that hang or pull are straight unless something shows them bent; so are arms under a bar that is at rest overhead.
    bent = elbow - 0.44 * shoulder - 0.56 * wrist
    hanging = held * scene.hanging
    add(hanging[:, None] * bent / (0.03 * slow), SOFT)
    # Up to the knees a load hangs them nearly upright; from there the trunk comes up behind it.
    add(hanging * (scene.height_m < HUNG_UPRIGHT * S) * (shoulder[:, 0] - bar[:, 0] - HANGING_AHEAD * S) / (HANGING_SD * S * slow), SOFT)
    add(overhead[:, None] * bent / (0.05 * slow), FULL)
    # Such a bar is held over the shoulders or a little behind them.
    add(overhead * (shoulder[:, 0] - bar[:, 0] - 0.02 * S) / (OVER_SHOULDERS_SD_M * slow), SOFT)

    mass, middle = balance_of(places)
    # How much of its weight is on a lifter who is about to set is not known.
    borne = np.nan_to_num(scene.borne, nan=1.0)
    carried = held * borne * (seen.load_kg or 0.7 * scene.body_kg) / scene.body_kg
    over = np.isfinite(scene.borne) * ((mass + carried * bar[:, 0]) / (1 + carried) - middle)
    add(over / (BALANCE_SD_M * slow), SOFT)
    every, how = np.concatenate(rows, axis=1), np.array(kinds)
    if (scene.anew < 1).any():
        every[:, how == SOFT] *= scene.anew[:, None]
    return every, how


def is_overhead(scene: Scene) -> Floats:
    """1 where a bar is so high, met or calm, and no longer turning over that it is held on straight arms."""
    above = scene.height_m > (0.60 if scene.seen.wide_grip else 1.05) * scene.seen.stature_m
    return np.asarray(above * (1 - scene.turning) * ((scene.speed_m_s < 1.0) | (scene.met > 0)), float)


def hip_behind(height_m: Floats, stature_m: float) -> Floats:
    """How far behind a bar that hangs this high the hips are at the least (m)."""
    share = np.interp(np.nan_to_num(height_m) / stature_m, [KNEE_HEIGHT, HIP_HEIGHT], [HIP_BEHIND, HIP_BEHIND_HIGH])
    return np.asarray(share * stature_m)


def _turn(a: Floats, b: Floats) -> Floats:
    """Angle from one way to another, counter-clockwise, -π to π."""
    return np.asarray(np.arctan2(_cross(a, b), (a * b).sum(-1)))


@dataclass(frozen=True)
class Believed:
    """What is believed of `SHARED` before looking: `rows @ shared` is about `values`, give or take `sds`; and where to start."""

    rows: Floats
    values: Floats
    sds: Floats
    start: Floats


def priors(scene: Scene) -> Believed:
    seen, S = scene.seen, scene.seen.stature_m
    loose = 1.0 if seen.stature_known else STATURE_SD_UNKNOWN / SUM_SD / 2
    log_depth_sd, yaw_sd, pitch_sd = camera_sds(scene)
    if seen.camera is not None:
        (depth, _), (yaw, _), (pitch, _) = seen.camera
        log_depth = float(np.log(depth))
    else:
        # Phones see a picture about as wide as they stand away.
        log_depth = float(np.log(USUAL_FOCAL * seen.long_side_px * scene.seen.disc_radius_m / scene.radius_px + scene.near_m))
        yaw, pitch = 0.0, 0.0
    floor = _floor_from(scene, np.array([log_depth, yaw, pitch]))
    grip = 0.27 * S if seen.wide_grip else HALF["shoulder"] * S + 0.07
    told: list[tuple[tuple[int, ...], float, float]] = [
        ((0,), log_depth, log_depth_sd), ((1,), yaw, yaw_sd), ((2,), pitch, pitch_sd), ((3,), floor, 0.6),
        ((4,), THIGH * S, LEG_SD * THIGH * S * loose), ((5,), SHIN * S, LEG_SD * SHIN * S * loose),
        ((6,), TRUNK * S, TRUNK_SD * TRUNK * S * loose), ((4, 5, 6), (THIGH + SHIN + TRUNK) * S, SUM_SD * 0.79 * S * loose),
        ((7,), UPPER_ARM * S, ARM_SD * UPPER_ARM * S * loose), ((8,), FOREARM * S, ARM_SD * FOREARM * S * loose), ((9,), grip, 0.04),
        ((10,), STANCE * S, STANCE_SD * S), ((11,), RECEIVED * S, RECEIVED_SD * S),
    ]  # fmt: skip
    rows = np.array([np.isin(np.arange(len(SHARED)), columns).astype(float) for columns, _, _ in told])
    start = np.array([value for columns, value, _ in told if len(columns) == 1])
    values, sds = (np.array([row[k] for row in told], float) for k in (1, 2))
    # Neighbouring frames repeat each other's errors; what is believed beforehand must not drown in their number.
    return Believed(rows, values, sds / np.sqrt(max(REPEATED_S * scene.rate_hz, 1.0)), start)


def camera_sds(scene: Scene) -> tuple[float, float, float]:
    """How well the camera is known before looking at the body: the logarithm of its distance, its yaw and its pitch (rad)."""
    if scene.seen.camera is None:
        tilt = float(np.arccos(np.clip(scene.seen.squeeze, 0.5, 1.0)))
        return 0.22, max(tilt, 0.05), 0.07
    (depth, depth_sd), (_, yaw_sd), (_, pitch_sd) = scene.seen.camera
    return depth_sd / depth, yaw_sd, pitch_sd


def _floor_from(scene: Scene, camera: Floats) -> float:
    """Depth of the floor below the camera's axis (m): from the resting bar, or where it does not rest there, from the feet."""
    by_feet = None if scene.seen.from_floor else _floor_by_feet(scene, camera)
    return _floor_by_bar(scene, camera) if scene.seen.from_floor else 1.0 if by_feet is None else by_feet


def _floor_by_bar(scene: Scene, camera: Floats) -> float:
    depth, pitch = float(np.exp(camera[0])), float(camera[2])
    focal = float(scene.focal_px(np.asarray(depth), camera[1]))
    rest = float(np.nanpercentile(scene.seen.disc[:, 1], 3))
    return scene.seen.disc_radius_m - (rest - focal * pitch) * (depth - scene.near_m) / focal


def _floor_by_feet(scene: Scene, camera: Floats) -> float | None:
    """The same where the feet stand; None where they were hardly seen."""
    depth, pitch = float(np.exp(camera[0])), float(camera[2])
    feet = [POINT[f"{side}_{part}"] for side in ("near", "far") for part in ("heel", "toe")]
    stood = scene.seen.points[:, feet, 1][scene.seen.sd[:, feet] < TRUSTED_M]
    if len(stood) < FEWEST_STOOD:
        return None
    focal = float(scene.focal_px(np.asarray(depth), camera[1]))
    return -(float(np.median(stood)) / focal - pitch) * depth + 0.03 * scene.seen.stature_m


def discs_above_feet_m(scene: Scene) -> float | None:
    """How much higher the discs lie than the feet stand (m): about nothing from the floor; None where the feet were hardly seen."""
    camera = priors(scene).start[:3]
    by_feet = _floor_by_feet(scene, camera)
    return None if by_feet is None else by_feet - _floor_by_bar(scene, camera)


def floor_seen(scene: Scene, shared: Floats) -> Floats:
    """How far the resting bar's height misses the discs' radius, over its deviation (one term; nothing for lifts not from the floor)."""
    if not scene.seen.from_floor:
        return np.zeros(1)
    height = np.sort(scene.bar_m(shared)[:, 1])
    known = height[np.isfinite(height)]
    low = np.interp(0.03 * (len(known) - 1), np.arange(len(known)), known)
    return np.array([(low + shared[3] - scene.seen.disc_radius_m) / 0.003])
