"""What is made for a review while nobody waits for it."""

from __future__ import annotations

from clips.derived import write_whole

from .models import HandOver
from .pictures import spoken_clip


def film_spoken(handed: int) -> None:
    """What stood on the stage while the notes of a review were spoken, as clips that go out with it. A note that was taken back meanwhile
    is heard and not seen."""
    row = HandOver.objects.select_related("clip__analysis").filter(pk=handed).first()
    if row is None or not row.open:
        return
    for note in row.clip.notes.filter(seconds__isnull=False):
        if row.voice_file(note.pk).exists():
            write_whole(row.film(note.pk), spoken_clip(row.clip, note))
    if not HandOver.objects.filter(pk=handed).exists():
        # Its clip was deleted meanwhile, and what was made since goes, too.
        for file in row.files():
            file.unlink(missing_ok=True)
