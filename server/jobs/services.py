"""Ask for work, take it up, keep it alive, finish it, and take it back from a process that died.

queued ──claim──▶ running ──finish──▶ done
  ▲                  │ └────fail────▶ failed ◀──stop── (the coach's word, at any time before done)
  └──sweep (no heartbeat for LEASE_S, or longer under way than it may take)
"""

from __future__ import annotations

import logging
import secrets
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.db.models import F, QuerySet
from django.utils import timezone

from clips.models import Clip

from .models import AnalysisJob, Errand, Leased

LEASE_S = 15
MAX_ATTEMPTS = 4
# Errands that failed are kept so long, for whoever looks for the reason.
FAILED_KEPT = timedelta(days=7)
FIRST, LAST = 10, -50
log = logging.getLogger("atleta.jobs")

State, Stage = Leased.State, AnalysisJob.Stage
ANEW = {
    "state": State.QUEUED, "attempts": 0, "lease": "", "started_at": None, "heartbeat_at": None, "finished_at": None, "error_code": "",
    "error_message": "",
}  # fmt: skip


class LeaseLost(Exception):
    """Somebody else has been given this work; stop and write nothing."""


def request_analysis(clip: Clip) -> AnalysisJob:
    """Queue a clip's analysis, or queue it again from the start. Call inside a transaction with what made it necessary."""
    anew = ANEW | {"stage": Stage.WAITING, "progress": 0.0, "queued_at": timezone.now()}
    return AnalysisJob.objects.update_or_create(clip=clip, defaults=anew)[0]


def request_errand(kind: str, subject: object, priority: int = 0) -> Errand:
    """Queue an errand, once however often it is asked for. Call inside a transaction with what made it necessary."""
    anew = ANEW | {"priority": priority, "queued_at": timezone.now()}
    return Errand.objects.update_or_create(kind=kind, subject=str(subject), defaults=anew)[0]


def next_waiting() -> Leased | None:
    """What is to be done next: urgent errands, then clips in the order they came in, then other errands."""
    errands = Errand.objects.filter(state=State.QUEUED).order_by("-priority", "queued_at", "pk")
    clips = AnalysisJob.objects.filter(state=State.QUEUED).order_by("queued_at", "pk")
    return errands.filter(priority__gt=0).first() or clips.first() or errands.first()


def claim(work: Leased) -> str | None:
    """Take up queued work: the lease to hold, or None when it is not to be had (taken, finished, or gone)."""
    lease, now = secrets.token_hex(16), timezone.now()
    begun: dict[str, Any] = {"stage": Stage.TRACKING, "progress": 0.0} if isinstance(work, AnalysisJob) else {}
    # Taken and counted in one statement: a worker may be killed between any two, and what kills each must come to an end.
    taken = _rows(work).filter(state=State.QUEUED).update(
        state=State.RUNNING, lease=lease, started_at=now, heartbeat_at=now, attempts=F("attempts") + 1, **begun
    )  # fmt: skip
    return lease if taken else None


def beat(work: Leased, lease: str, **how_far: object) -> None:
    """Say that the work lives, and of an analysis how far it is (`stage`, `progress`).

    Raises:
        LeaseLost: it was given to another worker.
    """
    _held(work, lease, heartbeat_at=timezone.now(), **how_far)


def finish(work: Leased, lease: str) -> None:
    """The work is done. Raises LeaseLost as `beat` does."""
    now = timezone.now()
    if isinstance(work, Errand):
        if not _rows(work).filter(lease=lease, state=State.RUNNING).delete()[0]:
            raise LeaseLost(f"{work}")
        return
    with transaction.atomic():
        _held(work, lease, state=State.DONE, stage=Stage.READY, progress=1.0, lease="", heartbeat_at=now, finished_at=now)
        request_errand("look_ahead", work.pk, LAST)


def fail(work: Leased, lease: str, code: str, message: str) -> None:
    """The work cannot be done; the message is for the coach. Raises LeaseLost as `beat` does."""
    _held(work, lease, state=State.FAILED, lease="", error_code=code, error_message=message, finished_at=timezone.now())


def put_off(work: Leased, lease: str) -> None:
    """What was begun gives way and is done later; that is no attempt. Raises LeaseLost as `beat` does."""
    _held(work, lease, state=State.QUEUED, lease="", heartbeat_at=None, attempts=F("attempts") - 1, queued_at=timezone.now())


def stop(job: AnalysisJob) -> None:
    """The coach does not want this analysis after all: a waiting job is not begun, a running one ends at its next heartbeat."""
    AnalysisJob.objects.filter(pk=job.pk, state__in=[State.QUEUED, State.RUNNING]).update(
        state=State.FAILED, lease="", finished_at=timezone.now(), error_code="stopped",
        error_message="You stopped this analysis. What was done of it is kept; try again to go on.",
    )  # fmt: skip


def sweep() -> int:
    """Take work back from processes that died or hang; returns how much of it."""
    now = timezone.now()
    Errand.objects.filter(state=State.FAILED, finished_at__lt=now - FAILED_KEPT).delete()
    return sum(_taken_back(row) for row in under_way() if _lost(row))


def under_way() -> list[Leased]:
    """All work that somebody holds."""
    return [*AnalysisJob.objects.filter(state=State.RUNNING).select_related("clip"), *Errand.objects.filter(state=State.RUNNING)]


def _lost(work: Leased) -> bool:
    now = timezone.now()
    silent = work.heartbeat_at is None or work.heartbeat_at < now - timedelta(seconds=LEASE_S)
    return silent or (work.started_at is not None and work.started_at < now - timedelta(seconds=work.limit_s))


def _taken_back(work: Leased) -> bool:
    """Each row is changed only if it is still as it was read, so that two sweepers, or a sweeper and a worker that is merely slow, never
    both win."""
    same = _rows(work).filter(state=State.RUNNING, lease=work.lease)
    if work.heartbeat_at is None or work.heartbeat_at < timezone.now() - timedelta(seconds=LEASE_S):
        same = same.filter(heartbeat_at=work.heartbeat_at)
    if work.attempts >= MAX_ATTEMPTS:
        same.update(
            state=State.FAILED, lease="", finished_at=timezone.now(), error_code="gave_up",
            error_message=f"The analysis stopped {MAX_ATTEMPTS} times without an answer. Trim the clip to the lift and send it again.",
        )  # fmt: skip
        return False
    begun_again: dict[str, Any] = {"stage": Stage.WAITING, "progress": 0.0} if isinstance(work, AnalysisJob) else {}
    taken = same.update(state=State.QUEUED, lease="", queued_at=timezone.now(), heartbeat_at=None, **begun_again)
    if taken:
        log.info("%s %s: its worker is gone, queued again (attempt %d)", type(work).__name__, work.pk, work.attempts + 1)
    return bool(taken)


def renew() -> int:
    """Have clips looked at again whose tracks were made by an earlier version; returns how many."""
    stale = [job.clip for job in AnalysisJob.objects.filter(state=State.DONE).select_related("clip") if not job.clip.tracks_file.exists()]
    for clip in stale:
        request_analysis(clip)
    return len(stale)


def _rows(work: Leased) -> QuerySet[Any]:
    return type(work)._default_manager.filter(pk=work.pk)


def _held(work: Leased, held: str, /, **changes: object) -> None:
    if not _rows(work).filter(lease=held, state=State.RUNNING).update(**changes):
        raise LeaseLost(f"{type(work).__name__} {work.pk}")
