"""Analyse one clip, stage by stage: follow the disc, measure and publish, then prepare the copy for stepping.

Every stage leaves a whole file or nothing behind and is skipped when its file is there, so starting again repeats no finished work.
"""

from __future__ import annotations

import json
import logging
from collections.abc import Callable

from atleta.analysis import look_at_lifter, track_clip
from atleta.footage import ClipInfo, FootageError, write_proxy
from atleta.tracking import Box
from clips.derived import read_tracks, write_tracks, write_whole
from clips.models import Clip
from reviews.services import make_ready

from .heart import Heart
from .models import AnalysisJob
from .services import LeaseLost, Stage, claim, fail, finish

OURS = "Something went wrong on our side while analysing this clip. It was noted; try again later."
TOO_LARGE = "This clip needs more memory than there is for one. Trim it to the lift, or film at 1080 lines or fewer, and send it again."
log = logging.getLogger("atleta.jobs")


def run(job_id: int, end: Callable[[], None] | None = None) -> None:
    """Do the job if it can be claimed; every outcome is written on the job's row. `end` ends the process when the work hangs."""
    job = AnalysisJob.objects.select_related("clip__athlete").filter(pk=job_id).first()
    lease = claim(job) if job else None
    if job is None or lease is None:
        return
    try:
        try:
            with Heart(job, lease, end) as heart:
                _stages(job, heart)
            finish(job, lease)
        except FootageError as error:
            fail(job, lease, error.code, error.message)
        except MemoryError:
            fail(job, lease, "memory", TOO_LARGE)
        except LeaseLost:
            raise
        except Exception:
            log.exception("clip %s: analysis failed", job.clip_id)
            fail(job, lease, "internal", OURS)
    except LeaseLost:
        log.warning("clip %s: the lease was lost, leaving it to the other worker", job.clip_id)


def _stages(job: AnalysisJob, heart: Heart) -> None:
    clip = job.clip
    clip.derived_dir.mkdir(parents=True, exist_ok=True)
    box = Box(*clip.lifter_box) if clip.lifter_box else None
    if not clip.tracks_file.exists():
        plain = Clip(sha256=clip.sha256)
        if box is not None and plain.tracks_file.exists():
            raw = look_at_lifter(clip.original, read_tracks(plain.tracks_file), box, heart.stage(Stage.LOOKING))
        else:
            raw = track_clip(clip.original, ClipInfo(**clip.info), heart.stage(Stage.TRACKING), box)
        write_tracks(clip.tracks_file, raw)
    make_ready(clip, heart.stage(Stage.MEASURING))
    if not clip.proxy_times_file.exists():
        report, total = heart.stage(Stage.PREPARING), max(clip.info["packet_count"], 1)
        times = write_proxy(clip.original, clip.proxy_file, lambda count: report(count / total))
        write_whole(clip.proxy_times_file, json.dumps([round(t, 6) for t in times]).encode())
