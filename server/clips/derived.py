"""Files made from a clip's pixels. Each is written whole or not at all."""

from __future__ import annotations

import gzip
import json
import os
from pathlib import Path

from atleta.tracking import RawTracks

from .models import Clip


def read_tracks(clip: Clip) -> RawTracks:
    """The raw tracks kept for a clip."""
    return RawTracks.from_json(json.loads(gzip.decompress(clip.tracks_file.read_bytes())))


def write_tracks(clip: Clip, raw: RawTracks) -> None:
    write_whole(clip.tracks_file, gzip.compress(json.dumps(raw.to_json(), separators=(",", ":")).encode(), 6))


def write_whole(target: Path, content: bytes) -> None:
    part = target.with_name(f".{target.name}.{os.getpid()}.part")
    part.write_bytes(content)
    part.replace(target)
