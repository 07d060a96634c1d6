"""Which residuals depend on which terms of the fit, so that several terms are nudged at once when slopes are found: a knee's height and
an ear's touch no residual in common."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .model import HALF, POINTS, SHARED, SIZE, STATE
from .residuals import residuals
from .scene import PHASES, Observed, Scene

Floats = NDArray[np.float64]

TERMS = SIZE + len(SHARED)
# So many bodies of every sort are looked at: each residual is at work in many of them.
BODIES, NUDGE = 80, 1e-5
# Where the parts of an upright body are, as shares of stature, about which bodies are scattered.
UPRIGHT = {"hip": 0.53, "shoulder": 0.82, "knee": 0.285, "ankle": 0.04, "elbow": 0.75, "wrist": 0.7, "ear": 0.93, "nose": 0.92}
SCATTERED_M, STATURE_M = 0.15, 1.7


@lru_cache(maxsize=2)
def depends(by_hand: bool) -> NDArray[np.bool_]:
    """Whether a residual depends on a term, `(residuals, TERMS)`, found by trying: bodies of all shapes in all phases of all lifts.

    Args:
        by_hand: whether points are set by hand, which adds residuals.
    """
    found = []
    for seed, (wide, behind) in enumerate(((True, False), (False, False), (False, True))):
        scene, states, shared = _tried(seed, wide, behind, by_hand)
        # All terms in one go: first as they are, then each of them nudged.
        moved, known = (np.tile(values, (TERMS + 1, 1, 1)) for values in (states, shared))
        for term in range(TERMS):
            nudged, column = (moved, term) if term < SIZE else (known, term - SIZE)
            nudged[term + 1, :, column] += NUDGE
        off, _ = residuals(scene.repeated(TERMS + 1), moved.reshape(-1, SIZE), known.reshape(-1, len(SHARED)))
        off = off.reshape(TERMS + 1, BODIES, -1)
        found.append((off[1:] != off[0]).any(axis=1).T)
    return np.asarray(np.any(found, axis=0))


@lru_cache(maxsize=2)
def apart(by_hand: bool) -> tuple[tuple[int, ...], ...]:
    """Terms in as few groups as can easily be found, so that no residual depends on two of a group."""
    found = depends(by_hand)
    groups: list[list[int]] = []
    for term in np.argsort(-found.sum(axis=0), kind="stable"):
        free = (group for group in groups if not (found[:, group].any(axis=1) & found[:, term]).any())
        group = next(free, None)
        if group is None:
            groups.append([int(term)])
        else:
            group.append(int(term))
    return tuple(map(tuple, groups))


def _tried(seed: int, wide: bool, behind: bool, by_hand: bool) -> tuple[Scene, Floats, Floats]:
    """A scene of `BODIES` frames in which everything counts, with a body for each, scattered so that every limit is passed in some."""
    rng = np.random.default_rng(seed)
    seen = Observed(
        np.arange(BODIES) / 30, rng.normal(0, 300, (BODIES, len(POINTS), 2)), np.full((BODIES, len(POINTS)), 0.02),
        np.column_stack([rng.normal(0, 60, BODIES), rng.uniform(-250, 250, BODIES), np.full(BODIES, 60.0)]),
        np.ones(BODIES, bool), np.zeros(BODIES, bool), STATURE_M, True, 1280.0, 80.0, True, 1.0, wide, behind,
        fixed=tuple((row, point, 0.0, 0.0) for row in range(BODIES) for point in range(len(POINTS))) if by_hand else (),
    )  # fmt: skip
    phases: dict[str, Any] = {name: rng.uniform(0.1, 0.9, BODIES) for name in PHASES}
    # A bar on the floor, at every height of a pull, and overhead, at rest and on its way.
    phases |= {"height_m": rng.uniform(0.2, 2.2, BODIES), "speed_m_s": rng.uniform(0, 2, BODIES)}
    scene = Scene(seen, 30.0, 60.0, 0.8, 70.0, frames=BODIES, **phases)
    shared = np.tile([np.log(5.0), 0.05, 0.02, 1.0, 0.42, 0.42, 0.5, 0.3, 0.25, 0.4, 0.15, 0.25], (BODIES, 1))
    states = rng.normal(0, SCATTERED_M, (BODIES, SIZE))
    for column, name in enumerate(STATE):
        part, _, axis = name.removeprefix("near_").removeprefix("far_").partition("_")
        if axis == "y":
            states[:, column] += UPRIGHT[part] * STATURE_M - shared[0, 3]
        elif axis == "z":
            states[:, column] += HALF["shoulder"] * STATURE_M
    # In half of them the bar is at the legs, where it passes them.
    middle = scene.bar_m(shared)
    near_legs = rng.random(BODIES) < 0.5
    shift = middle[:, 1] - rng.uniform(0.1, 0.5, BODIES) * STATURE_M + shared[0, 3]
    for column, name in enumerate(STATE):
        if name.endswith("_y"):
            states[near_legs, column] += shift[near_legs]
        elif name.endswith("_x"):
            states[near_legs, column] += middle[near_legs, 0]
    return scene, states, shared
