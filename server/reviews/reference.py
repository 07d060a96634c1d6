"""The technical model that ships: a made-up lifter of the athlete's own build, doing the lift that a clip shows."""

from __future__ import annotations

from typing import Any

from atleta.simulation import build_like, reference_for
from atleta_site.refusals import Refused
from clips.models import Clip

from .series import load_kg


class NoReference(Refused):
    """The made-up lifter cannot show this; the message says why."""


def reference_of(clip: Clip, place: int) -> dict[str, Any]:
    """The lift of this clip at that place as a made-up lifter of the athlete's build does it: an analysis document, the stature, and
    whether limbs are as long as the athlete's.

    Raises:
        NoReference: the clip has no such lift, or the made-up lifter does not do it.
    """
    document = clip.analysis.document
    if place >= len(document["lifts"]):
        raise NoReference("The clip has no such lift.")
    lift, seen, scale = document["lifts"][place], document["clip"], document["scale"]
    if seen["view"]["kind"] in ("front", "back"):
        raise NoReference("The made-up lifter is seen from the side, and this clip is from the front. Lay it over a film from the side.")
    # While a clip of an earlier version is looked at again, its document may not tell lengths.
    lengths_m = document.get("lengths_m", {})
    # As high at the lifter as the clip's picture, so that both are shown alike; upright pictures are laid flat.
    cover_m = min(seen["height"], seen["width"]) * (scale["body_m_per_px"] or scale["m_per_px"])
    try:
        shown, build = reference_for(
            lift["kind"], lift["from"], stature_m=clip.athlete.stature_m, lengths_m=lengths_m, load_kg=load_kg(clip),
            facing=seen["facing"] or "right", cover_m=cover_m,
        )  # fmt: skip
    except ValueError as error:
        raise NoReference(str(error)) from error
    own = build == build_like(build.stature_m, lengths_m)
    return {"document": shown, "stature_m": build.stature_m, "own_limbs": own}
