"""Taking in clips: check the file, keep the original under its hash, write the row, ask for the analysis."""

from __future__ import annotations

import os
import shutil
from dataclasses import asdict
from pathlib import Path
from typing import Any

from django.db import transaction

from atleta.footage import FootageError, content_hash, jpeg_of_frame, probe
from atleta_site.refusals import Refused
from jobs.services import request_analysis
from people.models import Athlete

from .derived import write_whole
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
        info = probe(source)
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
    _keep(source, clip.original)
    if not clip.poster_file.exists():
        clip.derived_dir.mkdir(parents=True, exist_ok=True)
        write_whole(clip.poster_file, jpeg_of_frame(clip.original, 0, long_side_px=480))
    with transaction.atomic():
        clip.save()
        request_analysis(clip)
    return clip


def forget(clip: Clip) -> None:
    """Delete a clip with everything that was made from it; its file goes too, unless another clip is the same file."""
    original, derived, voices, bodies = clip.original, clip.derived_dir, clip.voices_dir, clip.bodies_dir
    handed = [file for one in clip.hand_overs.all() for file in one.files()]
    clip.delete()
    for file in handed:
        file.unlink(missing_ok=True)
    for folder in (voices, bodies):
        shutil.rmtree(folder, ignore_errors=True)
    if not Clip.objects.filter(sha256=clip.sha256).exists():
        shutil.rmtree(derived, ignore_errors=True)
        original.unlink(missing_ok=True)


def _keep(source: Path, target: Path) -> None:
    """Copy a file to its place, whole or not at all; what already lies there under the same hash is the same file."""
    if target.exists():
        return
    target.parent.mkdir(parents=True, exist_ok=True)
    part = target.with_name(f".{target.name}.{os.getpid()}.part")
    shutil.copyfile(source, part)
    part.chmod(0o444)
    part.replace(target)
