from __future__ import annotations

import json
from functools import lru_cache

import pytest

from atleta.analysis import Settings, build_document, track_clip
from atleta.footage import content_hash, probe

from .world import DEMO

NAMES = sorted(path.name.removesuffix(".mp4") for path in DEMO.glob("*.mp4"))


@lru_cache(maxsize=16)
def demo_case(name: str) -> tuple[dict, dict]:
    """A demo clip's document, analysed from its pixels, and its truth."""
    clip = DEMO / f"{name}.mp4"
    truth = json.loads((DEMO / f"{name}.truth.json").read_text())
    info = probe(clip)
    lift = "jerk" if truth["kind"].endswith("jerk") else truth["kind"]
    settings = Settings(lift=lift, load_kg=truth["load_kg"], stature_m=truth["stature_m"], made=True)
    return build_document(track_clip(clip, info), info, content_hash(clip), settings), truth


@pytest.fixture(params=NAMES)
def demo(request: pytest.FixtureRequest) -> tuple[dict, dict]:
    return demo_case(request.param)
