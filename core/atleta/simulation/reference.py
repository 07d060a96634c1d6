"""A made-up lifter of somebody's own build who performs a lift soundly: what a coach may lay beside a film as a technical model."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache

import numpy as np

from ..analysis import Settings, build_document
from ..document import Document
from ..footage import ClipInfo
from ..motion.body.model import BODY_KG_PER_M2
from ..motion.body.sight import UNKNOWN_STATURE_M
from .build import Build
from .camera import Camera
from .perfect import PerfectBody, perfect_tracks
from .sets import LIFTS, Asked, play

# Lifts that are performed under another name.
PERFORMED = {"high_pull": "snatch_high_pull"}
# How far arms and legs may be longer or shorter than most people's: beyond this a fit is more likely wrong than a lifter so built.
BUILT_WITHIN = (0.95, 1.05)
# A picture shows a little floor, and goes up to a bar overhead (shares of its height, of stature).
FLOOR_SHOWN, OVERHEAD = 0.08, 1.45
# What is lifted where no load is known, against bodyweight.
USUAL_LOAD = 0.8
# Bodies and loads that the made-up lifter can have, and how much of the room is shown.
STATURE_M, LOAD_KG, COVER_M = (1.45, 2.05), (25.0, 250.0), (2.0, 4.0)


def build_like(stature_m: float, lengths_m: Mapping[str, float]) -> Build:
    """A build of this stature with arms and legs as long, against most people's, as these segments (by name; those not known as usual)."""
    usual = Build(stature_m)

    def share(*parts: tuple[str, float]) -> float:
        if not all(name in lengths_m for name, _ in parts):
            return 1.0
        return round(float(np.clip(sum(lengths_m[name] for name, _ in parts) / sum(own for _, own in parts), *BUILT_WITHIN)), 2)

    return Build(
        stature_m, share(("thigh", usual.thigh_m), ("shin", usual.shank_m)),
        arm_share=share(("upper_arm", usual.upper_arm_m), ("forearm", usual.forearm_m)),
    )  # fmt: skip


def reference_for(
    kind: str, begins: str, *, stature_m: float | None, lengths_m: Mapping[str, float], load_kg: float | None, facing: str, cover_m: float
) -> tuple[Document, Build]:
    """A lift as somebody of this stature and these segments would soundly do it, with limbs as long as most people's where with their own
    it would be done with a fault; and the build of who does it. Bodies, loads and rooms beyond what can be simulated are brought to its
    edge; an unknown load is a usual one.

    Raises:
        ValueError: as `reference_lift`.
    """
    build = build_like(_within(stature_m or UNKNOWN_STATURE_M, STATURE_M), lengths_m)
    load_kg = _within(load_kg or USUAL_LOAD * BODY_KG_PER_M2 * build.stature_m**2, LOAD_KG)
    for own in (build, Build(build.stature_m)):
        document = reference_lift(kind, begins, own, load_kg, facing, round(_within(cover_m, COVER_M), 1))
        if not any(finding["level"] == "fault" for lift in document["lifts"] for finding in lift["findings"]):
            break
    return document, own


def performed(kind: str, begins: str) -> str:
    """As what the made-up lifter does a kind of lift.

    Raises:
        ValueError: a lift that they cannot do.
    """
    asked = PERFORMED.get(kind, kind) + ("_from_blocks" if begins == "blocks" else "")
    if asked not in LIFTS:
        raise ValueError(f"The made-up lifter does not do a {asked.replace('_', ' ')}.")
    return asked


@lru_cache(maxsize=16)
def reference_lift(kind: str, begins: str, build: Build, load_kg: float, facing: str, cover_m: float = 3.0) -> Document:
    """The analysis document of this lift done soundly by a lifter of this build, seen square from the side; every figure is exact. All who
    ask for the same get the same document, which is not to be changed.

    Args:
        begins: where the bar starts; from the floor unless on blocks.
        cover_m: how high the picture is at the lifter; higher where a bar overhead asks for it.

    Raises:
        ValueError: a lift that the made-up lifter cannot do.
    """
    done = play(Asked((performed(kind, begins),), build, load_kg, BODY_KG_PER_M2 * build.stature_m**2))
    cover_m = max(cover_m, OVERHEAD * build.stature_m)
    camera = Camera(facing=facing, cover_m=cover_m, aim_height_m=(0.5 - FLOOR_SHOWN) * cover_m)
    raw, truth = perfect_tracks(done, camera)
    times = raw.frame_time_s
    info = ClipInfo(camera.width_px, camera.height_px, 0, float(times[-1]), len(times), camera.fps, "")
    said = Settings(lift=kind, load_kg=load_kg, stature_m=build.stature_m, made=True, facing=facing, plumb_deg=0.0)
    document = build_document(raw, info, "0" * 64, said, PerfectBody(done, camera))
    seen = ("x_px", "y_px", "confidence")
    document["joints"] = {
        name: {row: joint[row] for row in seen} | {"sd_cm": [0.0] * len(times)} for name, joint in truth["joints"].items()
    }
    document["scale"]["body_m_per_px"] = truth["scale"]["body_m_per_px"]
    document["made_by"]["simulation"] = "a made-up lifter"
    return document


def _within(value: float, ends: tuple[float, float]) -> float:
    return min(max(value, ends[0]), ends[1])
