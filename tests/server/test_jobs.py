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
from threading import Event
from typing import Any

import pytest
from django.utils import timezone
from rest_framework.test import APIClient

from clips.services import receive_clip
from jobs import services
from jobs.errands import KINDS, run_errand
from jobs.heart import Heart
from jobs.models import AnalysisJob, Errand
from jobs.pipeline import run
from jobs.services import (
    LeaseLost,
    Stage,
    State,
    beat,
    claim,
    fail,
    finish,
    next_waiting,
    renew,
    request_analysis,
    request_errand,
    stop,
    sweep,
)
from people.models import Athlete
from reviews.models import Analysis

from .conftest import CLIP

SERVER = Path(__file__).parents[2] / "server"


@pytest.fixture
def job(athlete: Athlete) -> AnalysisJob:
    return receive_clip(CLIP, CLIP.name, athlete, lift="snatch", load=76.0).job


def test_only_one_worker_gets_a_job(job: AnalysisJob) -> None:
    assert claim(job)
    assert claim(job) is None
    job.refresh_from_db()
    assert (job.state, job.attempts) == (State.RUNNING, 1)


def test_a_job_goes_from_stage_to_stage_and_ends(job: AnalysisJob) -> None:
    lease = claim(job)
    assert lease
    beat(job, lease, stage=Stage.TRACKING, progress=0.4)
    job.refresh_from_db()
    assert (job.stage, job.progress) == ("tracking", 0.4)
    finish(job, lease)
    job.refresh_from_db()
    assert (job.state, job.stage, job.lease) == ("done", "ready", "")
    ahead = next_waiting()
    assert isinstance(ahead, Errand)
    assert (ahead.kind, ahead.subject) == ("look_ahead", str(job.pk))
    request_analysis(job.clip)
    assert next_waiting() == job


def test_a_stopped_job_is_dropped_by_its_worker_and_can_be_tried_again(job: AnalysisJob) -> None:
    lease = claim(job)
    assert lease
    stop(job)
    with pytest.raises(LeaseLost):
        beat(job, lease, stage=Stage.TRACKING, progress=0.5)
    job.refresh_from_db()
    assert (job.state, job.error_code) == (State.FAILED, "stopped")
    request_analysis(job.clip)
    assert claim(job)
    finish(job, AnalysisJob.objects.get(pk=job.pk).lease)
    stop(job)
    job.refresh_from_db()
    assert job.state == State.DONE


def test_a_worker_that_was_given_up_on_can_write_nothing(job: AnalysisJob) -> None:
    old = claim(job)
    assert old
    AnalysisJob.objects.update(heartbeat_at=timezone.now() - timedelta(seconds=60))
    assert sweep() == 1
    new = claim(job)
    assert new not in (None, old)
    for write in (lambda: beat(job, old), lambda: finish(job, old), lambda: fail(job, old, "x", "y")):
        with pytest.raises(LeaseLost):
            write()
    job.refresh_from_db()
    assert (job.state, job.lease, job.attempts) == ("running", new, 2)


def test_the_sweeper_leaves_living_workers_alone(job: AnalysisJob) -> None:
    claim(job)
    assert sweep() == 0


def test_what_lives_but_takes_far_too_long_is_taken_back(job: AnalysisJob) -> None:
    lease = claim(job)
    assert lease
    AnalysisJob.objects.update(started_at=timezone.now() - timedelta(seconds=job.limit_s + 1))
    beat(job, lease)
    assert sweep() == 1
    with pytest.raises(LeaseLost):
        beat(job, lease)


def test_errands_are_asked_for_once_taken_back_like_clips_and_gone_when_done(job: AnalysisJob, monkeypatch: pytest.MonkeyPatch) -> None:
    done: list[str] = []
    monkeypatch.setitem(KINDS, "film_spoken", lambda subject, _: done.append(subject))
    request_errand("film_spoken", 7, services.FIRST)
    errand = request_errand("film_spoken", 7, services.FIRST)
    assert next_waiting() == errand
    assert claim(errand)
    Errand.objects.update(heartbeat_at=timezone.now() - timedelta(seconds=60))
    assert sweep() == 1
    run_errand(errand)
    assert (done, Errand.objects.count(), next_waiting()) == (["7"], 0, job)


def test_an_errand_that_fails_says_so_and_goes_after_a_week(monkeypatch: pytest.MonkeyPatch, db: None) -> None:
    def breaks(*_: object) -> None:
        raise RuntimeError

    monkeypatch.setitem(KINDS, "film_spoken", breaks)
    run_errand(request_errand("film_spoken", 7))
    assert Errand.objects.get().state == State.FAILED
    sweep()
    assert Errand.objects.count() == 1
    Errand.objects.update(finished_at=timezone.now() - timedelta(days=8))
    sweep()
    assert Errand.objects.count() == 0


def test_what_is_worked_out_ahead_gives_way_to_a_clip_that_waits(job: AnalysisJob, monkeypatch: pytest.MonkeyPatch) -> None:
    lease = claim(job)
    assert lease
    finish(job, lease)
    job.clip.derived_dir.mkdir(parents=True, exist_ok=True)
    job.clip.tracks_file.write_bytes(b"whatever")
    began: list[float] = []

    def foreseen(_: Any, far: Any) -> None:
        far(0.1)
        began.append(0.1)
        request_analysis(job.clip)
        AnalysisJob.objects.update(state=State.QUEUED)
        far(0.2)
        began.append(0.2)

    monkeypatch.setattr("jobs.errands.foresee", foreseen)
    run_errand(Errand.objects.get())
    ahead = Errand.objects.get()
    assert (began, ahead.state, ahead.attempts) == ([0.1], State.QUEUED, 0)
    assert next_waiting() == job


@pytest.mark.django_db(transaction=True)
def test_work_that_reports_nothing_keeps_its_lease_and_hung_work_is_ended(coach: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("jobs.heart.BEAT_EVERY_S", 0.05)
    monkeypatch.setattr("jobs.heart.GRACE_S", 0.1)
    errand, ended = request_errand("film_spoken", 7), Event()
    lease = claim(errand)
    assert lease
    long_ago = timezone.now() - timedelta(seconds=services.LEASE_S - 1)
    Errand.objects.update(heartbeat_at=long_ago)
    with Heart(errand, lease, ended.set) as heart:
        deadline = time.monotonic() + 10
        while Errand.objects.get().heartbeat_at == long_ago:
            assert time.monotonic() < deadline
            time.sleep(0.02)
        assert sweep() == 0
        Errand.objects.update(lease="another")
        assert ended.wait(10)
        with pytest.raises(LeaseLost):
            heart.check()


def test_a_clip_that_kills_every_worker_is_given_up_with_a_sentence(job: AnalysisJob) -> None:
    for _ in range(services.MAX_ATTEMPTS):
        assert claim(job)
        AnalysisJob.objects.update(heartbeat_at=timezone.now() - timedelta(seconds=60))
        sweep()
    job.refresh_from_db()
    assert (job.state, job.error_code) == ("failed", "gave_up")
    assert "Trim the clip" in job.error_message


def test_a_clip_measured_by_an_earlier_version_is_looked_at_again(job: AnalysisJob, api: APIClient) -> None:
    lease = claim(job)
    assert lease
    finish(job, lease)
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
    claim(job)
    run(job.pk)
    job.refresh_from_db()
    assert (job.state, job.attempts) == ("running", 1)


def test_a_job_is_taken_and_counted_in_one_statement(job: AnalysisJob, django_assert_num_queries: Any) -> None:
    """A worker killed between two would leave a job that was begun and not counted."""
    with django_assert_num_queries(1):
        claim(job)
    job.refresh_from_db()
    assert (job.state, job.attempts) == ("running", 1)


def manage(var: Path, *words: str, **more: object) -> subprocess.Popen[str]:
    return subprocess.Popen(
        [sys.executable, "manage.py", *words], cwd=SERVER, env={**os.environ, "ATLETA_VAR": str(var)}, text=True,
        stdout=subprocess.PIPE, stderr=subprocess.STDOUT, start_new_session=True, **more,  # type: ignore[call-overload]
    )  # fmt: skip


SET_UP = """
from django.contrib.auth.models import User
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
    deadline = time.monotonic() + 180
    while looked_up(tmp_path)[1] != killed_in:
        assert time.monotonic() < deadline, looked_up(tmp_path)
        time.sleep(0.05)
    for worker in Path(f"/proc/{first.pid}/task/{first.pid}/children").read_text().split():
        os.killpg(int(worker), signal.SIGKILL)
    os.killpg(first.pid, signal.SIGKILL)
    assert looked_up(tmp_path)[0] == "running"

    second = manage(tmp_path, "work")
    try:
        deadline = time.monotonic() + 240
        while (now := looked_up(tmp_path))[0] != "done":
            assert time.monotonic() < deadline, now
            time.sleep(0.2)
    finally:
        os.killpg(second.pid, signal.SIGTERM)
        second.wait(20)
    assert now[1:] == ("ready", 2, 1)
    assert len(list((tmp_path / "media").rglob("proxy-*.json"))) == 1
