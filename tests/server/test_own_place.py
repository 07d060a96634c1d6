"""A coach begins: the first account, one more by a link, passwords, athletes out of a table, and an athlete who leaves."""

from __future__ import annotations

import io
import json
import zipfile
from datetime import timedelta

import pytest
from django.conf import settings
from django.contrib.auth.models import User
from django.core.cache import cache
from django.core.management import call_command
from django.test import Client
from django.utils import timezone
from rest_framework.test import APIClient

from clips.models import Clip
from log.services import enter_said, link_of
from people.accounts import CannotEnter, first_code, make_coach
from people.models import Athlete, Invitation

from .conftest import signed_in
from .test_plans import put

ENOUGH = "saltmarsh-lane-9"


@pytest.fixture(autouse=True)
def fresh(settings, tmp_path) -> None:  # type: ignore[no-untyped-def]
    cache.clear()
    settings.VAR_DIR = tmp_path


def made(token: str, username: str = "maren", password: str = ENOUGH) -> tuple[Client, int, dict]:
    browser = Client()
    body = {"token": token, "username": username, "name": "Maren Tolk", "password": password}
    answer = browser.post("/api/coaches", body, content_type="application/json")
    return browser, answer.status_code, answer.json()


def test_the_first_coach_is_made_by_whoever_started_the_program_and_by_nobody_else(db: None) -> None:
    assert Client().get("/api/session").json()["first_run"] is True
    code = first_code()
    assert code
    assert made("guessed")[1:] == (
        400,
        {"detail": "This link does not belong to this program. Take the one that it printed when it started."},
    )
    browser, status, told = made(code)
    assert (status, told["name"], told["first_run"]) == (201, "Maren Tolk", False)
    assert browser.get("/api/athletes").json() == []
    assert browser.get("/api/rack").status_code == 200
    assert first_code() is None
    assert made(code, "another")[1] == 400
    assert User.objects.count() == 1


@pytest.mark.parametrize("password", ["short", "password123", "1234567890"])
def test_a_weak_password_is_refused_wherever_one_is_set(coach: User, password: str) -> None:
    api = signed_in(coach)
    assert api.post("/api/password", {"old": "saltmarsh-lane", "new": password}, format="json").status_code == 400
    assert made(api.post("/api/invitations").json()["token"], "new", password)[1] == 400
    with pytest.raises(CannotEnter):
        make_coach("new", "", password)
    assert User.objects.count() == 1


def test_a_password_is_changed_by_who_knows_the_old_one_and_signs_out_elsewhere(coach: User) -> None:
    here, there = Client(), Client()
    for browser in (here, there):
        browser.force_login(coach)
    assert here.post("/api/password", {"old": "wrong", "new": ENOUGH}, content_type="application/json").status_code == 400
    assert here.post("/api/password", {"old": "saltmarsh-lane", "new": ENOUGH}, content_type="application/json").status_code == 204
    assert [browser.get("/api/session").json()["signed_in"] for browser in (here, there)] == [True, False]


def test_an_invitation_lets_one_coach_in_once_until_it_ends(coach: User, athlete: Athlete) -> None:
    api = signed_in(coach)
    token = api.post("/api/invitations").json()["token"]
    browser, status, _ = made(token, "second")
    assert status == 201
    assert browser.get("/api/athletes").json() == []
    assert made(token, "third")[1:] == (400, {"detail": "This invitation was used or has ended. Ask for a new one."})
    late = api.post("/api/invitations").json()["token"]
    Invitation.objects.filter(token=late).update(ends_at=timezone.now() - timedelta(seconds=1))
    assert made(late, "third")[1] == 400
    again = api.post("/api/invitations").json()["token"]
    assert made(again, "MAREN")[2] == {"detail": "Somebody signs in as MAREN already. Choose another name to sign in with."}
    assert made(again, "third")[1] == 201


def test_what_cannot_be_undone_stands_in_the_trail_of_who_did_it(coach: User, athlete: Athlete, stranger: User) -> None:
    browser = Client()
    for password, status in (("wrong", 400), ("saltmarsh-lane", 200)):
        said = {"username": "maren", "password": password}
        assert browser.post("/api/session", said, content_type="application/json").status_code == status
    link_of(athlete)
    browser.delete(f"/api/athletes/{athlete.pk}/link")
    browser.delete(f"/api/athletes/{athlete.pk}/everything")
    told = [row["what"] for row in browser.get("/api/trail").json()]
    assert told == [
        "Ida Fenn removed, with everything of theirs", "Ida Fenn's link withdrawn", "Signed in",
        "Somebody tried to sign in from 127.0.0.1 with a wrong password",
    ]  # fmt: skip
    assert signed_in(stranger).get("/api/trail").json() == []


def test_a_coach_is_made_by_a_command(db: None, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("people.management.commands.make_coach.getpass", lambda _: ENOUGH)
    call_command("make_coach", "maren", name="Maren Tolk", stdout=io.StringIO())
    assert User.objects.get().check_password(ENOUGH)


TABLE = "name,stature_cm,unit,snatch,clean,back_squat\nIda Fenn,162,,82,,\nOrla Quill,155,lb,110.2,,\n"


def test_a_table_of_athletes_is_looked_at_before_it_is_kept(api: APIClient, athlete: Athlete) -> None:
    def told(keep: bool) -> list[dict]:
        answer = api.post("/api/athletes/read-in", {"text": TABLE, "keep": keep}, format="json")
        assert answer.status_code == 200, answer.json()
        return answer.json()

    ida, orla = told(keep=False)
    assert (ida["there"], ida["bests"], orla["there"]) == (True, {"snatch": 82.0}, False)
    assert orla["bests"]["snatch"] == pytest.approx(49.99, abs=0.01)
    assert Athlete.objects.count() == 1
    told(keep=True)
    athlete.refresh_from_db()
    assert (athlete.stature_m, athlete.bests.get(lift="snatch").kilos, Athlete.objects.count()) == (1.62, 82, 2)


@pytest.mark.parametrize(("text", "says"), [
    ("", "must name the columns"), ("who,snatch\nIda,80\n", "must name the columns"),
    ("name,snatch\nIda,eighty\n", "Line 2: snatch “eighty”"),
    ("name,snatch\n,80\n", "Line 2 names nobody"), ("name,stature_cm\nIda,16\n", "16 is not between 100 and 230"),
    ("name\nIda\nIda\n", "twice"), ("name,unit\nIda,stone\n", "kg or lb"), ("name\n" + '"' + "x" * 200_000, "table"),
])  # fmt: skip
def test_a_table_that_cannot_be_read_is_refused_with_its_line(api: APIClient, text: str, says: str) -> None:
    answer = api.post("/api/athletes/read-in", {"text": text, "keep": True}, format="json")
    assert answer.status_code == 400
    assert says in str(answer.json()) or (not text and "blank" in str(answer.json()))
    assert Athlete.objects.count() == 0


def test_an_athlete_who_leaves_takes_everything_along_and_nothing_stays(api: APIClient, clip: Clip, stranger: User) -> None:
    put(clip)
    enter_said(clip.athlete, key="3f0f5b0e-6a53-4f3c-9a0a-111111111111", words="Felt good.")
    api.post(f"/api/clips/{clip.pk}/notes", {"frame": 60, "words": "Wait."}, format="json")
    address = f"/api/athletes/{clip.athlete_id}/everything"
    for method in ("get", "delete"):
        path = f"{address}.zip" if method == "get" else address
        assert getattr(signed_in(stranger), method)(path).status_code == 404
    kept = zipfile.ZipFile(io.BytesIO(b"".join(api.get(f"{address}.zip").streaming_content)))
    names = kept.namelist()
    assert {"athlete.json", "log.csv"} <= set(names)
    (film,) = [name for name in names if name.endswith("film.mp4")]
    assert kept.read(film) == clip.original.read_bytes()
    (told,) = [json.loads(kept.read(name)) for name in names if name.endswith("clip.json")]
    assert [row["words"] for row in told["notes"]] == ["Wait."]
    assert json.loads(kept.read("athlete.json"))["said"][0]["words"] == "Felt good."
    assert api.delete(address).status_code == 204
    assert (Athlete.objects.count(), Clip.objects.count()) == (0, 0)
    assert [path for path in settings.MEDIA_DIR.rglob("*") if path.is_file()] == []
