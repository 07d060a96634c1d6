"""The technical model that ships: a made-up lifter of the athlete's own build, doing the lift that a clip shows. A worker makes it, as it
takes longer than a coach likes to wait."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

from atleta.simulation import build_like, performed, reference_for
from atleta_site.refusals import Refused
from clips.derived import write_whole
from clips.models import Clip

from .films import keep_latest, want
from .series import load_kg


class NoReference(Refused):
    """The made-up lifter cannot show this; the message says why."""


def reference_of(clip: Clip, place: int) -> dict[str, Any] | None:
    """The lift of this clip at that place as a made-up lifter of the athlete's build does it: an analysis document, the stature, and
    whether limbs are as long as the athlete's. None while it is being made, which this asks for.

    Raises:
        NoReference: the clip has no such lift, or the made-up lifter does not do it.
        CannotFilm: it was tried a moment ago, in vain.
    """
    kept = _file(clip, _asked(clip, place))
    if kept.exists():
        told: dict[str, Any] = json.loads(kept.read_bytes())
        return told
    want("reference", f"{clip.pk}:{place}")
    return None


def make_reference(subject: str) -> None:
    """Make what `reference_of` asked for: `<clip>:<lift>`."""
    pk, _, place = subject.partition(":")
    clip = Clip.objects.filter(pk=pk, analysis__isnull=False).select_related("athlete", "analysis").first()
    if clip is None or int(place) >= len(clip.analysis.document["lifts"]):
        return
    asked = _asked(clip, int(place))
    document, build = reference_for(**asked)
    own = build == build_like(build.stature_m, asked["lengths_m"])
    kept = _file(clip, asked)
    kept.parent.mkdir(parents=True, exist_ok=True)
    write_whole(kept, json.dumps({"document": document, "stature_m": build.stature_m, "own_limbs": own}).encode())
    keep_latest(clip, kept)


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


def _file(clip: Clip, asked: dict[str, Any]) -> Path:
    """Where it lies; what it shows is in its name."""
    return clip.drawn_dir / f"reference-{hashlib.sha256(repr(sorted(asked.items())).encode()).hexdigest()[:20]}.json"
