"""Files made from a clip's pixels. Each is written whole or not at all."""

from __future__ import annotations

import gzip
import json
import os
import secrets
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from atleta import __version__
from atleta.analysis import Progress, Settings, build_document, nothing_told
from atleta.document import Document
from atleta.footage import ClipInfo, FootageError, loudness
from atleta.motion import JointTracks
from atleta.tracking import RawTracks

if TYPE_CHECKING:
    from .models import Clip


def read_tracks(file: Path) -> RawTracks:
    """The raw tracks kept for a clip."""
    return RawTracks.from_json(json.loads(gzip.decompress(file.read_bytes())))


def write_tracks(file: Path, raw: RawTracks) -> None:
    write_whole(file, gzip.compress(json.dumps(raw.to_json(), separators=(",", ":")).encode(), 6))


def derive(tracks: Path, info: ClipInfo, sha256: str, said: Settings, bodies: Path, far: Progress = nothing_told) -> Document:
    """The analysis document from kept tracks and what was said; bodies that were fitted before are taken up."""
    return build_document(read_tracks(tracks), info, sha256, said, KeptBodies(bodies), far)


def loudness_of(clip: Clip) -> list[float] | None:
    """How loud a clip is, frame by frame of the copy for stepping; None without a sound that can be read. Heard once, and kept."""
    if clip.loudness_file.exists():
        kept: list[float] | None = json.loads(clip.loudness_file.read_bytes())
        return kept
    if not clip.proxy_times_file.exists():
        return None
    try:
        heard = loudness(clip.original, json.loads(clip.proxy_times_file.read_text()))
    except FootageError:
        heard = None
    write_whole(clip.loudness_file, json.dumps(heard).encode())
    return heard


class KeptBodies:
    """The bodies fitted to a clip, the latest few of every scene (who faces which way, in which lift, at which rate): what was undone comes
    back at once and as it was. Those of an earlier version of the program go, since what they hold may be something else."""

    MOST = 8

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def recall(self, key: str) -> tuple[bool, JointTracks | None]:
        file = self._file(key)
        if not file.exists():
            return False, None
        os.utime(file)
        return True, self._read(file)

    def kept(self, like: str, unlike: str | None = None) -> Iterator[JointTracks]:
        other = set(self._newest_first(unlike)) if unlike else set()
        for file in self._newest_first(like):
            if file in other:
                continue
            tracks = None
            # Another process may let it go in between.
            with suppress(FileNotFoundError):
                tracks = self._read(file)
            if tracks:
                yield tracks

    def keep(self, key: str, tracks: JointTracks | None) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        held = None if tracks is None else tracks.to_json()
        write_whole(self._file(key), json.dumps(held, separators=(",", ":")).encode())
        others = [file for file in self.folder.glob("[!.]*") if not file.name.startswith(f"{__version__}-")]
        for old in others + self._newest_first(key.partition("-")[0])[self.MOST :]:
            old.unlink(missing_ok=True)

    def _file(self, key: str) -> Path:
        return self.folder / f"{__version__}-{key}.json"

    def _newest_first(self, like: str) -> list[Path]:
        files = self.folder.glob(f"{__version__}-{like}*.json") if self.folder.is_dir() else ()
        kept = {}
        for file in files:
            # Another process may let it go in between.
            with suppress(FileNotFoundError):
                kept[file] = file.stat().st_mtime_ns
        return sorted(kept, key=lambda file: -kept[file])

    @staticmethod
    def _read(file: Path) -> JointTracks | None:
        held = json.loads(file.read_bytes())
        return None if held is None else JointTracks.from_json(held)


def write_whole(target: Path, content: bytes) -> None:
    """Write a file whole or not at all; it is on the disk when this returns."""
    part = part_beside(target)
    try:
        with part.open("wb") as handle:
            handle.write(content)
            handle.flush()
            os.fsync(handle.fileno())
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)


def part_beside(target: Path) -> Path:
    """A name of its own for a file that is being made and will lie here."""
    return target.with_name(f".{target.name[:100]}.{secrets.token_hex(8)}.part")
