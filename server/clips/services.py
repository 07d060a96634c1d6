"""Taking in clips: check the file, keep the original under its hash, write the row, ask for the analysis."""

from __future__ import annotations

import os
import re
import shutil
import time
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction

from atleta.footage import FootageError, content_hash, jpeg_of_frame, probe
from atleta_site.refusals import Refused
from jobs.services import request_analysis
from people.models import Athlete
from reviews.models import HandOver

from .derived import part_beside, write_whole
from .models import Clip

# Of phones, then of other cameras and of what films are kept in.
SUFFIXES = (".mp4", ".mov", ".m4v", ".webm", ".3gp", ".mkv", ".avi", ".mts", ".m2ts", ".mpg")


class NotAClip(Refused):
    """The file cannot be taken in."""

    status = 422


def receive_clip(source: Path, file_name: str, athlete: Athlete, **facts: Any) -> Clip:
    """Take a file in: the original is kept as it is, the analysis is asked for.

    Raises:
        NotAClip: the name has no ending of a video file, or the file cannot be used.
    """
    suffix = Path(file_name).suffix.lower()
    if suffix not in SUFFIXES:
        known = ", ".join(SUFFIXES)
        raise NotAClip(f"{file_name} has no ending of a video file that can be read ({known}). Send the clip as the phone made it.")
    try:
        info, poster = probe(source), jpeg_of_frame(source, 0, long_side_px=480)
    except FootageError as error:
        raise NotAClip(error.message) from error
    sha256 = content_hash(source)
    clip = Clip(
        athlete=athlete,
        file_name=Path(file_name).name[:255],
        suffix=suffix,
        sha256=sha256,
        size_bytes=source.stat().st_size,
        info=asdict(info),
        **facts,
    )
    clip.original.parent.mkdir(parents=True, exist_ok=True)
    part = part_beside(clip.original)
    try:
        _copied(source, part)
        # Who sends a film and who deletes the last clip of the same film wait for each other here.
        with transaction.atomic():
            if not clip.original.exists():
                part.replace(clip.original)
            clip.save()
            request_analysis(clip)
    finally:
        part.unlink(missing_ok=True)
    if not clip.poster_file.exists():
        clip.derived_dir.mkdir(parents=True, exist_ok=True)
        write_whole(clip.poster_file, poster)
    return clip


def forget(clip: Clip) -> None:
    """Delete a clip with everything that was made from it; its file goes too, unless another clip is the same file."""
    mine = [clip.voices_dir, clip.bodies_dir, clip.drawn_dir, *(file for one in clip.hand_overs.all() for file in one.files())]
    shared = [clip.original, clip.derived_dir]
    clip.delete()
    gone = []
    with transaction.atomic():
        if not Clip.objects.filter(sha256=clip.sha256).exists():
            gone = [_set_aside(path) for path in shared if path.exists()]
    for path in (*mine, *gone):
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)


def _set_aside(path: Path) -> Path:
    """Out of the way under a name of its own, which takes no time; `tidy` removes what is left there."""
    aside = part_beside(path)
    path.replace(aside)
    return aside


def _copied(source: Path, target: Path) -> None:
    """A copy that is on the disk when this returns."""
    with source.open("rb") as taken, target.open("wb") as kept:
        shutil.copyfileobj(taken, kept, 2**20)
        kept.flush()
        os.fsync(kept.fileno())
    target.chmod(0o444)


def tidy() -> int:
    """Remove what nothing belongs to any more: files half made by a process that was killed, and those of clips and reviews that are gone;
    returns how many. Nothing younger than an hour is touched."""
    old = time.time() - 3600
    clips = {str(pk): sha256 for pk, sha256 in Clip.objects.values_list("pk", "sha256")}
    known, handed = set(clips.values()), {str(pk) for pk in HandOver.objects.values_list("pk", flat=True)}
    belongs: dict[str, Callable[[Path], bool]] = {
        "originals/*/*": lambda path: path.stem in known, "derived/*/*": lambda path: path.name in known,
        "bodies/*": lambda path: path.name in clips, "voice/*": lambda path: path.name in clips,
        "drawn/*": lambda path: path.name in clips,
        "handed/*": lambda path: re.split(r"[-.]", path.name)[0] in handed,
    }  # fmt: skip
    strays = [path for pattern, kept in belongs.items() for path in settings.MEDIA_DIR.glob(pattern) if not kept(path)]
    strays += [*settings.MEDIA_DIR.rglob(".*.part"), *settings.FILE_UPLOAD_TEMP_DIR.iterdir()]
    strays = [path for path in dict.fromkeys(strays) if path.exists() and path.stat().st_mtime < old]
    for path in strays:
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)
    return len(strays)
