"""Which clips the benchmark looks at."""

from __future__ import annotations

import json
from pathlib import Path

FRONTAL_DEG = 45.0


def from_the_side(folder: Path) -> list[Path]:
    """The clips of a folder that have their truth beside them and were filmed from the side; those from the front are `front.py`'s."""
    told = {clip: json.loads(clip.with_suffix(".truth.json").read_text()) for clip in sorted(folder.glob("*.mp4"))}
    return [clip for clip, truth in told.items() if abs(truth["clip"]["view"]["yaw_deg"]) < FRONTAL_DEG]
