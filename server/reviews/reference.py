"""The technical model that ships: a made-up lifter of the athlete's own build, doing the lift that a clip shows. It is made beside
the web server, as it takes longer than an answer may."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from atleta.simulation import performed
from atleta_site.refusals import Refused
from clips.models import Clip
from jobs.apart import APART

from .made_up import make
from .series import load_kg


class NoReference(Refused):
    """The made-up lifter cannot show this; the message says why."""


def reference_of(clip: Clip, place: int) -> dict[str, Any] | None:
    """The lift of this clip at that place as a made-up lifter of the athlete's build does it: an analysis document, the stature, and
    whether limbs are as long as the athlete's. None while it is being made, which this asks for.

    Raises:
        NoReference: the clip has no such lift, or the made-up lifter does not do it.
    """
    asked = _asked(clip, place)
    kept = clip.drawn_dir / f"reference-{hashlib.sha256(repr(sorted(asked.items())).encode()).hexdigest()[:20]}.json"
    if not kept.exists():
        APART.once(str(kept), make, asked, kept)
    if not kept.exists():
        return None
    told: dict[str, Any] = json.loads(kept.read_bytes())
    return told


def _asked(clip: Clip, place: int) -> dict[str, Any]:
    """What is to be made, as `reference_for` takes it."""
    document = clip.analysis.document
    if place >= len(document["lifts"]):
        raise NoReference("The clip has no such lift.")
    lift, seen, scale = document["lifts"][place], document["clip"], document["scale"]
    if seen["view"]["kind"] in ("front", "back"):
        raise NoReference("The made-up lifter is seen from the side, and this clip is from the front. Lay it over a film from the side.")
    try:
        performed(lift["kind"], lift["from"])
    except ValueError as error:
        raise NoReference(str(error)) from error
    return {
        "kind": lift["kind"], "begins": lift["from"], "stature_m": clip.athlete.stature_m,
        # While a clip of an earlier version is looked at again, its document may not tell lengths.
        "lengths_m": document.get("lengths_m", {}), "load_kg": load_kg(clip), "facing": seen["facing"] or "right",
        # As high at the lifter as the clip's picture, so that both are shown alike; upright pictures are laid flat.
        "cover_m": min(seen["height"], seen["width"]) * (scale["body_m_per_px"] or scale["m_per_px"]),
    }  # fmt: skip
