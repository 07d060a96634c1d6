"""Nothing acknowledged is lost, whatever is sent: twice, at once, malformed, too much, or by somebody who lies about who they are."""

from __future__ import annotations

import errno
import json
import logging
import os
import uuid
from datetime import date, timedelta
from typing import Any

import pytest
from django.conf import settings
from django.contrib.auth.models import User
from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from rest_framework.response import Response
from rest_framework.test import APIClient

from atleta.analysis import build_document
from atleta_site.heads import WithoutTokens
from clips import derived
from clips.models import Clip
from clips.services import forget, receive_clip, tidy
from log.models import Report
from log.services import enter_report, link_of, written
from people.models import Athlete
from plans import blocks
from reviews import services as reviews

from .conftest import CLIP, opened, signed_in
from .test_plans import put

TODAY = timezone.localdate()


# -- at once ----------------------------------------------------------------------------------------------------------------


def test_two_corrections_at_once_both_stand(api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    begun = []

    def interrupted(*asked: Any) -> Any:
        if not begun:
            begun.append(1)
            other = api.put(f"/api/clips/{clip.pk}/events/0/knee", {"frame": 80}, format="json")
            assert other.status_code == 200, other.json()
        return build_document(*asked)

    monkeypatch.setattr(derived, "build_document", interrupted)
    told = api.put(f"/api/clips/{clip.pk}/events/0/contact", {"frame": 95}, format="json").json()
    clip.refresh_from_db()
    assert clip.event_frames == {"0:knee": 80, "0:contact": 95}
    events = told["document"]["lifts"][0]["events"]
    assert (events["knee"]["frame"], events["contact"]["frame"]) == (80, 95)
    assert clip.corrections.count() == 2


def test_a_correction_that_cannot_be_followed_is_not_kept(api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    before = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]

    def refuses(*_: Any) -> Any:
        raise reviews.CannotReview("The capture rate does not fit this clip.")

    monkeypatch.setattr(derived, "build_document", refuses)
    assert api.put(f"/api/clips/{clip.pk}/events/0/contact", {"frame": 95}, format="json").status_code == 400
    clip.refresh_from_db()
    assert (clip.event_frames, clip.corrections.count()) == ({}, 0)
    assert api.get(f"/api/clips/{clip.pk}/bench").json()["document"] == before


def test_what_is_said_of_a_clip_while_it_is_tracked_counts(clip: Clip) -> None:
    begun_with = Clip.objects.select_related("athlete").get(pk=clip.pk)
    Clip.objects.filter(pk=clip.pk).update(load=61.0, lift="power_snatch")
    Athlete.objects.filter(pk=clip.athlete_id).update(stature_m=1.70)
    document = reviews.rebuild(begun_with).document
    assert document["lifts"][0]["kind"] == "power_snatch"
    assert clip.numbers.get().kind == "power_snatch"
    assert reviews.settings_of(Clip.objects.get(pk=clip.pk)).load_kg == 61.0


def test_who_would_undo_a_later_change_unseen_sees_it_and_chooses(api: APIClient, clip: Clip) -> None:
    told = opened(api, clip)
    contact = told["document"]["lifts"][0]["events"]["contact"]["frame"]
    seen = max((row["turn"] for row in told["corrections"]), default=0)
    address = f"/api/clips/{clip.pk}/events/0/contact"

    def put(frame: int, seen: int | None) -> Response:
        return api.put(address, {"frame": frame}, format="json", headers={} if seen is None else {"X-Seen": str(seen)})

    assert put(contact + 1, seen).status_code == 200
    refused = put(contact + 2, seen)
    assert refused.status_code == 409
    (theirs,) = refused.json()["changed"]
    assert (theirs["what"], theirs["after"], theirs["by"]) == ("event:0:contact", contact + 1, "maren")
    assert opened(api, clip)["document"]["lifts"][0]["events"]["contact"]["frame"] == contact + 1
    # What somebody else did is not undone unseen either, while another matter stands beside it.
    assert api.post(f"/api/clips/{clip.pk}/undo", headers={"X-Seen": str(seen)}).status_code == 409
    assert api.put(f"/api/clips/{clip.pk}/by-hand", {"load": 77}, format="json", headers={"X-Seen": str(seen)}).status_code == 200
    assert put(contact + 2, theirs["turn"]).status_code == 200
    # What they undid is news, too.
    seen = max(row["turn"] for row in opened(api, clip)["corrections"])
    assert api.post(f"/api/clips/{clip.pk}/undo").status_code == 200
    assert api.post(f"/api/clips/{clip.pk}/undo").status_code == 200
    refused = put(contact + 3, seen)
    assert (refused.status_code, [row["state"] for row in refused.json()["changed"]]) == (409, ["undone"])
    assert put(contact + 3, None).status_code == 200


def test_a_review_that_was_written_elsewhere_is_not_written_over_unseen(api: APIClient, clip: Clip) -> None:
    address = f"/api/clips/{clip.pk}/review"
    before = api.get(address).json()["written_at"]
    first = api.put(address, {"words": "Stay over the bar.", "seen": before}, format="json")
    assert first.status_code == 200
    refused = api.put(address, {"words": "Keep it close.", "seen": before}, format="json")
    assert (refused.status_code, refused.json()["theirs"]["words"]) == (409, "Stay over the bar.")
    again = api.put(address, {"words": "Keep it close.", "seen": first.json()["written_at"]}, format="json")
    assert again.json()["words"] == "Keep it close."


def test_another_stature_is_followed_when_the_clip_is_looked_at(api: APIClient, clip: Clip) -> None:
    before = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]["lengths_m"]
    assert api.patch(f"/api/athletes/{clip.athlete_id}", {"stature_m": 1.70}, format="json").status_code == 200
    assert opened(api, clip)["document"]["lengths_m"] != before


def test_the_last_clip_of_a_file_takes_it_along_and_a_new_one_brings_it_again(athlete: Athlete, monkeypatch: pytest.MonkeyPatch) -> None:
    first = receive_clip(CLIP, CLIP.name, athlete, lift="snatch")
    second = receive_clip(CLIP, CLIP.name, athlete, lift="snatch")
    forget(first)
    assert second.original.exists()
    forget(second)
    assert [path for path in settings.MEDIA_DIR.rglob("*") if path.is_file()] == []
    assert receive_clip(CLIP, CLIP.name, athlete, lift="snatch").original.exists()


def test_what_belongs_to_nothing_is_tidied_up_and_what_is_new_is_not(athlete: Athlete) -> None:
    clip = receive_clip(CLIP, CLIP.name, athlete, lift="snatch")
    strays = [settings.MEDIA_DIR / name for name in (f"bodies/{uuid.uuid4()}/x.json", "originals/ab/abc.mp4", "originals/ab/.a.0.part")]
    for stray in (*strays, settings.MEDIA_DIR / "originals" / "ab" / "new.mp4"):
        stray.parent.mkdir(parents=True, exist_ok=True)
        stray.write_bytes(b"x")
    long_ago = timezone.now().timestamp() - 7200
    for stray in (*strays, strays[0].parent, clip.original):
        os.utime(stray, (long_ago, long_ago))
    tidy()
    assert not any(stray.exists() for stray in strays)
    assert clip.original.exists()
    assert (settings.MEDIA_DIR / "originals" / "ab" / "new.mp4").exists()


# -- sent twice --------------------------------------------------------------------------------------------------------------


def test_a_note_that_is_sent_twice_is_one_note(coach: User, clip: Clip) -> None:
    browser = Client()
    browser.force_login(coach)
    key, body = str(uuid.uuid4()), {"frame": 60, "words": "Wait."}

    def send(path: str, with_key: str = key) -> Any:
        return browser.post(f"/api/clips/{clip.pk}/{path}", body, content_type="application/json", HTTP_IDEMPOTENCY_KEY=with_key)

    first, again = send("notes"), send("notes")
    assert (first.status_code, again.status_code, again.json()) == (201, 201, first.json())
    assert clip.notes.count() == 1
    assert send("marks").status_code == 409
    assert send("notes", "no-key").status_code == 400
    assert send("notes", str(uuid.uuid4())).status_code == 201
    assert clip.notes.count() == 2


def test_what_was_refused_may_be_sent_again_with_its_key(coach: User, clip: Clip) -> None:
    browser = Client()
    browser.force_login(coach)
    key = str(uuid.uuid4())
    for words, status in (("", 400), ("Wait.", 201)):
        answer = browser.post(
            f"/api/clips/{clip.pk}/notes", {"frame": 60, "words": words}, content_type="application/json", HTTP_IDEMPOTENCY_KEY=key
        )
        assert answer.status_code == status
    assert clip.notes.count() == 1


# -- malformed ---------------------------------------------------------------------------------------------------------------

DEEP = '{"a":' * 200 + "1" + "}" * 200
BODIES = ["[1, 2]", '"text"', "17", "null", "{", "\xff", DEEP, "[" * 100_000, '{"name": "\\ud800"}', '{"name": "a\\u0000b"}',
          '{"stature_m": NaN}', '{"stature_m": 1e999}', '{"stature_m": 99999999999999999999999}']  # fmt: skip


def test_a_body_that_is_none_is_refused_in_words(coach: User, clip: Clip) -> None:
    browser = Client(raise_request_exception=False)
    browser.force_login(coach)
    for method, path in (
        ("post", "/api/session"), ("post", "/api/athletes"), ("put", f"/api/clips/{clip.pk}/verdicts/0/bar_looped"),
        ("post", "/api/faults"), ("put", f"/api/clips/{clip.pk}/by-hand"), ("post", f"/api/training/{link_of(clip.athlete).token}"),
    ):  # fmt: skip
        for body in BODIES:
            cache.clear()
            answer = getattr(browser, method)(path, body.encode("latin-1"), content_type="application/json")
            assert answer.status_code in (400, 403), (path, body[:40], answer.content)
            assert answer.json()["detail"], (path, body[:40])


def test_odd_digits_in_an_address_are_no_error(coach: User, clip: Clip) -> None:
    browser = Client(raise_request_exception=False)
    browser.force_login(coach)
    for query in ("lift=²", "lift=99999999999999999999", "long_side=९", "voice=²", "voice=99999999999999999999"):
        for tail in ("positions.png", "drawn.mp4", "frames/3.jpg"):
            assert browser.get(f"/api/clips/{clip.pk}/{tail}?{query}").status_code < 500, (tail, query)


@pytest.mark.parametrize(("error", "status"), [
    (OSError(errno.ENOSPC, "No space left on device"), 507), (OperationalError("database or disk is full"), 507),
    (OperationalError("database is locked"), 503),
])  # fmt: skip
def test_a_full_disk_and_a_held_database_are_said_in_words(
    coach: User, clip: Clip, monkeypatch: pytest.MonkeyPatch, error: Exception, status: int
) -> None:
    def fails(*_: Any, **__: Any) -> None:
        raise error

    browser = Client(raise_request_exception=False)
    monkeypatch.setattr("people.views.login", fails)
    told = browser.post("/api/session", {"username": "maren", "password": "saltmarsh-lane"}, content_type="application/json")
    assert (told.status_code, told.json()["detail"][-1]) == (status, ".")
    browser.force_login(coach)
    monkeypatch.setattr(reviews, "note", fails)
    told = browser.post(f"/api/clips/{clip.pk}/notes", {"frame": 60, "words": "Wait."}, content_type="application/json")
    assert (told.status_code, told.json()["detail"][-1]) == (status, ".")


# -- who asks ----------------------------------------------------------------------------------------------------------------


def tried(password: str, address: str = "10.0.0.1", browser: Client | None = None) -> int:
    told = {"username": "maren", "password": password}
    return (browser or Client()).post("/api/session", told, content_type="application/json", REMOTE_ADDR=address).status_code


def test_an_address_that_the_sender_makes_up_does_not_count(coach: User) -> None:
    cache.clear()
    answers = {
        Client()
        .post("/api/session", {"username": "x", "password": "wrong"}, content_type="application/json", HTTP_X_FORWARDED_FOR=f"1.2.3.{n}")
        .status_code
        for n in range(12)
    }
    assert answers == {400, 429}


def test_one_account_is_not_tried_from_many_addresses_and_its_owner_is_not_locked_out(coach: User) -> None:
    cache.clear()
    own = Client()
    assert tried("saltmarsh-lane", "10.9.9.9", own) == 200
    own.delete("/api/session")
    assert [tried("wrong", f"10.0.1.{n}") for n in range(25)].count(429) >= 5
    assert tried("saltmarsh-lane", "10.0.2.1") == 429
    assert tried("saltmarsh-lane", "10.9.9.9", own) == 200


# -- the athlete's link ------------------------------------------------------------------------------------------------------


def test_what_the_coach_entered_of_pain_stands_whatever_the_athlete_sends(athlete: Athlete) -> None:
    key = uuid.uuid4()
    enter_report(athlete, key=key, kind="pain", site="knee", degree=6, since=TODAY)
    phone, token = APIClient(), link_of(athlete).token
    row = {"key": str(key), "kind": "pain", "site": "knee", "degree": 0, "since": str(TODAY), "until": str(TODAY)}
    assert phone.post(f"/api/training/{token}", {"reports": [row]}, format="json").status_code == 200
    athlete.refresh_from_db()
    assert athlete.pain == 6
    theirs, mine = sorted(Report.objects.all(), key=lambda one: one.by_coach)
    assert (mine.degree, mine.until, theirs.degree) == (6, None, 0)
    assert "your coach entered: knee, 6 of 10" in theirs.note


def test_what_was_told_before_is_kept(athlete: Athlete) -> None:
    phone, token, key = APIClient(), link_of(athlete).token, str(uuid.uuid4())
    for degree in (5, 2):
        row = {"key": key, "kind": "pain", "site": "knee", "degree": degree, "since": str(TODAY)}
        phone.post(f"/api/training/{token}", {"reports": [row]}, format="json")
    (report,) = Report.objects.all()
    assert (report.degree, [one["degree"] for one in report.earlier]) == (2, [5])


@pytest.mark.parametrize("sent", [
    {"said": [{"key": str(uuid.uuid4()), "words": "x"} for _ in range(5000)]},
    {"done": [{"key": str(uuid.uuid4()), "on": str(TODAY), "exercise": "a", "sets": [{"load": 1, "reps": 1}] * 5000}]},
])  # fmt: skip
def test_a_link_takes_in_what_a_phone_gathers_and_no_more(athlete: Athlete, sent: dict[str, Any]) -> None:
    answer = APIClient().post(f"/api/training/{link_of(athlete).token}", sent, format="json")
    assert answer.status_code == 400


def test_a_link_takes_in_films_of_lifts_that_exist_and_not_without_end(athlete: Athlete, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("log.views.MOST_FILMS_A_DAY", 1)
    address = f"/api/training/{link_of(athlete).token}/clips"

    def send(lift: str) -> Any:
        with CLIP.open("rb") as film:
            return APIClient().post(address, {"file": film, "lift": lift})

    assert send("snatch" * 1000).status_code == 400
    assert send("snatch").status_code == 201
    told = send("snatch")
    assert (told.status_code, "today" in told.json()["detail"]) == (400, True)


def test_no_table_program_takes_an_entry_for_a_formula(api: APIClient, athlete: Athlete) -> None:
    row = {"key": str(uuid.uuid4()), "on": str(TODAY), "exercise": "=1+1", "lift": "-x", "sets": [{"load": 1, "reps": 1}], "note": "@sum"}
    assert api.post(f"/api/athletes/{athlete.pk}/log", {"done": [row]}, format="json").status_code == 200
    text = written(athlete)
    assert all(f"'{word}" in text for word in ("=1+1", "-x", "@sum"))
    # What was written out is there already when it is taken in again.
    assert api.post(f"/api/athletes/{athlete.pk}/log/read-in", {"text": text}, format="json").json() == {"read": 0}


def test_a_log_of_as_many_rows_as_are_promised_is_taken_in(api: APIClient, athlete: Athlete) -> None:
    rows = "".join(f"{date(2000, 1, 1) + timedelta(days=n)},full_lift,snatch,1,60,kg,2,0,8,yes,a heavy day\n" for n in range(16_000))
    text = "date,exercise,lift,set,load,unit,reps,missed,rpe,hook,note\n" + rows
    answer = api.post(f"/api/athletes/{athlete.pk}/log/read-in", {"text": text}, format="json")
    assert (answer.status_code, answer.json()) == (200, {"read": 16_000})
    long = api.post(
        f"/api/athletes/{athlete.pk}/log/read-in", {"text": "date,exercise,reps\n2020-01-01," + "x" * 200_000 + ",1\n"}, format="json"
    )
    assert (long.status_code, "table" in long.json()["detail"]) == (400, True)


def test_how_far_clips_are_is_one_light_question(api: APIClient, clip: Clip, stranger: User) -> None:
    assert api.get("/api/clips/progress").json() == []
    clip.job.state = "running"
    clip.job.save()
    with CaptureQueriesContext(connection) as asked:
        (told,) = api.get("/api/clips/progress").json()
    # Who asks, by their session, and the answer.
    assert len(asked) <= 3, [one["sql"] for one in asked]
    assert (told["clip"], told["job"]["state"]) == (str(clip.pk), "running")
    assert signed_in(stranger).get("/api/clips/progress").json() == []


# -- what answers carry ------------------------------------------------------------------------------------------------------


def test_every_answer_says_what_a_browser_may_do_with_it(coach: User) -> None:
    page, told = Client().get("/"), Client().get("/api/session")
    for answer in (page, told):
        assert "object-src 'none'" in answer["Content-Security-Policy"]
        assert "camera=()" in answer["Permissions-Policy"]
    assert told["Cache-Control"] == "no-store"


def test_the_description_of_the_api_needs_signing_in(coach: User) -> None:
    assert APIClient().get("/api/schema").status_code == 403
    assert signed_in(coach).get("/api/schema").status_code == 200


def test_what_is_not_there_is_said_in_json(coach: User) -> None:
    browser = Client(raise_request_exception=False)
    browser.force_login(coach)
    answer = browser.get(f"/api/clips/{uuid.uuid4()}/video.mp4")
    assert (answer.status_code, json.loads(answer.content)) == (404, {"detail": "There is nothing at this address."})


def test_the_log_shows_no_token(caplog: pytest.LogCaptureFixture) -> None:
    token = "x" * 43
    record = logging.LogRecord("django.request", logging.WARNING, "", 1, "Not Found: %s", (f"/api/training/{token}/clips",), None)
    assert WithoutTokens().filter(record)
    assert record.getMessage() == "Not Found: /api/training/…/clips"


# -- files and days ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("content", [
    b"some words, and no film", b"\x1b[31mcolours\x1b[0m\n" * 400,
    b"#EXTM3U\n#EXTINF:1,\n/etc/hostname\n",
    b"ffconcat version 1.0\nfile '/etc/hostname'\n",
    b"GIF89a" + b"\0" * 300, b"RIFF" + b"\xff" * 500, b"\0\0\0\x20ftypisom" + b"\xff" * 2000, b"\x1aE\xdf\xa3" + b"\xff" * 2000,
], ids=range(8))  # fmt: skip
def test_what_is_no_film_is_refused_in_words_and_nothing_of_it_stays(api: APIClient, athlete: Athlete, content: bytes) -> None:
    file = SimpleUploadedFile("lift.mp4", content, "video/mp4")
    answer = api.post("/api/clips", {"file": file, "athlete": athlete.pk, "lift": "snatch"})
    assert (answer.status_code, answer.json()["detail"][-1]) == (422, ".")
    assert [path for path in settings.MEDIA_DIR.rglob("*") if path.is_file()] == []


def test_a_day_in_no_ones_life_is_refused(api: APIClient, clip: Clip) -> None:
    row = {"key": str(uuid.uuid4()), "kind": "pain", "site": "knee", "degree": 1}
    for method, path, body in (
        (method, path, body)
        for on in ("9999-12-31", "0001-01-01", "1066-10-14")
        for method, path, body in (
            ("patch", f"/api/clips/{clip.pk}", {"filmed_on": on}),
            ("post", f"/api/athletes/{clip.athlete_id}/log", {"reports": [row | {"since": on}]}),
            ("get", f"/api/athletes/{clip.athlete_id}/series?since={on}", None),
        )
    ):
        answer = getattr(api, method)(path, body, format="json")
        assert answer.status_code == 400, (path, answer.content)


def test_work_is_not_moved_out_of_its_block(api: APIClient, clip: Clip) -> None:
    put(clip)
    block = blocks.begin(clip, TODAY, 4, [TODAY.weekday()])
    slot = block.slots.first()
    assert slot is not None
    for on in (TODAY - timedelta(days=1), TODAY + timedelta(weeks=20)):
        answer = api.patch(f"/api/blocks/{block.pk}/slots/{slot.pk}", {"on": str(on)}, format="json")
        assert (answer.status_code, "choose a day in between" in answer.json()["detail"]) == (400, True)
    assert api.patch(f"/api/blocks/{block.pk}/slots/{slot.pk}", {"on": str(TODAY + timedelta(days=1))}, format="json").status_code == 200
