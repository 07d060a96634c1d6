from __future__ import annotations

import json
from functools import lru_cache

import pytest

from atleta.analysis import Settings, build_document, track_clip
from atleta.footage import content_hash, probe

from .world import DEMO, flat

# The clips whose pixels the tests look at; `make bench` looks at all of them.
NAMES = ("ida-snatch-68", "ida-snatch-76", "tobin-clean-85", "bram-clean-104", "orla-snatch-45", "ida-jerk-92")


@lru_cache(maxsize=16)
def demo_case(name: str) -> tuple[dict, dict]:
    """A demo clip's document, analysed from its pixels, and its truth."""
    clip = DEMO / f"{name}.mp4"
    truth = flat(json.loads((DEMO / f"{name}.truth.json").read_text()))
    info = probe(clip)
    lift = "jerk" if truth["kind"].endswith("jerk") else truth["kind"]
    settings = Settings(lift=lift, load_kg=truth["load_kg"], stature_m=truth["stature_m"], made=True)
    return build_document(track_clip(clip, info), info, content_hash(clip), settings), truth


@pytest.fixture(params=NAMES)
def demo(request: pytest.FixtureRequest) -> tuple[dict, dict]:
    return demo_case(request.param)
