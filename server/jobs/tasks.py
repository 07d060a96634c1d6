"""The task that workers run. It may be started twice for one job; only one of the two will get the lease."""

from __future__ import annotations

from django_tasks import task

from .pipeline import run


@task()
def analyse_clip(job_id: int) -> None:
    run(job_id)
