"""The made-up lifter's lift as a file. Made in a process that knows nothing of the database."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from atleta.simulation import build_like, reference_for
from clips.derived import write_whole

# So many of a clip are kept, the latest.
MOST_KEPT = 4


def make(asked: dict[str, Any], kept: Path) -> None:
    """What `reference_for` makes of what is asked: an analysis document, the stature, and whether limbs are as long as the athlete's."""
    document, build = reference_for(**asked)
    own = build == build_like(build.stature_m, asked["lengths_m"])
    kept.parent.mkdir(parents=True, exist_ok=True)
    write_whole(kept, json.dumps({"document": document, "stature_m": build.stature_m, "own_limbs": own}).encode())
    for old in sorted(kept.parent.glob("reference-*"), key=lambda file: -file.stat().st_mtime_ns)[MOST_KEPT:]:
        old.unlink(missing_ok=True)
