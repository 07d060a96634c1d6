"""Work that is no analysis: which kinds there are, and how one is done."""

from __future__ import annotations

import logging
import shutil
from collections.abc import Callable
from typing import Any

from clips.demo import play
from clips.models import Clip
from reviews.films import draw
from reviews.services import foresee
from reviews.tasks import film_spoken

from .heart import Heart
from .models import AnalysisJob, Errand
from .services import LeaseLost, State, claim, fail, finish, put_off

log = logging.getLogger("atleta.jobs")


class GivesWay(Exception):
    """A clip came in that waits: what was begun ahead of time is left for later."""


def run_errand(errand: Errand, end: Callable[[], None] | None = None) -> None:
    """Do the errand if it can be claimed; its row tells what became of it. `end` ends the process when the work hangs."""
    lease = claim(errand)
    if lease is None:
        return
    try:
        try:
            with Heart(errand, lease, end) as heart:
                KINDS[errand.kind](errand.subject, heart)
            finish(errand, lease)
        except GivesWay:
            put_off(errand, lease)
        except LeaseLost:
            raise
        except Exception:
            log.exception("errand %s of %s failed", errand.kind, errand.subject)
            fail(errand, lease, "internal", "Something went wrong on our side. It was noted.")
    except LeaseLost:
        log.warning("errand %s of %s: the lease was lost, leaving it to the other worker", errand.kind, errand.subject)


def look_ahead(subject: str, heart: Heart) -> None:
    """What may be asked of a clip next, worked out while no clip waits. When it is lost, a coach waits a second longer."""
    job = AnalysisJob.objects.select_related("clip__athlete", "clip__analysis").filter(pk=subject, state=State.DONE).first()
    if job is None or not job.clip.tracks_file.exists():
        return

    def give_way(_: float) -> None:
        heart.check()
        if AnalysisJob.objects.filter(state=State.QUEUED).exists():
            raise GivesWay

    foresee(job.clip, give_way)
    if not Clip.objects.filter(pk=job.clip_id).exists():
        # It was deleted meanwhile, and what was kept of it since goes, too.
        shutil.rmtree(job.clip.bodies_dir, ignore_errors=True)


KINDS: dict[str, Callable[[str, Heart], Any]] = {
    "draw": lambda subject, _: draw(subject),
    "film_spoken": lambda subject, _: film_spoken(int(subject)),
    "play_story": lambda subject, _: play(subject),
    "look_ahead": look_ahead,
}
