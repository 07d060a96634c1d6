"""An athlete who leaves: everything of theirs to take along, and gone from here."""

from __future__ import annotations

import json
import tempfile
import zipfile
from datetime import date, datetime
from typing import IO, Any

from django.conf import settings
from django.db import models

from clips.models import Clip
from clips.services import forget
from people.models import Athlete

from .services import written

# Rows that belong to an athlete, or to one of their clips, and the name of the file they go into.
OF_ATHLETE = ("bests", "days", "reports", "said", "done", "blocks")
OF_CLIP = ("disc_points", "joint_points", "verdicts", "notes", "marks", "corrections", "assignments")


def taken_along(athlete: Athlete) -> IO[bytes]:
    """A zip of open formats: who they are, their log as a table, every clip as it came in with its analysis, the coach's word,
    written and spoken, and the reviews that were handed over. The file
    is gone once it is closed."""
    out = tempfile.TemporaryFile(dir=settings.FILE_UPLOAD_TEMP_DIR)  # noqa: SIM115, handed to the caller open
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as kept:
        kept.writestr("athlete.json", _json(_row(athlete) | {name: _rows(getattr(athlete, name)) for name in OF_ATHLETE}))
        kept.writestr("log.csv", written(athlete))
        for clip in athlete.clips.select_related("analysis"):
            folder = f"clips/{clip.added_at:%Y-%m-%d}-{clip.pk}"
            kept.writestr(f"{folder}/clip.json", _json(_row(clip) | {name: _rows(getattr(clip, name)) for name in OF_CLIP}))
            if hasattr(clip, "analysis"):
                kept.writestr(f"{folder}/analysis.json", _json(clip.analysis.document))
            if clip.original.exists():
                # Packed already.
                kept.write(clip.original, f"{folder}/film{clip.suffix}", zipfile.ZIP_STORED)
            for voice in sorted(clip.voices_dir.glob("*.m4a")):
                kept.write(voice, f"{folder}/spoken/{voice.name}", zipfile.ZIP_STORED)
            for handed in clip.hand_overs.all():
                kept.writestr(f"{folder}/reviews/{handed.published_at:%Y-%m-%d}-{handed.pk}.json", _json(handed.content))
                for file in handed.files():
                    kept.write(file, f"{folder}/reviews/{file.name}", zipfile.ZIP_STORED)
    out.seek(0)
    return out


def remove(athlete: Athlete) -> None:
    """Everything of an athlete goes: clips with their files, reviews and their links, work, log and the link to their page."""
    for clip in Clip.objects.filter(athlete=athlete):
        forget(clip)
    athlete.delete()


def _rows(of: Any) -> list[dict[str, Any]]:
    return [_row(row) for row in of.all()]


def _row(row: models.Model) -> dict[str, Any]:
    return {field.name: getattr(row, field.attname) for field in row._meta.concrete_fields}


def _json(held: Any) -> str:
    def as_text(value: Any) -> str:
        return value.isoformat() if isinstance(value, date | datetime) else str(value)

    return json.dumps(held, ensure_ascii=False, indent=1, default=as_text)
