from __future__ import annotations

from datetime import timedelta

import pytest
from django.contrib.auth.models import User
from django.test import Client
from django.utils import timezone
from rest_framework.test import APIClient

from clips.models import Clip
from people.models import Athlete
from plans.models import Block
from reviews.models import HandOver

from .conftest import signed_in

ADDRESSES = [
    ("get", ""), ("patch", ""), ("delete", ""), ("post", "/retry"), ("post", "/stop"), ("get", "/bench"),
    ("put", "/disc/60"), ("delete", "/disc/60"),
    ("put", "/verdicts/0/bar_looped"), ("delete", "/verdicts/0/bar_looped"), ("get", "/review"), ("put", "/review"), ("post", "/hand-over"),
    ("delete", "/hand-over"), ("get", "/offers"), ("get", "/offers/muscle_lift/dose"), ("get", "/assignments"), ("post", "/assignments"),
    ("delete", "/assignments/1"),
    ("get", "/video.mp4"), ("get", "/poster.jpg"), ("get", "/frames/3.jpg"),
]  # fmt: skip


@pytest.mark.parametrize(("method", "tail"), ADDRESSES)
def test_another_coachs_clip_is_not_there(stranger: User, clip: Clip, method: str, tail: str) -> None:
    answer = getattr(signed_in(stranger), method)(f"/api/clips/{clip.pk}{tail}", {}, format="json")
    assert answer.status_code == 404
    assert Clip.objects.filter(pk=clip.pk).exists()


@pytest.mark.parametrize(("method", "tail"), ADDRESSES)
def test_nobody_sees_a_clip_without_signing_in(clip: Clip, method: str, tail: str) -> None:
    assert getattr(APIClient(), method)(f"/api/clips/{clip.pk}{tail}", {}, format="json").status_code in (403, 404)


def test_lists_hold_only_the_coachs_own(stranger: User, clip: Clip, athlete: Athlete) -> None:
    other = signed_in(stranger)
    assert other.get("/api/clips").json()["results"] == []
    assert other.get("/api/athletes").json() == []
    assert other.get(f"/api/athletes/{athlete.pk}").status_code == 404
    assert other.patch(f"/api/athletes/{athlete.pk}", {"name": "Mine now"}, format="json").status_code == 404


def test_a_clip_cannot_be_given_to_another_coachs_athlete(api: APIClient, clip: Clip, stranger: User) -> None:
    foreign = Athlete.objects.create(coach=stranger, name="Somebody Else")
    assert api.patch(f"/api/clips/{clip.pk}", {"athlete": foreign.pk}, format="json").status_code == 400
    clip.refresh_from_db()
    assert clip.athlete_id != foreign.pk


def test_a_clip_sent_under_another_name_goes_to_who_lifted_unless_something_of_theirs_rests_on_it(
    api: APIClient, clip: Clip, athlete: Athlete
) -> None:
    right = Athlete.objects.create(coach=athlete.coach, name="Orla Quill", stature_m=1.55)
    made = api.patch(f"/api/clips/{clip.pk}", {"athlete": right.pk}, format="json")
    assert (made.status_code, made.json()["athlete_name"]) == (200, "Orla Quill")
    handed = HandOver.objects.create(clip=clip, content={}, expires_at=timezone.now() + timedelta(days=1))
    refused = api.patch(f"/api/clips/{clip.pk}", {"athlete": athlete.pk}, format="json")
    assert refused.status_code == 400
    assert refused.json()["non_field_errors"] == ["The review of this lift is with Orla Quill. Withdraw it first."]
    handed.withdrawn_at = timezone.now()
    handed.save()
    Block.objects.create(athlete=right, clip=clip, lift="snatch", begins=timezone.now().date(), weeks=4, days=[0])
    refused = api.patch(f"/api/clips/{clip.pk}", {"athlete": athlete.pk}, format="json")
    assert refused.json()["non_field_errors"][0].startswith("Work of Orla Quill rests on this clip.")
    clip.refresh_from_db()
    assert clip.athlete == right


def test_signing_in_needs_name_password_and_csrf_token(coach: User) -> None:
    browser = Client(enforce_csrf_checks=True)
    told = browser.get("/api/session").json()
    assert (told["signed_in"], told["name"], told["first_run"]) == (False, "", False)
    told = {"username": "maren", "password": "saltmarsh-lane"}
    assert browser.post("/api/session", told, content_type="application/json").status_code == 403
    token = {"HTTP_X_CSRFTOKEN": browser.cookies["csrftoken"].value}
    wrong = browser.post("/api/session", {**told, "password": "wrong-lane-12"}, content_type="application/json", **token)
    assert wrong.status_code == 400
    assert "do not belong together" in wrong.json()["detail"]
    assert browser.post("/api/session", told, content_type="application/json", **token).json()["signed_in"] is True
    assert browser.get("/api/clips").status_code == 200
    cookie = browser.cookies["sessionid"]
    assert cookie["httponly"]
    assert cookie["samesite"] == "Lax"


def test_changes_need_the_csrf_token_when_signed_in(coach: User) -> None:
    browser = Client(enforce_csrf_checks=True)
    browser.force_login(coach)
    assert browser.post("/api/athletes", {"name": "X"}, content_type="application/json").status_code == 403
    assert not Athlete.objects.exists()


def test_athletes_keep_their_bests_and_refuse_nonsense_in_words(api: APIClient, athlete: Athlete) -> None:
    changed = api.patch(
        f"/api/athletes/{athlete.pk}", {"bests": [{"lift": "clean", "kilos": 95, "on": "2026-11-01"}]}, format="json"
    ).json()
    assert {best["lift"]: best["kilos"] for best in changed["bests"]} == {"snatch": 80, "clean": 95}
    assert api.patch(f"/api/athletes/{athlete.pk}", {"stature_m": 160}, format="json").status_code == 400
    twice = api.post("/api/athletes", {"name": "Ida Fenn"}, format="json")
    assert twice.status_code == 400
    assert "already have an athlete called Ida Fenn" in str(twice.json())


def test_a_best_entered_by_mistake_is_taken_back_by_the_athletes_own_coach_alone(api: APIClient, athlete: Athlete, stranger: User) -> None:
    assert signed_in(stranger).delete(f"/api/athletes/{athlete.pk}/bests/snatch").status_code == 404
    assert athlete.bests.count() == 1
    assert api.delete(f"/api/athletes/{athlete.pk}/bests/snatch").status_code == 204
    assert api.get(f"/api/athletes/{athlete.pk}").json()["bests"] == []
    # An athlete is not deleted along with it, nor by itself.
    assert api.delete(f"/api/athletes/{athlete.pk}").status_code == 405


def test_the_rack_is_the_coachs_own_and_refuses_impossible_discs(api: APIClient, stranger: User) -> None:
    rack = api.get("/api/rack").json()
    rack["pairs"] = {"20": 1, "0.5": 2}
    assert api.put("/api/rack", rack, format="json").json()["pairs"] == {"20": 1, "0.5": 2}
    assert api.put("/api/rack", {**rack, "pairs": {"heavy": 1}}, format="json").status_code == 400
    assert len(signed_in(stranger).get("/api/rack").json()["pairs"]) > 2
