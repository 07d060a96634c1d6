"""The lifter's body as a surface: a CC0 human base mesh, shaped to a build and bent to the simulated joints.

Every part of the body (thigh, forearm, …) is carried by its two joints and by the plane its hinge bends in, and stretched to its
length in the build; the skin between two parts is shared between them by the mesh's own weights.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ..build import Build
from ..look import Outfit
from ..skeleton import BALL_SHARE, SOLE_BEYOND
from .raster import normals

Floats = NDArray[np.float64]
Joints = dict[str, Floats]
UP, AHEAD, RIGHT = np.eye(3)[1], np.eye(3)[0], np.eye(3)[2]
SIDES = {"left": "l", "right": "r"}
# How far each finger bone is bent to hold a bar, degrees.
CURL_DEG = (62.0, 78.0, 48.0)
PALM_M = 0.020
"""The bar's middle lies this far out of the plane of the hand's bones."""
# A shoe's cross-sections: place along the foot (heel 0, tip 1), breadth and height (m) for a stature of 1.72 m.
SHOE = ((-SOLE_BEYOND[0], 0.044, 0.060), (-0.05, 0.068, 0.098), (0.08, 0.082, 0.122), (0.26, 0.088, 0.128), (0.42, 0.092, 0.108),
        (0.58, 0.102, 0.084),
        (0.72, 0.108, 0.068), (0.84, 0.104, 0.058), (0.95, 0.086, 0.050), (1.03, 0.056, 0.040),
        (1 + SOLE_BEYOND[1], 0.024, 0.030))  # fmt: skip
SHOE_POINTS = 12
# Bones, the joints that they run to, and how far from the usual the joint that each begins with may lie, along it and ahead (m).
ELSEWHERE = (
    ("upper-leg", "knee", 0.018, 0.012), ("knee", "ankle", 0.012, 0.006), ("shoulder", "elbow", 0.012, 0.008),
    ("elbow", "hand", 0.014, 0.004), ("hand", "finger-3-1", 0.010, 0.004),
)  # fmt: skip
SOLE_TONE = (0.30, 0.29, 0.28)


class Figure:
    """A body of one build and outfit; `posed` bends it."""

    def __init__(self, build: Build, outfit: Outfit, *, muscle: float = 0.6) -> None:
        self.build = build
        points, joints, mesh = _shaped(build, muscle)
        self.faces = np.concatenate([mesh["faces"], mesh["eyes"]]).astype(np.int64)
        self._joints = _elsewhere(joints, outfit.jointed) if outfit.jointed else joints
        points = _fists(points, joints, mesh)
        head = np.flatnonzero(_weight(mesh, "head") > 0.9)
        self._nose = points[head[np.argmax(points[head, 0])]] * [1, 1, 0]
        ears = points[head[np.abs(points[head, 2]).argsort()[-20:]]]
        self._ear = np.array([ears[:, 0].mean(), ears[:, 1].mean(), 0.0])
        feet = np.flatnonzero(_weight(mesh, "foot_l") + _weight(mesh, "ball_l") > 0.9)
        self._sole, self._heel, self._toe = points[feet, 1].min(), points[feet, 0].min(), points[feet, 0].max()
        self._rest = self._frames(self._rest_joints(), rest=True)
        self._weights = self._shared(points, mesh)
        self.colours, self.under, self.cover, offset = self._dressed(points, mesh, outfit)
        self._points = points + offset[:, None] * normals(points, self.faces)
        trunk = list(self._rest).index("trunk")
        origin, axes, _ = self._rest["trunk"]
        up = np.clip((points - origin) @ axes[0] / self._rest_lengths["trunk"], 0, 1)
        self._round_m = outfit.back_round_m * self._weights[:, trunk] * np.sin(np.pi * up)
        self._put_shoes_on(outfit)

    def posed(self, joints: Joints) -> Floats:
        """Vertices `(n, 3)` for joints by name `(3,)` each."""
        target = self._frames(joints, rest=False)
        moves = []
        for name, (origin, axes, _) in self._rest.items():
            to, turned, scale = target[name]
            linear = turned.T @ np.diag(scale) @ axes
            moves.append(np.concatenate([linear, (to - linear @ origin)[:, None]], axis=1))
        shoes = [self._shoe(target, side) for side in SIDES]
        blended = (self._weights @ np.array(moves).reshape(len(moves), 12)).reshape(-1, 3, 4)
        body = (blended[:, :, :3] * self._points[:, None]).sum(2) + blended[:, :, 3]
        body -= self._round_m[:, None] * target["trunk"][1][1]
        return np.concatenate([body, *shoes, body[self.doubled]])

    def normals_of(self, points: Floats) -> Floats:
        """Normals at posed vertices; a vertex that stands twice, for two cloths, is smooth all the same."""
        body = normals(points[: len(points) - len(self.doubled)], self.welded)
        return np.concatenate([body, body[self.doubled]])

    def _shoe(self, target: dict[str, tuple[Floats, Floats, Floats]], side: str) -> Floats:
        """Vertices of a shoe: cross-sections from the heel to the tip, bent where the foot bends."""
        size, made = self.build.stature_m / 1.72, []
        for share, wide, high in SHOE:
            part = "foot" if share < BALL_SHARE else "toes"
            origin, axes, _ = target[f"{side}_{part}"]
            along = (share - (0.0 if part == "foot" else BALL_SHARE)) * self.build.foot_m
            angle = np.linspace(0, np.pi, SHOE_POINTS - 2)
            across = np.concatenate([[1.0], np.cos(angle) * (0.75 + 0.25 * np.sin(angle) ** 0.5), [-1.0]]) * wide * size / 2
            up = np.concatenate([[0.0], 0.016 + (high - 0.016) * np.sin(angle) ** 0.6, [0.0]]) * size
            made.append(origin + along * axes[0] + up[:, None] * axes[1] + across[:, None] * axes[2])
        return np.concatenate(made)

    def _put_shoes_on(self, outfit: Outfit) -> None:
        """Add the shoes' triangles, and part the triangles in which two cloths meet, so that the hem runs through them."""
        count, rows = len(self._points), len(SHOE)
        ring = np.arange(SHOE_POINTS)
        faces, tones = [], []
        for foot in range(2):
            start = count + foot * rows * SHOE_POINTS
            for row in range(rows - 1):
                a, b = start + row * SHOE_POINTS + ring, start + (row + 1) * SHOE_POINTS + ring
                after = np.roll(ring, -1)
                faces += [np.stack([a, b[after], a[after]], 1), np.stack([a, b, b[after]], 1)]
                sole = (ring == 0) | (ring >= SHOE_POINTS - 2)
                tones += [np.where(sole[:, None], np.array([SOLE_TONE]), np.array([outfit.shoes]))] * 2
            for row in (0, rows - 1):
                a = start + row * SHOE_POINTS + ring
                fan = np.arange(1, SHOE_POINTS - 1)
                faces.append(np.stack([np.full(len(fan), a[0]), a[fan], a[fan + 1]], 1)[:, :: 1 if row == 0 else -1])
                tones.append(np.tile(outfit.shoes, (len(fan), 1)))
        shoes, tone = np.concatenate(faces), np.concatenate(tones)
        self.welded = np.concatenate([self.faces, shoes])
        self.colours, self.under = np.concatenate([self.colours, tone]), np.concatenate([self.under, tone])
        self.cover = np.concatenate([self.cover, np.ones(2 * rows * SHOE_POINTS), self._hem])
        self.doubled = self.faces[self._parted].ravel()
        whole = self.welded.copy()
        fresh = count + 2 * rows * SHOE_POINTS + np.arange(len(self.doubled))
        whole[self._parted] = fresh.reshape(-1, 3)
        self.faces = whole

    # -- rest ---------------------------------------------------------------------------------------------------------------

    def _rest_joints(self) -> Joints:
        held = self._joints
        made: Joints = {}
        for side, letter in SIDES.items():
            names = {"hip": "upper-leg", "knee": "knee", "ankle": "ankle", "shoulder": "shoulder", "elbow": "elbow", "wrist": "hand"}
            made |= {f"{side}_{name}": held[f"{letter}-{there}"] for name, there in names.items()}
            made[f"{side}_hand"] = held[f"{letter}-finger-3-1"]
            z = held[f"{letter}-ankle"][2]
            made[f"{side}_heel"] = np.array([self._heel, self._sole, z])
            made[f"{side}_toe"] = np.array([self._toe, self._sole, z])
            made[f"{side}_ear"] = self._ear
        return made | {"nose": self._nose}

    def _frames(self, joints: Joints, *, rest: bool) -> dict[str, tuple[Floats, Floats, Floats]]:
        """Origin, axes (rows: along, bending, across) and scale of every part."""
        build = self.build
        girth = build.girth * build.stature_m / 1.72
        hips, shoulders = ((joints[f"left_{name}"] + joints[f"right_{name}"]) / 2 for name in ("hip", "shoulder"))
        made: dict[str, tuple[Floats, Floats, Floats]] = {}
        lengths: dict[str, float] = {}

        def put(name: str, origin: Floats, along: Floats, bending: Floats) -> None:
            made[name] = (origin, _axes(along, bending), np.ones(3))
            lengths[name] = float(np.linalg.norm(along))

        put("trunk", hips, shoulders - hips, AHEAD)
        thighs = np.mean([joints[f"{side}_knee"] - joints[f"{side}_hip"] for side in SIDES], axis=0)
        # The pelvis goes a little of the way with the thighs.
        tilted = _unit(shoulders - hips) - (0.0 if rest else 0.22) * _unit(thighs * [1, 1, 0]) * max(
            0.0, 0.3 + float(_unit(thighs) @ _unit(shoulders - hips))
        )
        put("pelvis", hips, _unit(tilted) * np.linalg.norm(shoulders - hips), AHEAD)
        for side in SIDES:
            hip, knee, ankle, heel, toe = (joints[f"{side}_{name}"] for name in ("hip", "knee", "ankle", "heel", "toe"))
            forward = _unit((toe - heel) * [1, 0, 1])
            lateral = np.cross(forward, UP)
            hinge = -np.cross(knee - hip, ankle - knee) + 0.004 * lateral
            put(f"{side}_thigh", hip, knee - hip, np.cross(hinge, knee - hip))
            put(f"{side}_calf", knee, ankle - knee, np.cross(hinge, ankle - knee))
            ball = (
                toe - (1 - BALL_SHARE) * np.linalg.norm((toe - heel) * [1, 0, 1]) * forward
                if rest
                else toe - (1 - BALL_SHARE) * build.foot_m * forward
            )
            put(f"{side}_foot", heel, ball - heel, UP)
            put(f"{side}_toes", ball, toe - ball, UP)
            shoulder, elbow, wrist, hand = (joints[f"{side}_{name}"] for name in ("shoulder", "elbow", "wrist", "hand"))
            bend = np.cross(elbow - shoulder, wrist - elbow)
            put(f"{side}_upperarm", shoulder, elbow - shoulder, bend)
            put(f"{side}_forearm", elbow, wrist - elbow, bend)
            palm = self._rest_palm(side) if rest else np.cross(hand - wrist, RIGHT)
            put(f"{side}_wrist", elbow, wrist - elbow, palm)
            put(f"{side}_hand", wrist - (0.0 if rest else PALM_M) * _unit(palm), hand - wrist, palm)
        ears = (joints["left_ear"] + joints["right_ear"]) / 2
        put("head", ears, joints["nose"] - ears, UP)
        neck_rest = self._joints["neck"]
        if rest:
            put("neck", neck_rest, self._joints["head"] - neck_rest, AHEAD)
            self._rest_lengths = lengths
            return made
        for name, length in lengths.items():
            along = length / self._rest_lengths[name]
            made[name] = (*made[name][:2], np.array([along, girth, girth]))
        # Trunk and head keep their own breadth; hands, feet and head are as large as the stature makes them.
        size = build.stature_m / 1.72
        wide = 2 * build.shoulder_half_m / np.linalg.norm(self._joints["l-shoulder"] - self._joints["r-shoulder"])
        made["trunk"] = (*made["trunk"][:2], np.array([made["trunk"][2][0], girth, wide]))
        for name in ("head", *(f"{side}_hand" for side in SIDES)):
            made[name] = (*made[name][:2], np.full(3, size))
        ankle_high = build.ankle_m / (self._joints["l-ankle"][1] - self._sole)
        for side in SIDES:
            for part in ("foot", "toes"):
                origin, axes, scale = made[f"{side}_{part}"]
                made[f"{side}_{part}"] = (
                    origin,
                    axes,
                    np.array([scale[0] * 0.96, ankle_high if part == "foot" else 0.6 * size, size * 0.82]),
                )
        carried = self._carry("trunk", made, neck_rest)
        crown = self._carry("head", made, self._joints["head"])
        made["neck"] = (
            carried,
            _axes(crown - carried, AHEAD),
            np.array([np.linalg.norm(crown - carried) / self._rest_lengths_neck, girth, girth]),
        )
        return made

    @property
    def _rest_lengths_neck(self) -> float:
        return float(np.linalg.norm(self._joints["head"] - self._joints["neck"]))

    def _carry(self, part: str, made: dict[str, tuple[Floats, Floats, Floats]], point: Floats) -> Floats:
        origin, axes, _ = self._rest[part]
        to, turned, scale = made[part]
        return np.asarray(to + turned.T @ (scale * (axes @ (point - origin))))

    def _rest_palm(self, side: str) -> Floats:
        letter, held = SIDES[side], self._joints
        along = held[f"{letter}-finger-3-1"] - held[f"{letter}-hand"]
        knuckles = held[f"{letter}-finger-2-1"] - held[f"{letter}-finger-5-1"]
        return np.asarray(np.cross(along, knuckles) * (1.0 if side == "left" else -1.0))

    def _shared(self, points: Floats, mesh: dict[str, NDArray[np.float64]]) -> Floats:
        """How much every part carries every vertex `(n, parts)`."""
        parts = list(self._rest)
        made = np.zeros((len(points), len(parts)))

        def give(part: str, weight: Floats) -> None:
            made[:, parts.index(part)] += weight

        give("pelvis", _weight(mesh, "pelvis"))
        give("trunk", np.sum([_weight(mesh, bone) for bone in ("spine_01", "spine_02", "spine_03", "clavicle_l", "clavicle_r")], axis=0))
        give("neck", _weight(mesh, "neck_01"))
        give("head", _weight(mesh, "head"))
        for side, letter in SIDES.items():
            for bone, part in (
                ("thigh", "thigh"),
                ("calf", "calf"),
                ("foot", "foot"),
                ("ball", "toes"),
                ("upperarm", "upperarm"),
                ("hand", "hand"),
            ):
                give(f"{side}_{part}", _weight(mesh, f"{bone}_{letter}"))
            for finger in ("index", "middle", "ring", "pinky", "thumb"):
                give(f"{side}_hand", np.sum([_weight(mesh, f"{finger}_0{part}_{letter}") for part in (1, 2, 3)], axis=0))
            # The forearm turns with the hand more and more towards the wrist.
            origin, axes, _ = self._rest[f"{side}_forearm"]
            along = np.clip(((points - origin) @ axes[0]) / self._rest_lengths[f"{side}_forearm"], 0, 1)
            lower = _weight(mesh, f"lowerarm_{letter}")
            give(f"{side}_forearm", lower * (1 - along))
            give(f"{side}_wrist", lower * along)
        total = made.sum(1, keepdims=True)
        lost = total[:, 0] < 1e-6
        made[lost, parts.index("head")] = 1.0
        return np.asarray(made / np.where(total < 1e-6, 1.0, total))

    def _dressed(self, points: Floats, mesh: dict[str, NDArray[np.float64]], outfit: Outfit) -> tuple[Floats, Floats, Floats, Floats]:
        """Cloth and skin colour of every face; how far inside a cloth every vertex is (m, below zero is bare) and off the skin (m)."""
        weights = dict(zip(self._rest, self._weights.T, strict=True))

        def down(part: str) -> Floats:
            origin, axes, _ = self._rest[part]
            return np.asarray((points - origin) @ axes[0])

        waist, collar = self._joints["pelvis"][1] + 0.075, self._joints["neck"][1] - 0.030
        trunk = weights["trunk"] + weights["pelvis"] + weights["neck"]
        bare = (
            weights["head"] + sum(weights[f"{side}_{part}"] for side in SIDES for part in ("forearm", "wrist", "hand", "foot", "toes"))
            > 0.5
        )
        legs, arms, feet = np.zeros(len(points)), np.zeros(len(points)), np.zeros(len(points))
        leg_left, arm_left, ankle_left = np.full(len(points), -1.0), np.full(len(points), -1.0), np.full(len(points), -1.0)
        for side in SIDES:
            thigh, calf, upper = f"{side}_thigh", f"{side}_calf", f"{side}_upperarm"
            legs += weights[thigh] + weights[calf]
            arms += weights[upper]
            feet += weights[f"{side}_foot"] + weights[f"{side}_toes"]
            mine = points[:, 2] * (-1 if side == "left" else 1) > 0
            long, shin = self._rest_lengths[thigh], self._rest_lengths[calf]
            reach = outfit.legs_covered * long - down(thigh) if outfit.legs_covered <= 1 else (outfit.legs_covered - 1) * shin - down(calf)
            leg_left = np.where(mine, reach, leg_left)
            arm_left = np.where(mine, outfit.arms_covered * self._rest_lengths[upper] - down(upper), arm_left)
            ankle_left = np.where(mine, down(calf) - (shin - 0.035), ankle_left)
        lower = legs + weights["pelvis"] > 0.5
        shorts = np.where(
            lower | (points[:, 1] < waist),
            np.minimum(np.where(legs > 0.3, leg_left, 1.0), waist - points[:, 1] + np.where(legs > 0.5, 1.0, 0.0)),
            -1.0,
        )
        shorts = np.where(bare, -1.0, shorts)
        shirt = np.minimum(
            np.where(arms > 0.25, arm_left, 1.0), np.where(trunk + arms > 0.5, collar - points[:, 1] + 0.5 * np.abs(points[:, 2]), -1.0)
        )
        shirt = np.where((trunk + arms > 0.5) & ~(legs > 0.5), np.minimum(shirt, points[:, 1] - waist), -1.0)
        shoe = np.where(feet + legs > 0.5, ankle_left, -1.0)
        up, ahead = points[:, 1] - self._ear[1], points[:, 0] - self._ear[0]
        hair = np.where(
            weights["head"] > 0.8,
            np.minimum(np.maximum(up - 0.055 - 0.35 * np.maximum(ahead - 0.02, 0), np.minimum(-ahead + 0.012, up + 0.035)), 0.12 - ahead),
            -1.0,
        )
        # Of several cloths over one vertex the one it is deepest in shows; a face wears what most of its corners do.
        cloths = np.stack([shirt, shorts, shoe, hair])
        colours = np.array([outfit.shirt, outfit.shorts, outfit.shoes, outfit.hair])
        away = np.array([0.007 + outfit.loose_m, 0.010 + outfit.loose_m, 0.006, 0.010])
        which = np.argmax(cloths, axis=0)
        deep = cloths.max(0)
        offset = np.where(deep > 0, away[which] * np.clip(deep / 0.012, 0, 1), 0.0)
        if outfit.weave:
            offset *= 1 + 0.5 * _uneven(points, outfit.weave, 14.0)
        corner = deep[self.faces]
        worn = which[self.faces[np.arange(len(self.faces)), np.argmax(corner, axis=1)]]
        over = colours[worn]
        under = np.tile(np.array(outfit.skin), (len(self.faces), 1))
        if outfit.weave:
            over = _printed(over, worn, points[self.faces].mean(1), outfit.weave)
        if outfit.belt is not None:
            girded = (trunk[self.faces].mean(1) > 0.5) & (np.abs(points[self.faces, 1].mean(1) - waist - 0.05) < 0.05)
            over[girded] = under[girded] = outfit.belt
        if outfit.sleeves is not None:
            for side in SIDES:
                share = {part: (weights[f"{side}_{part}"], down(f"{side}_{part}") / self._rest_lengths[f"{side}_{part}"])
                         for part in ("thigh", "calf")}  # fmt: skip
                knee = ((share["thigh"][0] > 0.4) & (share["thigh"][1] > 0.74)) | ((share["calf"][0] > 0.4) & (share["calf"][1] < 0.28))
                sleeved = knee[self.faces].mean(1) > 0.5
                over[sleeved] = under[sleeved] = outfit.sleeves
        eyes = len(mesh["eyes"])
        over[-eyes:] = (0.10, 0.08, 0.07)
        deep[self.faces[-eyes:].ravel()] = 1.0
        # Where shirt and shorts meet, the shorts' own edge is the hem.
        corners = which[self.faces]
        parted = (corners.min(1) != corners.max(1)) & (corners.max(1) <= 1) & (corner.min(1) > -0.02)
        over[parted], under[parted] = colours[1], colours[0]
        self._parted = np.flatnonzero(parted)
        self._hem = (waist - points[:, 1])[self.faces[self._parted].ravel()]
        return over, under, deep, offset


def _uneven(points: Floats, seed: int, per_m: float) -> Floats:
    """A smooth, uneven value at every point, about -1 to 1; `per_m` is how often it goes up and down in a metre."""
    rng = np.random.default_rng(seed)
    ways = rng.normal(0, per_m, (3, 8))
    return np.asarray(np.sin(points @ ways + rng.uniform(0, 2 * np.pi, 8)).sum(1) / 4)


def _printed(over: Floats, worn: NDArray[np.int64], centres: Floats, seed: int) -> Floats:
    """Colours of cloths `(faces, 3)` with stripes, blotches or a panel printed on shirt and shorts."""
    rng, made = np.random.default_rng(seed), over.copy()
    for cloth in (0, 1):
        colour, kind = rng.uniform(0.03, 0.95, 3), rng.integers(4)
        if kind == 0:
            continue
        if kind == 1:
            mask = np.sin(centres @ rng.normal(0, 1, 3) * rng.uniform(20, 90)) > rng.uniform(-0.3, 0.8)
        elif kind == 2:
            mask = _uneven(centres, int(rng.integers(2**31)), rng.uniform(5, 25)) > rng.uniform(0.0, 0.5)
        else:
            low = centres.min(0) + rng.uniform(0, 0.7, 3) * np.ptp(centres, axis=0)
            mask = ((centres > low) & (centres < low + rng.uniform(0.1, 0.5, 3))).all(1)
        mask &= worn == cloth
        made[mask] = colour
    return made


@cache
def _mesh() -> dict[str, NDArray[np.float64]]:
    held = np.load(Path(__file__).parent / "figure.npz")
    return {name: held[name] for name in held.files}


def _weight(mesh: dict[str, NDArray[np.float64]], bone: str) -> Floats:
    return np.asarray(mesh["weights"][:, list(mesh["bones"]).index(bone)], float)


def _shaped(build: Build, muscle: float) -> tuple[Floats, Joints, dict[str, NDArray[np.float64]]]:
    """Rest points and joints for a sex, a muscularity (0 to 1) and a girth."""
    mesh = _mesh()
    heavy = np.clip((build.girth - 1.0) / 0.25, -1, 1)
    points, joints = mesh["points"].astype(float), mesh["joints"].astype(float)
    for name, move, joint_move in zip(mesh["shapes"], mesh["moves"], mesh["joint_moves"], strict=True):
        sex, bulk, weight = str(name).split("-")
        share = (build.sex if sex == "male" else 1 - build.sex) * (muscle if bulk == "max" else 1 - muscle)
        share *= {"min": max(-heavy, 0.0), "average": 1 - abs(heavy), "max": max(heavy, 0.0)}[weight]
        points = points + share * move.astype(float)
        joints = joints + share * joint_move.astype(float)
    return points, {str(name): joint for name, joint in zip(mesh["joint_names"], joints, strict=True)}, mesh


def _elsewhere(joints: Joints, seed: int) -> Joints:
    """Joints that lie elsewhere in the same body, both sides alike: where a joint turns is not where a body looks as if it did."""
    rng, made = np.random.default_rng(seed), dict(joints)
    for bone, after, along_m, ahead_m in ELSEWHERE:
        along, ahead = rng.normal(0, along_m), rng.normal(0, ahead_m)
        for letter in SIDES.values():
            place = joints[f"{letter}-{bone}"]
            made[f"{letter}-{bone}"] = place + along * _unit(joints[f"{letter}-{after}"] - place) + ahead * AHEAD
    return made


def _fists(points: Floats, joints: Joints, mesh: dict[str, NDArray[np.float64]]) -> Floats:
    """Close both hands as around a bar."""
    made = points.copy()
    for side, letter in SIDES.items():
        along = joints[f"{letter}-finger-3-1"] - joints[f"{letter}-hand"]
        knuckles = joints[f"{letter}-finger-2-1"] - joints[f"{letter}-finger-5-1"]
        palm = np.cross(along, knuckles) * (1.0 if side == "left" else -1.0)
        axis = _unit(np.cross(along, palm))
        for finger, bone in ((2, "index"), (3, "middle"), (4, "ring"), (5, "pinky")):
            chain = np.eye(4)
            for part, degrees in enumerate(CURL_DEG, start=1):
                chain = chain @ _about(joints[f"{letter}-finger-{finger}-{part}"], axis, degrees)
                weight = _weight(mesh, f"{bone}_0{part}_{letter}")[:, None]
                made += weight * (points @ chain[:3, :3].T + chain[:3, 3] - points)
        turn = _about(joints[f"{letter}-finger-1-1"], _unit(along), 55.0 if side == "left" else -55.0)
        for part in (1, 2, 3):
            weight = _weight(mesh, f"thumb_0{part}_{letter}")[:, None]
            made += weight * (points @ turn[:3, :3].T + turn[:3, 3] - points)
    return made


def _about(centre: Floats, axis: Floats, degrees: float) -> Floats:
    """Turn about an axis through a point, as a 4 x 4 matrix."""
    x, y, z = axis
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    angle = np.radians(degrees)
    turn = np.eye(3) + np.sin(angle) * cross + (1 - np.cos(angle)) * cross @ cross
    made = np.eye(4)
    made[:3, :3], made[:3, 3] = turn, centre - turn @ centre
    return made


def _unit(vector: Floats) -> Floats:
    return np.asarray(vector / max(float(np.linalg.norm(vector)), 1e-12))


def _axes(along: Floats, bending: Floats) -> Floats:
    one = _unit(along)
    two = _unit(bending - (bending @ one) * one)
    return np.stack([one, two, np.cross(one, two)])
