"""Analyse one clip, stage by stage: follow the disc, measure and publish, then prepare the copy for stepping.

Every stage leaves a whole file or nothing behind and is skipped when its file is there, so starting again repeats no finished work.
"""

from __future__ import annotations

import json
import logging
import time
from collections.abc import Callable

from atleta.analysis import look_at_lifter, track_clip
from atleta.footage import ClipInfo, FootageError, write_proxy
from atleta.tracking import Box
from clips.derived import read_tracks, write_tracks, write_whole
from clips.models import Clip
from reviews.services import make_ready

from .models import AnalysisJob
from .services import LeaseLost, Stage, beat, claim, fail, finish

BEAT_EVERY_S = 0.7
log = logging.getLogger("atleta.jobs")


def run(job_id: int) -> None:
    """Do the job if it can be claimed; every outcome is written on the job's row."""
    lease = claim(job_id)
    if lease is None:
        return
    job = AnalysisJob.objects.select_related("clip__athlete").get(pk=job_id)
    try:
        _stages(job, lease)
        finish(job_id, lease)
    except LeaseLost:
        log.warning("clip %s: the lease was lost, leaving it to the other worker", job.clip_id)
    except FootageError as error:
        fail(job_id, lease, error.code, error.message)
    except Exception:
        log.exception("clip %s: analysis failed", job.clip_id)
        fail(job_id, lease, "internal", "Something went wrong on our side while analysing this clip. It was noted; try again later.")


def _stages(job: AnalysisJob, lease: str) -> None:
    clip = job.clip
    clip.derived_dir.mkdir(parents=True, exist_ok=True)
    box = Box(*clip.lifter_box) if clip.lifter_box else None
    if not clip.tracks_file.exists():
        plain = Clip(sha256=clip.sha256)
        if box is not None and plain.tracks_file.exists():
            raw = look_at_lifter(clip.original, read_tracks(plain), box, _reporter(job.pk, lease, Stage.LOOKING))
        else:
            raw = track_clip(clip.original, ClipInfo(**clip.info), _reporter(job.pk, lease, Stage.TRACKING), box)
        write_tracks(clip, raw)
    beat(job.pk, lease, Stage.MEASURING, 0.0)
    make_ready(clip)
    if not clip.proxy_times_file.exists():
        report, total = _reporter(job.pk, lease, Stage.PREPARING), max(clip.info["packet_count"], 1)
        times = write_proxy(clip.original, clip.proxy_file, lambda count: report(count / total))
        write_whole(clip.proxy_times_file, json.dumps([round(t, 6) for t in times]).encode())


def _reporter(job_id: int, lease: str, stage: str) -> Callable[[float], None]:
    last = 0.0

    def report(share: float) -> None:
        nonlocal last
        if time.monotonic() - last >= BEAT_EVERY_S:
            last = time.monotonic()
            beat(job_id, lease, stage, min(share, 1.0))

    report(0.0)
    return report
