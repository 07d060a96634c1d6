"""The technical model that ships: a made-up lifter of the athlete's own build, doing the lift that a clip shows."""

from __future__ import annotations

from typing import Any

from atleta.motion.body.model import BODY_KG_PER_M2
from atleta.simulation import Build, build_like, reference_lift
from atleta_site.refusals import Refused
from clips.models import Clip

from .series import load_kg

USUAL_STATURE_M = 1.70
# What is lifted where no load was entered, against bodyweight.
USUAL_LOAD = 0.8
# Bodies and loads that the made-up lifter can have, and how much of the room is shown.
STATURE_M, LOAD_KG, COVER_M = (1.45, 2.05), (25.0, 250.0), (2.0, 4.0)


class NoReference(Refused):
    """The made-up lifter cannot show this; the message says why."""


def reference_for(clip: Clip, place: int) -> dict[str, Any]:
    """The lift of this clip at that place as a made-up lifter of the athlete's build does it: an analysis document, the stature, and
    whether limbs are as long as the athlete's. They are as long as most people's where that lifter would do it with a fault.

    Raises:
        NoReference: the clip has no such lift, or the made-up lifter does not do it.
    """
    document = clip.analysis.document
    if place >= len(document["lifts"]):
        raise NoReference("The clip has no such lift.")
    lift = document["lifts"][place]
    # While a clip of an earlier version is looked at again, its document may not tell lengths.
    build = build_like(_within(clip.athlete.stature_m or USUAL_STATURE_M, STATURE_M), document.get("lengths_m", {}))
    load = _within(load_kg(clip) or USUAL_LOAD * BODY_KG_PER_M2 * build.stature_m**2, LOAD_KG)
    facing, cover_m = document["clip"]["facing"] or "right", _cover_m(document)
    for own in (build, Build(build.stature_m)):
        try:
            shown = reference_lift(lift["kind"], lift["from"], own, load, facing, cover_m)
        except ValueError as error:
            raise NoReference(str(error)) from error
        if not any(finding["level"] == "fault" for one in shown["lifts"] for finding in one["findings"]):
            break
    return {"document": shown, "stature_m": build.stature_m, "own_limbs": own == build}


def _cover_m(document: dict[str, Any]) -> float:
    """How high the clip's picture is at the lifter, so that both are shown alike; upright pictures are laid flat."""
    clip, scale = document["clip"], document["scale"]
    return round(_within(min(clip["height"], clip["width"]) * (scale["body_m_per_px"] or scale["m_per_px"]), COVER_M), 1)


def _within(value: float, ends: tuple[float, float]) -> float:
    return min(max(value, ends[0]), ends[1])
