"""Films drawn from a clip: a worker makes them, and they are kept while what they show is as it was."""

from __future__ import annotations

import hashlib
from contextlib import suppress
from datetime import timedelta
from pathlib import Path

from django.utils import timezone

from atleta_site.refusals import Refused
from clips.derived import write_whole
from clips.models import Clip
from jobs.models import Errand
from jobs.services import FIRST, State, request_errand

from .pictures import drawn_clip, spoken_clip

# So many films of a clip are kept, the latest.
MOST_KEPT = 6
TRIED_AGAIN = timedelta(minutes=2)


class CannotFilm(Refused):
    """The film cannot be had; the message says why."""

    status = 500


def film_of(clip: Clip, *, lift: int = 0, voice: int | None = None) -> Path | None:
    """The film of a lift, or of what stood on the stage while a note was spoken; None while it is being made, which this asks for.

    Raises:
        CannotFilm: it was tried a moment ago, in vain.
    """
    film, which = _place(clip, lift, voice), _which(lift, voice)
    if film.exists():
        return film
    subject = f"{clip.pk}:{which}"
    asked = Errand.objects.filter(kind="draw", subject=subject).first()
    if asked is not None and asked.state == State.FAILED and asked.finished_at and asked.finished_at > timezone.now() - TRIED_AGAIN:
        raise CannotFilm("This film could not be made. It was noted; try again in a few minutes.")
    if asked is None or asked.state == State.FAILED:
        request_errand("draw", subject, FIRST)
    return None


def is_there(clip: Clip, voice: int) -> bool:
    """Whether the film of a spoken note can be had now; otherwise it is asked for."""
    with suppress(CannotFilm):
        return film_of(clip, voice=voice) is not None
    return False


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
