"""The tasks that workers run."""

from __future__ import annotations

import shutil

from django_tasks import task

from clips.models import Clip
from reviews.services import foresee

from .models import AnalysisJob
from .pipeline import run


@task()
def analyse_clip(job_id: int) -> None:
    """It may be started twice for one job; only one of the two will get the lease."""
    run(job_id)


@task(priority=-50)
def look_ahead(job_id: int) -> None:
    """What may be asked of a clip next, worked out while no clip waits. When it is lost, a coach waits a second longer."""
    job = AnalysisJob.objects.select_related("clip__athlete", "clip__analysis").filter(pk=job_id, state=AnalysisJob.State.DONE).first()
    if job and job.clip.tracks_file.exists():
        foresee(job.clip)
        if not Clip.objects.filter(pk=job.clip_id).exists():
            # It was deleted meanwhile, and what was kept of it since goes, too.
            shutil.rmtree(job.clip.bodies_dir, ignore_errors=True)
