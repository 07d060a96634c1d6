"""Lifters as they come: builds, what they wear, the lifts they do, and how each one does them otherwise than the book says."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from atleta.simulation import Build, Outfit, Performance, Wanted, asked_set, play
from atleta.simulation.asked import AT_FULL_STRENGTH
from atleta.simulation.sets import LIFTS
from atleta.simulation.skeleton import two_link

Floats = NDArray[np.float64]
Joints = dict[str, Floats]
Colour = tuple[float, float, float]
# How often each lift is drawn; whatever is not named is drawn a little.
OFTEN = {"snatch": 5.0, "clean": 5.0, "split_jerk": 4.0, "power_snatch": 2.0, "power_clean": 2.0, "power_jerk": 2.0}
SOME_FAULTS = 0.7
SKIN = np.array([0.82, 0.62, 0.50])
UP = np.array([0.0, 1.0, 0.0])
# A wrist so near to its shoulder is that of a folded arm (m).
FOLDED_M = 0.22


def build(rng: np.random.Generator) -> Build:
    """Anybody from a child to a heavy adult."""
    return Build(
        float(np.clip(rng.normal(1.68, 0.13), 1.25, 2.02)),
        leg_share=float(rng.normal(1.0, 0.045)),
        girth=float(np.clip(rng.normal(1.03, 0.11), 0.82, 1.36)),
        arm_share=float(rng.normal(1.0, 0.03)),
        forearm_share=float(np.clip(rng.normal(1.0, 0.08), 0.8, 1.25)),
        shank_share=float(np.clip(rng.normal(1.0, 0.04), 0.88, 1.12)),
        sex=float(rng.uniform()),
    )


def colour(rng: np.random.Generator, low: float = 0.02, high: float = 0.95) -> Colour:
    """A colour: often a grey, sometimes a loud one."""
    grey, spread = rng.uniform(low, high), rng.choice([0.03, 0.15, 0.4])
    red, green, blue = np.clip(grey + rng.normal(0, spread, 3), low, high)
    return float(red), float(green), float(blue)


def outfit(rng: np.random.Generator) -> Outfit:
    skin = np.clip(SKIN * rng.uniform(0.25, 1.1) * (1 + rng.normal(0, 0.05, 3)), 0.03, 0.98)
    return Outfit(
        skin=(float(skin[0]), float(skin[1]), float(skin[2])), hair=colour(rng, 0.02, 0.7), shirt=colour(rng), shorts=colour(rng),
        shoes=colour(rng), legs_covered=float(rng.choice([rng.uniform(0.1, 1.0), 2.0])), arms_covered=float(rng.uniform(0.0, 1.0)),
        loose_m=float(rng.choice([0.0, abs(rng.normal(0, 0.012))])), weave=int(rng.integers(0, 2**31) * (rng.uniform() < 0.7)),
        belt=colour(rng) if rng.uniform() < 0.35 else None, sleeves=colour(rng) if rng.uniform() < 0.35 else None,
        back_round_m=float(max(rng.normal(0.005, 0.015), -0.01)), jointed=int(rng.integers(1, 2**31)),
    )  # fmt: skip


def performance(rng: np.random.Generator) -> Performance:
    """A lift by somebody, most with one to three faults, some far beyond what is called one."""
    while True:
        names = list(LIFTS)
        weights = np.array([OFTEN.get(name, 0.4) for name in names])
        lift = str(rng.choice(names, p=weights / weights.sum()))
        faults = {}
        if rng.uniform() < SOME_FAULTS:
            for fault in rng.choice(list(AT_FULL_STRENGTH), int(rng.integers(1, 12))):
                faults[str(fault)] = float(rng.uniform(0.2, 1.0))
        who = build(rng)
        try:
            seeds = [int(seed) for seed in rng.integers(2**31, size=2)]
            load = float(rng.uniform(30, 180))
            wanted = Wanted(lift, who, load, seed=seeds[0], habit_seed=seeds[1], faults=_fitting(lift, who, faults))
            asked = asked_set(wanted)
            return play(asked)
        except ValueError:
            continue


def _fitting(lift: str, who: Build, faults: dict[str, float]) -> dict[str, float]:
    """Of the faults three at most that this lift can have."""
    fit: dict[str, float] = {}
    for fault, strength in faults.items():
        try:
            asked_set(Wanted(lift, who, faults=fit | {fault: strength}))
        except ValueError:
            continue
        fit[fault] = strength
        if len(fit) == 3:
            break
    return fit


def otherwise(joints: Joints, who: Build, rng: np.random.Generator) -> Joints:
    """The same moment done otherwise: hips, knees, elbows, shoulders, head and feet elsewhere, limbs as long as they are, hands on the bar.

    Wide enough that nothing in how this simulation lifts can be learned by heart.
    """
    made = {name: np.array(place, float) for name, place in joints.items()}
    strength = float(rng.choice([0.3, 1.0, 2.0], p=[0.3, 0.5, 0.2]))
    _move(
        made, "hip", rng.normal(0, [0.03, 0.035, 0.012]) * strength, strength * float(rng.normal(0, 5)), "ankle", who.thigh_m + who.shank_m
    )
    shoulders = rng.normal(0, [0.025, 0.02, 0.012]) * strength
    moved = _move(made, "shoulder", shoulders, strength * float(rng.normal(0, 6)), "wrist", who.upper_arm_m + who.forearm_m)
    for name in ("neck", "nose", "left_ear", "right_ear"):
        made[name] = made[name] + moved
    out = float(rng.normal(0, 14) + rng.choice([0.0, rng.uniform(-10, 45)])) * strength
    high = np.radians(rng.uniform(-75, 65))
    anywhere = np.array([np.cos(high), np.sin(high), rng.uniform(-0.1, 0.7)]) if rng.uniform() < 0.6 else None
    for side, sign in (("left", -1.0), ("right", 1.0)):
        hip, ankle, knee = (made[f"{side}_{name}"] for name in ("hip", "ankle", "knee"))
        foot = _about(UP, strength * float(rng.normal(0, 8)))
        moved = np.array([rng.normal(0, 0.02), 0.0, rng.normal(0, 0.02)]) * strength
        for name in ("heel", "toe"):
            made[f"{side}_{name}"] = ankle + foot @ (made[f"{side}_{name}"] - ankle) + moved
        made[f"{side}_ankle"] = ankle = ankle + moved
        made[f"{side}_knee"] = _linked(hip, ankle, who.thigh_m, who.shank_m, knee, -sign * out + float(rng.normal(0, 5)) * strength)
        shoulder, wrist, elbow = (made[f"{side}_{name}"] for name in ("shoulder", "wrist", "elbow"))
        swing = float(rng.choice([rng.normal(0, 12), rng.normal(0, 40)])) * strength
        if np.linalg.norm(wrist - shoulder) < FOLDED_M and anywhere is not None:
            # Of an arm that is folded in the rack the elbow may be high or low, out or in.
            elbow, swing = shoulder + anywhere * [1.0, 1.0, sign], float(rng.normal(0, 6))
        made[f"{side}_elbow"] = _linked(shoulder, wrist, who.upper_arm_m, who.forearm_m, elbow, swing)
    turn = _about(np.array([0.0, 0.0, 1.0]), float(rng.normal(0, 18))) @ _about(UP, float(rng.normal(0, 20)))
    for name in ("nose", "left_ear", "right_ear"):
        made[name] = made["neck"] + turn @ (made[name] - made["neck"])
    return made


def _move(made: Joints, line: str, by: Floats, degrees: float, end: str, reach_m: float) -> Floats:
    """Move and turn hips or shoulders, no further than legs or arms reach; how far they were moved."""
    before = {side: made[f"{side}_{line}"] for side in ("left", "right")}
    middle = (before["left"] + before["right"]) / 2
    for share in (1.0, 0.5, 0.2, 0.0):
        turn = _about(UP, share * degrees)
        for side, place in before.items():
            made[f"{side}_{line}"] = middle + turn @ (place - middle) + share * by
        if all(np.linalg.norm(made[f"{side}_{line}"] - made[f"{side}_{end}"]) < 0.998 * reach_m for side in before):
            break
    return np.asarray(share * by)


def empty_handed(joints: Joints, who: Build, rng: np.random.Generator) -> Joints:
    """The same moment with nothing in the hands: arms somewhere."""
    made = {name: np.array(place, float) for name, place in joints.items()}
    for side in ("left", "right"):
        shoulder = made[f"{side}_shoulder"]
        way = rng.normal(0, 1, 3) + [0.2, -0.6, 0.0]
        reach = (who.upper_arm_m + who.forearm_m) * float(rng.uniform(0.45, 0.99))
        wrist = shoulder + reach * way / np.linalg.norm(way)
        made[f"{side}_wrist"] = wrist
        made[f"{side}_elbow"] = _linked(shoulder, wrist, who.upper_arm_m, who.forearm_m, shoulder + rng.normal(0, 1, 3), 0.0)
        along = wrist - made[f"{side}_elbow"] + rng.normal(0, 0.05, 3)
        made[f"{side}_hand"] = wrist + who.palm_m * along / np.linalg.norm(along)
    return made


def turned(joints: Joints, degrees: float, to: Floats) -> Joints:
    """Somebody turned about the upright through where they stand, and moved there."""
    middle = (joints["left_ankle"] + joints["right_ankle"]) / 2 * [1, 0, 1]
    turn = _about(UP, degrees)
    return {name: turn @ (place - middle) + to for name, place in joints.items()}


def _linked(root: Floats, tip: Floats, first: float, second: float, towards: Floats, degrees: float) -> Floats:
    """The joint between two links, bent towards a point, and swung about the line from root to tip."""
    along = (tip - root) / max(float(np.linalg.norm(tip - root)), 1e-9)
    pole = _about(along, degrees) @ (towards - root)
    return two_link(root[:, None], tip[:, None], first, second, pole[:, None])[:, 0]


def _about(axis: Floats, degrees: float) -> Floats:
    """Turn `(3, 3)` about a unit axis."""
    x, y, z = axis
    cross, angle = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]]), np.radians(degrees)
    return np.asarray(np.eye(3) + np.sin(angle) * cross + (1 - np.cos(angle)) * cross @ cross)
