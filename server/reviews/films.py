"""Films drawn from a clip: a worker makes them, and they are kept while what they show is as it was."""

from __future__ import annotations

import hashlib
from pathlib import Path

from clips.derived import write_whole
from clips.models import Clip
from jobs.models import Errand
from jobs.services import FIRST, State, request_errand

from .pictures import drawn_clip, spoken_clip

# So many films of a clip are kept, the latest.
MOST_KEPT = 6


def film_of(clip: Clip, *, lift: int = 0, voice: int | None = None) -> Path | None:
    """The film of a lift, or of what stood on the stage while a note was spoken; None while it is being made, which this asks for."""
    film, which = _place(clip, lift, voice), _which(lift, voice)
    if film.exists():
        return film
    subject = f"{clip.pk}:{which}"
    if not Errand.objects.filter(kind="draw", subject=subject, state__in=[State.QUEUED, State.RUNNING]).exists():
        request_errand("draw", subject, FIRST)
    return None


def draw(subject: str) -> None:
    """Make the film that was asked for, as the clip is now."""
    pk, _, which = subject.partition(":")
    clip = Clip.objects.select_related("analysis").filter(pk=pk).first()
    if clip is None:
        return
    voice, lift = (int(which[5:]), 0) if which.startswith("voice") else (None, int(which))
    note = clip.notes.filter(pk=voice).first() if voice is not None else None
    if voice is not None and note is None:
        return
    film = _place(clip, lift, voice)
    film.parent.mkdir(parents=True, exist_ok=True)
    write_whole(film, spoken_clip(clip, note) if note else drawn_clip(clip, lift))
    for old in sorted(film.parent.glob("[!.]*"), key=lambda file: -file.stat().st_mtime_ns)[MOST_KEPT:]:
        old.unlink(missing_ok=True)
    if not Clip.objects.filter(pk=pk).exists():
        # It was deleted meanwhile, and what was made since goes, too.
        film.unlink(missing_ok=True)


def _which(lift: int, voice: int | None) -> str:
    return f"voice{voice}" if voice is not None else str(lift)


def _place(clip: Clip, lift: int, voice: int | None) -> Path:
    """Where the film lies; what it shows is in its name."""
    notes, marks = clip.notes.values_list("pk", "frame", "words"), clip.marks.values("frame", "shape", "ink", "points")
    shows = clip.analysis.revision, list(notes), list(marks), clip.proxy_file.exists()
    return clip.drawn_dir / f"{_which(lift, voice)}-{hashlib.sha256(repr(shows).encode()).hexdigest()[:20]}.mp4"
