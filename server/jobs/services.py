"""Ask for an analysis, take it up, keep it alive, finish it, and take it back from a worker that died.

queued ──claim──▶ running ──finish──▶ done
  ▲                  │ └────fail────▶ failed ◀──stop── (the coach's word, at any time before done)
  └──sweep (no heartbeat for LEASE_S)
"""

from __future__ import annotations

import logging
import secrets
from datetime import timedelta

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from clips.models import Clip

from .models import AnalysisJob

LEASE_S = 15
LOST_TASK_S = 30
MAX_ATTEMPTS = 4
log = logging.getLogger("atleta.jobs")

State, Stage = AnalysisJob.State, AnalysisJob.Stage


class LeaseLost(Exception):
    """Somebody else has been given this job; stop and write nothing."""


def request_analysis(clip: Clip) -> AnalysisJob:
    """Queue a clip's analysis, or queue it again from the start. Call inside a transaction with what made it necessary."""
    job, _ = AnalysisJob.objects.update_or_create(
        clip=clip,
        defaults={
            "state": State.QUEUED, "stage": Stage.WAITING, "progress": 0.0, "attempts": 0, "lease": "", "queued_at": timezone.now(),
            "heartbeat_at": None, "finished_at": None, "error_code": "", "error_message": "",
        },
    )  # fmt: skip
    transaction.on_commit(lambda: _enqueue(job.pk))
    return job


def claim(job_id: int) -> str | None:
    """Take up a queued job: the lease to hold, or None when it is not to be had (taken, finished, or gone)."""
    lease = secrets.token_hex(16)
    # Taken and counted in one statement: a worker may be killed between any two, and a clip that kills each must come to an end.
    taken = AnalysisJob.objects.filter(pk=job_id, state=State.QUEUED).update(
        state=State.RUNNING, lease=lease, heartbeat_at=timezone.now(), stage=Stage.TRACKING, progress=0.0, attempts=F("attempts") + 1
    )
    return lease if taken else None


def beat(job_id: int, lease: str, stage: str, progress: float) -> None:
    """Say that the job lives and how far it is.

    Raises:
        LeaseLost: the job was given to another worker.
    """
    _held(job_id, lease, stage=stage, progress=progress, heartbeat_at=timezone.now())


def finish(job_id: int, lease: str) -> None:
    """The job is done. Raises LeaseLost as `beat` does."""
    now = timezone.now()
    _held(job_id, lease, state=State.DONE, stage=Stage.READY, progress=1.0, lease="", heartbeat_at=now, finished_at=now)
    from .tasks import look_ahead

    look_ahead.enqueue(job_id)


def fail(job_id: int, lease: str, code: str, message: str) -> None:
    """The job cannot be done; the message is for the coach. Raises LeaseLost as `beat` does."""
    _held(job_id, lease, state=State.FAILED, lease="", error_code=code, error_message=message, finished_at=timezone.now())


def stop(job: AnalysisJob) -> None:
    """The coach does not want this analysis after all: a waiting job is not begun, a running one ends at its next heartbeat."""
    AnalysisJob.objects.filter(pk=job.pk, state__in=[State.QUEUED, State.RUNNING]).update(
        state=State.FAILED, lease="", finished_at=timezone.now(), error_code="stopped",
        error_message="You stopped this analysis. What was done of it is kept; try again to go on.",
    )  # fmt: skip


def sweep() -> int:
    """Take jobs back from dead workers and put forgotten ones in the queue again; returns how many.

    Each row is changed only if it is still as it was read, so that two sweepers, or a sweeper and a worker that is merely slow, never
    both win.
    """
    now = timezone.now()
    recovered = 0
    for job in AnalysisJob.objects.filter(state=State.RUNNING, heartbeat_at__lt=now - timedelta(seconds=LEASE_S)):
        same = AnalysisJob.objects.filter(pk=job.pk, state=State.RUNNING, lease=job.lease, heartbeat_at=job.heartbeat_at)
        if job.attempts >= MAX_ATTEMPTS:
            same.update(
                state=State.FAILED, lease="", finished_at=now, error_code="gave_up",
                error_message=f"The analysis stopped {MAX_ATTEMPTS} times without an answer. Trim the clip to the lift and send it again.",
            )  # fmt: skip
        elif same.update(state=State.QUEUED, stage=Stage.WAITING, progress=0.0, lease="", queued_at=now, heartbeat_at=None):
            log.info("clip %s: its worker is gone, queued again (attempt %d)", job.clip_id, job.attempts + 1)
            _enqueue(job.pk)
            recovered += 1
    if not _tasks_waiting():
        for job in AnalysisJob.objects.filter(state=State.QUEUED, queued_at__lt=now - timedelta(seconds=LOST_TASK_S)):
            if AnalysisJob.objects.filter(pk=job.pk, state=State.QUEUED, queued_at=job.queued_at).update(queued_at=now):
                _enqueue(job.pk)
                recovered += 1
    return recovered


def renew() -> int:
    """Have clips looked at again whose tracks were made by an earlier version; returns how many."""
    stale = [job.clip for job in AnalysisJob.objects.filter(state=State.DONE).select_related("clip") if not job.clip.tracks_file.exists()]
    for clip in stale:
        request_analysis(clip)
    return len(stale)


def _held(job_id: int, held: str, /, **changes: object) -> None:
    if not AnalysisJob.objects.filter(pk=job_id, lease=held, state=State.RUNNING).update(**changes):
        raise LeaseLost(f"job {job_id}")


def _enqueue(job_id: int) -> None:
    from .tasks import analyse_clip

    analyse_clip.enqueue(job_id)


def _tasks_waiting() -> bool:
    from django_tasks_db.models import DBTaskResult

    return DBTaskResult.objects.ready().exists()
