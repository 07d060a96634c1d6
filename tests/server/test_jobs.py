from __future__ import annotations

import os
import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from django.utils import timezone
from django_tasks import default_task_backend
from rest_framework.test import APIClient

from clips.services import receive_clip
from jobs import services
from jobs.models import AnalysisJob
from jobs.pipeline import run
from jobs.services import LeaseLost, Stage, State, beat, claim, fail, finish, renew, request_analysis, stop, sweep
from jobs.tasks import analyse_clip
from people.models import Athlete
from reviews.models import Analysis

from .conftest import CLIP

SERVER = Path(__file__).parents[2] / "server"


@pytest.fixture
def enqueued(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    calls: list[int] = []
    monkeypatch.setattr(services, "_enqueue", calls.append)
    monkeypatch.setattr(services, "_tasks_waiting", lambda: False)
    return calls


@pytest.fixture
def job(athlete: Athlete) -> AnalysisJob:
    return receive_clip(CLIP, CLIP.name, athlete, lift="snatch", load=76.0).job


def test_only_one_worker_gets_a_job(job: AnalysisJob) -> None:
    assert claim(job.pk)
    assert claim(job.pk) is None
    job.refresh_from_db()
    assert (job.state, job.attempts) == (State.RUNNING, 1)


def test_a_job_goes_from_stage_to_stage_and_ends(job: AnalysisJob) -> None:
    lease = claim(job.pk)
    assert lease
    beat(job.pk, lease, Stage.TRACKING, 0.4)
    job.refresh_from_db()
    assert (job.stage, job.progress) == ("tracking", 0.4)
    default_task_backend.clear()
    finish(job.pk, lease)
    job.refresh_from_db()
    assert (job.state, job.stage, job.lease) == ("done", "ready", "")
    (ahead,) = default_task_backend.results
    assert ahead.args == [job.pk]
    assert ahead.task.priority < analyse_clip.priority


def test_a_stopped_job_is_dropped_by_its_worker_and_can_be_tried_again(job: AnalysisJob, enqueued: list[int]) -> None:
    lease = claim(job.pk)
    assert lease
    stop(job)
    with pytest.raises(LeaseLost):
        beat(job.pk, lease, Stage.TRACKING, 0.5)
    job.refresh_from_db()
    assert (job.state, job.error_code) == (State.FAILED, "stopped")
    request_analysis(job.clip)
    assert claim(job.pk)
    finish(job.pk, AnalysisJob.objects.get(pk=job.pk).lease)
    stop(job)
    job.refresh_from_db()
    assert job.state == State.DONE


def test_a_worker_that_was_given_up_on_can_write_nothing(job: AnalysisJob, enqueued: list[int]) -> None:
    old = claim(job.pk)
    assert old
    AnalysisJob.objects.update(heartbeat_at=timezone.now() - timedelta(seconds=60))
    assert sweep() == 1
    new = claim(job.pk)
    assert new not in (None, old)
    for write in (lambda: beat(job.pk, old, Stage.TRACKING, 0.9), lambda: finish(job.pk, old), lambda: fail(job.pk, old, "x", "y")):
        with pytest.raises(LeaseLost):
            write()
    job.refresh_from_db()
    assert (job.state, job.lease, job.attempts) == ("running", new, 2)


def test_the_sweeper_leaves_living_workers_alone(job: AnalysisJob, enqueued: list[int]) -> None:
    claim(job.pk)
    assert sweep() == 0
    assert enqueued == []


def test_a_queued_job_whose_task_was_lost_is_put_in_the_queue_again(job: AnalysisJob, enqueued: list[int]) -> None:
    assert sweep() == 0
    AnalysisJob.objects.update(queued_at=timezone.now() - timedelta(seconds=60))
    assert sweep() == 1
    assert enqueued == [job.pk]
    assert sweep() == 0


def test_a_clip_that_kills_every_worker_is_given_up_with_a_sentence(job: AnalysisJob, enqueued: list[int]) -> None:
    for _ in range(services.MAX_ATTEMPTS):
        assert claim(job.pk)
        AnalysisJob.objects.update(heartbeat_at=timezone.now() - timedelta(seconds=60))
        sweep()
    job.refresh_from_db()
    assert (job.state, job.error_code) == ("failed", "gave_up")
    assert "Trim the clip" in job.error_message


def test_a_clip_measured_by_an_earlier_version_is_looked_at_again(job: AnalysisJob, enqueued: list[int], api: APIClient) -> None:
    lease = claim(job.pk)
    assert lease
    finish(job.pk, lease)
    Analysis.objects.create(clip=job.clip, document={"lifts": [], "clip": {"frame_count": 9}})
    # Until then the coach's word is kept, and the analysis stands as it was.
    assert (
        api.put(f"/api/clips/{job.clip.pk}/verdicts/0/bar_looped", {"fault": "bar_looped", "decision": "added"}, format="json").status_code
        == 200
    )
    job.refresh_from_db()
    assert job.state == State.QUEUED
    AnalysisJob.objects.update(state=State.DONE)
    assert renew() == 1
    job.refresh_from_db()
    assert job.state == State.QUEUED
    job.clip.derived_dir.mkdir(parents=True, exist_ok=True)
    job.clip.tracks_file.write_bytes(b"whatever")
    AnalysisJob.objects.update(state=State.DONE)
    assert renew() == 0


def test_a_file_that_breaks_in_the_middle_fails_with_its_own_sentence(job: AnalysisJob) -> None:
    original = job.clip.original
    original.chmod(0o644)
    original.write_bytes(b"nothing left of it")
    run(job.pk)
    job.refresh_from_db()
    assert (job.state, job.error_code) == ("failed", "not_a_video")
    assert job.error_message.endswith(".")


def test_a_second_start_of_the_same_task_does_nothing(job: AnalysisJob) -> None:
    claim(job.pk)
    run(job.pk)
    job.refresh_from_db()
    assert (job.state, job.attempts) == ("running", 1)


def test_a_job_is_taken_and_counted_in_one_statement(job: AnalysisJob, django_assert_num_queries: Any) -> None:
    """A worker killed between two would leave a job that was begun and not counted."""
    with django_assert_num_queries(1):
        claim(job.pk)
    job.refresh_from_db()
    assert (job.state, job.attempts) == ("running", 1)


def manage(var: Path, *words: str, **more: object) -> subprocess.Popen[str]:
    return subprocess.Popen(
        [sys.executable, "manage.py", *words], cwd=SERVER, env={**os.environ, "ATLETA_VAR": str(var)}, text=True,
        stdout=subprocess.PIPE, stderr=subprocess.STDOUT, start_new_session=True, **more,  # type: ignore[call-overload]
    )  # fmt: skip


SET_UP = """
from django.contrib.auth.models import User
from jobs.tasks import analyse_clip
from people.models import Athlete
from clips.services import receive_clip
from pathlib import Path
a = Athlete.objects.create(coach=User.objects.create_user("c"), name="A", stature_m=1.6)
receive_clip(Path({clip!r}), "clip.mp4", a, lift="snatch")
"""


def looked_up(var: Path) -> tuple[str, str, int, int]:
    """State and stage of the only job, how often it was taken up, and how many analyses there are."""
    with closing(sqlite3.connect(f"file:{var / 'atleta.sqlite3'}?mode=ro", uri=True, timeout=30)) as database:
        (job,) = database.execute("SELECT state, stage, attempts FROM jobs_analysisjob").fetchall()
        ((analyses,),) = database.execute("SELECT COUNT(*) FROM reviews_analysis").fetchall()
    return (*job, analyses)


@pytest.mark.parametrize("killed_in", ["tracking", "preparing"])
def test_a_killed_workers_job_is_taken_up_again_and_nothing_is_doubled(tmp_path: Path, killed_in: str) -> None:
    """Real processes: a worker is killed with SIGKILL in the middle of its work, its supervisor with it; new ones finish the job."""
    assert manage(tmp_path, "migrate", "--verbosity", "0").wait(60) == 0
    assert manage(tmp_path, "shell", "-c", SET_UP.format(clip=str(CLIP))).wait(60) == 0

    first = manage(tmp_path, "work")
    deadline = time.monotonic() + 60
    while looked_up(tmp_path)[1] != killed_in:
        assert time.monotonic() < deadline, looked_up(tmp_path)
        time.sleep(0.05)
    os.killpg(first.pid, signal.SIGKILL)
    assert looked_up(tmp_path)[0] == "running"

    second = manage(tmp_path, "work")
    try:
        deadline = time.monotonic() + 120
        while (now := looked_up(tmp_path))[0] != "done":
            assert time.monotonic() < deadline, now
            time.sleep(0.2)
    finally:
        os.killpg(second.pid, signal.SIGTERM)
        second.wait(20)
    assert now[1:] == ("ready", 2, 1)
    assert len(list((tmp_path / "media").rglob("proxy-*.json"))) == 1
