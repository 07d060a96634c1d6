"""Many clips: what they wait for, page by page, and no more questions to the database for many than for few."""

from __future__ import annotations

from datetime import timedelta
from uuid import uuid4

import pytest
from django.contrib.auth.models import User
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from rest_framework.test import APIClient

from clips.models import Clip
from jobs.models import AnalysisJob
from log.services import link_of
from people.models import Athlete
from plans.blocks import begin
from reviews.models import Analysis, HandOver, LiftNumbers

from .conftest import signed_in
from .test_plans import put

DAY = timedelta(days=1)


def came(
    athlete: Athlete, days_ago: float, *, state: str = "done", measured: bool = True, handed: bool = False, lift: str = "snatch"
) -> str:
    """A clip as it stands in the queue: its id."""
    clip = Clip.objects.create(
        athlete=athlete, lift=lift, load=60, file_name="a.mp4", suffix=".mp4", sha256="0" * 64, size_bytes=1, info={}
    )  # fmt: skip
    Clip.objects.filter(pk=clip.pk).update(added_at=timezone.now() - days_ago * DAY)
    AnalysisJob.objects.create(clip=clip, state=state, queued_at=timezone.now())
    if measured:
        Analysis.objects.create(clip=clip, document={"lifts": []})
    if handed:
        HandOver.objects.create(clip=clip, content={}, expires_at=timezone.now() + DAY)
    return str(clip.pk)


@pytest.fixture
def clips(athlete: Athlete) -> dict[str, str]:
    return {
        "today": came(athlete, 0.1), "yesterday": came(athlete, 1), "late": came(athlete, 3), "later": came(athlete, 4),
        "handed": came(athlete, 5, handed=True), "failed": came(athlete, 6, state="failed", measured=False),
        "tracked": came(athlete, 0, state="running", measured=False), "renewed": came(athlete, 0, state="running"),
    }  # fmt: skip


def test_clips_are_told_by_what_they_wait_for_in_turn(api: APIClient, clips: dict[str, str], stranger: User) -> None:
    name = {pk: name for name, pk in clips.items()}
    told = {row["waiting"]: (row["count"], [name[clip["id"]] for clip in row["clips"]]) for row in api.get("/api/clips/queue").json()}
    assert told == {
        "failed": (1, ["failed"]), "overdue": (2, ["later", "late"]), "look": (3, ["renewed", "today", "yesterday"]),
        "working": (1, ["tracked"]), "handed": (1, ["handed"]),
    }  # fmt: skip
    assert sum(row["count"] for row in signed_in(stranger).get("/api/clips/queue").json()) == 0


def test_a_coach_goes_on_from_one_to_the_next_that_waits_and_round_again(api: APIClient, clips: dict[str, str]) -> None:
    def after(one: str) -> str:
        return next(name for name, pk in clips.items() if pk == api.get(f"/api/clips/{clips[one]}/next").json()["clip"])

    turn = ["later", "late", "renewed", "today", "yesterday"]
    assert [after(one) for one in turn] == [*turn[1:], turn[0]]
    # From one that waits for nobody on to what comes after its day.
    assert after("handed") == "later"
    assert after("tracked") == "today"


def test_where_nothing_else_waits_there_is_no_next(api: APIClient, athlete: Athlete) -> None:
    assert api.get(f"/api/clips/{came(athlete, 0)}/next").json() == {"clip": None}


def test_long_lists_come_page_by_page_each_clip_once(api: APIClient, athlete: Athlete) -> None:
    there = {came(athlete, days) for days in range(7)}
    for waiting, order in (("overdue", [6, 5, 4, 3, 2]), ("look", [0, 1])):
        seen, address = [], f"/api/clips?waiting={waiting}&page_size=2"
        while address:
            page = api.get(address).json()
            assert len(page["results"]) <= 2
            seen += [round((timezone.now() - Clip.objects.get(pk=one["id"]).added_at) / DAY) for one in page["results"]]
            address = page["next"]
        assert seen == order
    assert {one["id"] for one in api.get("/api/clips").json()["results"]} == there
    assert len(api.get(f"/api/clips?athlete={athlete.pk}").json()["results"]) == 7
    # Whether somebody else has such an athlete is not told.
    assert api.get("/api/clips?athlete=9999999").json()["results"] == []
    assert api.get("/api/clips?waiting=everything").status_code == 400


def test_beside_a_lift_the_likest_come_first(api: APIClient, coach: User, athlete: Athlete) -> None:
    other = Athlete.objects.create(coach=coach, name="Bo Renn")
    mine, clean, theirs = came(athlete, 0), came(athlete, 1, lift="clean"), came(other, 2)
    model, own, bare = came(other, 3, lift="jerk"), came(athlete, 4), came(athlete, 5, measured=False)
    Clip.objects.filter(pk=model).update(model_name="Calm", model_agreed=True)
    told = [clip["id"] for clip in api.get(f"/api/clips/{mine}/beside").json()]
    assert told == [own, clean, model, theirs]
    assert bare not in told


def test_whatever_is_asked_for_asks_the_database_as_often_for_many_lifts_as_for_few(
    api: APIClient, clip: Clip, athlete: Athlete, coach: User
) -> None:
    put(clip)
    begin(clip, timezone.localdate(), 4, [0, 2, 4])
    addresses = [
        "/api/athletes", f"/api/athletes/{athlete.pk}", f"/api/athletes/{athlete.pk}/log", f"/api/athletes/{athlete.pk}/plan",
        f"/api/athletes/{athlete.pk}/series", "/api/clips", "/api/clips/queue", "/api/clips/progress", f"/api/clips/{clip.pk}",
        f"/api/clips/{clip.pk}/assignments", f"/api/clips/{clip.pk}/bench", f"/api/clips/{clip.pk}/beside", f"/api/clips/{clip.pk}/follows",
        f"/api/clips/{clip.pk}/next", f"/api/clips/{clip.pk}/notes", f"/api/clips/{clip.pk}/offers", f"/api/clips/{clip.pk}/reference/0",
        f"/api/clips/{clip.pk}/review", "/api/library", "/api/morning", f"/api/training/{link_of(athlete).token}",
    ]  # fmt: skip
    api.get(f"/api/clips/{clip.pk}/reference/0")

    def counted() -> dict[str, int]:
        told = {}
        for address in addresses:
            with CaptureQueriesContext(connection) as asked:
                assert api.get(address).status_code == 200, address
            told[address] = len(asked)
        return told

    def more(owner: Athlete, count: int) -> None:
        for place in range(count):
            copy = Clip.objects.get(pk=clip.pk)
            copy.pk, copy._state.adding, copy.load, copy.athlete = uuid4(), True, 40 + place, owner
            copy.save()
            AnalysisJob.objects.create(clip=copy, state="done", stage="ready", queued_at=timezone.now())
            Analysis.objects.create(clip=copy, document=clip.analysis.document, judged_by=clip.analysis.judged_by)
            LiftNumbers.objects.create(clip=copy, place=0, kind="snatch", made=True, numbers=clip.numbers.get().numbers)

    # Once there are enough lifts to tell what is usual, a few more questions are asked.
    more(athlete, 10)
    few = counted()
    more(athlete, 30)
    for place in range(5):
        more(Athlete.objects.create(coach=coach, name=f"Lifter {place}"), 3)
    assert counted() == few
