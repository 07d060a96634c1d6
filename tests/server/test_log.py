"""The log: entered once however often it is sent, seen by nobody else, and what hurts gates the work at once."""

from __future__ import annotations

import uuid
from datetime import timedelta

import pytest
from django.contrib.auth.models import User
from django.utils import timezone
from rest_framework.test import APIClient

from clips.models import Clip
from log import services
from log.models import Done
from people.models import Athlete
from plans import blocks
from plans.services import assign

from .conftest import CLIP, signed_in

TODAY = timezone.localdate()
SETS = [
    {"load": 48.0, "unit": "kg", "reps": 3, "missed": 0, "rpe": 7.0, "hook": None},
    {"load": 50.0, "unit": "kg", "reps": 2, "missed": 1, "rpe": 8.5, "hook": True},
]


@pytest.fixture
def token(athlete: Athlete) -> str:
    return services.link_of(athlete).token


@pytest.fixture
def phone() -> APIClient:
    return APIClient()


def done(**more: object) -> dict:
    return {"key": str(uuid.uuid4()), "on": TODAY.isoformat(), "exercise": "pull_pause_knee", "lift": "snatch", "sets": SETS} | more


def sent(phone: APIClient, token: str, **rows: list) -> dict:
    answer = phone.post(f"/api/training/{token}", rows, format="json")
    assert answer.status_code == 200, answer.data
    return dict(answer.data)


# -- entering ---------------------------------------------------------------------------------------------------------------


def test_what_is_sent_twice_is_kept_once_and_the_later_word_stands(phone: APIClient, athlete: Athlete, token: str) -> None:
    row = done()
    sent(phone, token, done=[row])
    told = sent(phone, token, done=[{**row, "note": "Felt heavy."}, done()])
    assert athlete.done.count() == 2
    assert Done.objects.get(key=row["key"]).note == "Felt heavy."
    assert {entry["name"] for entry in told["done"]} == {"Snatch pull with a 3 s pause at the knee"}


def test_one_wrong_row_keeps_the_others_out_until_it_is_mended(phone: APIClient, athlete: Athlete, token: str) -> None:
    answer = phone.post(f"/api/training/{token}", {"done": [done(), done(sets=[{"load": -5, "reps": 3}])]}, format="json")
    assert answer.status_code == 400
    assert athlete.done.count() == 0
    ahead = phone.post(f"/api/training/{token}", {"done": [done(on=(TODAY + timedelta(days=9)).isoformat())]}, format="json")
    assert "lies ahead" in ahead.data["detail"]


def test_an_entry_outlives_the_plan_it_was_for(phone: APIClient, athlete: Athlete, token: str) -> None:
    sent(phone, token, done=[done(slot=4711)])
    assert "no longer on the plan" in athlete.done.get().note


@pytest.mark.parametrize(("site", "bruised"), [("thigh", True), ("pubic bone", True), ("knee", False)])
def test_a_bruise_gates_contact_only_where_the_bar_meets_the_body(
    phone: APIClient, athlete: Athlete, token: str, site: str, bruised: bool
) -> None:
    report = {"key": str(uuid.uuid4()), "kind": "bruise", "site": site, "degree": 3, "since": TODAY.isoformat()}
    sent(phone, token, reports=[report])
    athlete.refresh_from_db()
    assert athlete.contact_bruise == bruised
    told = sent(phone, token, reports=[{**report, "until": TODAY.isoformat()}])
    athlete.refresh_from_db()
    assert not athlete.contact_bruise
    assert told["reports"] == []


def test_pain_of_four_stops_the_work_on_the_phone_and_for_the_coach(phone: APIClient, api: APIClient, clip: Clip, token: str) -> None:
    assign(clip, "pull_pause_knee", sets=4, reps=3, percent=60, per_week=1, weeks=4)
    pain = {"key": str(uuid.uuid4()), "kind": "pain", "site": "low back", "degree": 5, "since": TODAY.isoformat()}
    assert "clinician" in sent(phone, token, reports=[pain])["stop"]
    assert api.get(f"/api/clips/{clip.pk}/offers").data["offers"] == []
    assert [row["says"] for row in api.get("/api/morning").data["reported"]] == [[f"pain 5/10, low back, since {TODAY:%d %B}"]]
    milder = sent(phone, token, reports=[{**pain, "degree": 2}])
    assert milder["stop"] == ""


def test_what_the_coach_set_by_hand_outlives_what_an_athlete_reports(phone: APIClient, athlete: Athlete, token: str) -> None:
    Athlete.objects.filter(pk=athlete.pk).update(pain=6, contact_bruise=True)
    mild = {"key": str(uuid.uuid4()), "kind": "pain", "site": "knee", "degree": 2, "since": TODAY.isoformat()}
    assert sent(phone, token, reports=[mild])["stop"]
    sent(phone, token, reports=[{**mild, "until": TODAY.isoformat()}])
    athlete.refresh_from_db()
    assert (athlete.pain, athlete.contact_bruise) == (6, True)


def test_an_answer_waits_for_the_coach_until_it_is_read(phone: APIClient, api: APIClient, athlete: Athlete, token: str) -> None:
    sent(phone, token, said=[{"key": str(uuid.uuid4()), "words": "The pause felt short."}])
    assert api.get("/api/morning").data["said"][0]["says"] == ["The pause felt short."]
    row = api.get(f"/api/athletes/{athlete.pk}/log").data["said"][0]
    api.post(f"/api/athletes/{athlete.pk}/said/{row['id']}/read")
    assert api.get("/api/morning").data["said"] == []


# -- the page behind the link -----------------------------------------------------------------------------------------------


def test_today_shows_the_load_and_its_discs(phone: APIClient, api: APIClient, clip: Clip, token: str) -> None:
    assign(clip, "pull_pause_knee", sets=4, reps=3, percent=60, per_week=1, weeks=4)
    blocks.begin(clip, TODAY, 4, [TODAY.weekday()])
    told = phone.get(f"/api/training/{token}").data
    (slot,) = told["today"]
    # 60 % of 80 kg is 48: a 20 kg bar and 14 kg a side.
    assert (slot["total"], sum(slot["per_side"])) == (48, 14)
    assert slot["pause_s"] == 3
    assert api.get("/api/morning").data["due"][0]["says"] == ["Snatch pull with a 3 s pause at the knee"]
    entered = sent(phone, token, done=[done(slot=slot["id"])])
    assert entered["today"][0]["done_sets"][1]["missed"] == 1
    assert api.get("/api/morning").data["due"][0]["says"] == ["Snatch pull with a 3 s pause at the knee ✓"]
    log = api.get(f"/api/athletes/{clip.athlete_id}/log").data
    assert (log["planned_days"], log["kept_days"]) == (1, 1)
    monday = TODAY - timedelta(days=TODAY.weekday())
    assert log["weeks"] == [{"monday": monday, "planned": 1, "kept": 1}]


def test_a_withdrawn_link_opens_nothing_and_a_new_one_is_another(phone: APIClient, api: APIClient, athlete: Athlete, token: str) -> None:
    assert phone.get(f"/api/training/{token}").status_code == 200
    assert api.delete(f"/api/athletes/{athlete.pk}/link").status_code == 204
    for address in (f"/api/training/{token}", f"/api/training/{token}/plan.ics"):
        assert phone.get(address).status_code == 404
    assert phone.post(f"/api/training/{token}", {"done": [done()]}, format="json").status_code == 404
    fresh = api.post(f"/api/athletes/{athlete.pk}/link").data["token"]
    assert fresh != token
    assert phone.get(f"/api/training/{fresh}").status_code == 200


def test_the_next_clip_goes_into_the_right_task(phone: APIClient, clip: Clip, token: str) -> None:
    task = assign(clip, "pull_pause_knee", sets=4, reps=3, percent=60, per_week=1, weeks=4)
    with CLIP.open("rb") as file:
        answer = phone.post(f"/api/training/{token}/clips", {"file": file, "assignment": task.pk, "load": 48}, format="multipart")
    assert answer.status_code == 201, answer.data
    fresh = Clip.objects.exclude(pk=clip.pk).get()
    assert (fresh.lift, fresh.follows.assignment_id, fresh.load) == ("snatch_pull", task.pk, 48)


def test_a_clip_for_somebody_elses_task_is_refused(phone: APIClient, clip: Clip, stranger: User) -> None:
    task = assign(clip, "pull_pause_knee", sets=4, reps=3, percent=60, per_week=1, weeks=4)
    theirs = services.link_of(Athlete.objects.create(coach=stranger, name="Somebody")).token
    with CLIP.open("rb") as file:
        assert phone.post(f"/api/training/{theirs}/clips", {"file": file, "assignment": task.pk}, format="multipart").status_code == 404


# -- the log as the coach reads it --------------------------------------------------------------------------------------------


def test_bands_and_bests_are_counted(phone: APIClient, api: APIClient, athlete: Athlete, token: str) -> None:
    # Of a best of 80 kg, 48 and 50 kg are 60 and 62.5 %: one band, 3 + 2 made, 1 missed.
    sent(phone, token, done=[done()], days=[{"key": str(uuid.uuid4()), "on": TODAY.isoformat(), "readiness": 4, "bodyweight_kg": 58.4}])
    told = api.get(f"/api/athletes/{athlete.pk}/log").data
    # A pull is neither made nor missed.
    assert told["bands"] == []
    sent(phone, token, done=[done(exercise="full_lift")])
    counted = api.get(f"/api/athletes/{athlete.pk}/log").data["bands"]
    assert [dict(row) for row in counted] == [{"from_percent": 60, "to_percent": 70, "made": 5, "missed": 1}]
    assert {(row["kind"], row["kilos"]) for row in told["bests"]} == {("made", 50.0), ("hook kept", 50.0)}
    assert told["days"][0]["bodyweight_kg"] == 58.4


def test_the_log_goes_out_and_comes_back_the_same(api: APIClient, athlete: Athlete, stranger: User, phone: APIClient, token: str) -> None:
    sent(phone, token, done=[done(note='Slow, "heavy", fine')])
    text = api.get(f"/api/athletes/{athlete.pk}/log.csv").content.decode()
    assert text.splitlines()[0] == ",".join(services.COLUMNS)
    assert api.post(f"/api/athletes/{athlete.pk}/log/read-in", {"text": text}, format="json").data["read"] == 0
    theirs = Athlete.objects.create(coach=stranger, name="Somebody")
    other = signed_in(stranger)
    assert other.post(f"/api/athletes/{theirs.pk}/log/read-in", {"text": text}, format="json").data["read"] == 1
    assert other.get(f"/api/athletes/{theirs.pk}/log.csv").content.decode() == text


@pytest.mark.parametrize(("line", "says"), [
    ("31.3.2026,snatch,,1,50,kg,1,0,,,", "Line 2: “31.3.2026” is no date"), ("2026-03-31,,,1,50,kg,1,0,,,", "names no exercise"),
    ("2026-03-31,snatch,,1,heavy,kg,1,0,,,", "the load “heavy” is no number"), ("2026-03-31,snatch,,1,50,st,1,0,,,", "kg or lb"),
    ("2026-03-31,snatch,,1,5000,kg,1,0,,,", "not between 0 and 600"),
])  # fmt: skip
def test_a_table_that_is_none_is_refused_by_its_line_and_nothing_comes_in(api: APIClient, athlete: Athlete, line: str, says: str) -> None:
    text = ",".join(services.COLUMNS) + "\n" + line + "\n2026-04-01,snatch,,1,50,kg,1,0,,,\n"
    told = api.post(f"/api/athletes/{athlete.pk}/log/read-in", {"text": text}, format="json")
    assert told.status_code == 400
    assert says in told.data["detail"]
    assert athlete.done.count() == 0
    bare = api.post(f"/api/athletes/{athlete.pk}/log/read-in", {"text": "a,b\n1,2\n"}, format="json")
    assert "must name the columns" in bare.data["detail"]
