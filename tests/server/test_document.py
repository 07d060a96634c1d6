"""The API's document against the API: every address is in it, what is somebody else's answers as what is not there, and whatever is sent is
answered in words."""

from __future__ import annotations

import json
import random
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
import yaml
from bench.attack import ODD
from django.contrib.auth.models import User
from django.urls import URLResolver, get_resolver
from django.utils import timezone
from rest_framework.test import APIClient

from clips.models import Clip
from log.services import link_of
from people.models import Athlete
from plans.blocks import begin
from plans.models import Assignment
from reviews.models import Note
from reviews.services import publish

from .conftest import signed_in
from .test_plans import put

DOCUMENT = yaml.safe_load((Path(__file__).parents[2] / "docs" / "openapi.yaml").read_text("utf-8"))
OPERATIONS = [(path, method) for path, methods in DOCUMENT["paths"].items() for method in methods]


def patterns(of: list[Any], before: str = "/") -> Iterator[str]:
    for one in of:
        if isinstance(one, URLResolver):
            yield from patterns(one.url_patterns, before + str(one.pattern))
        else:
            yield before + str(one.pattern)


def plain(address: str) -> str:
    """An address without the names and kinds of what stands in it."""
    return re.sub(r"<[^>]*>|\{\w+\}|\(\?P<\w+>[^)]*\)", "*", address).replace("^", "").replace("\\Z", "").replace("$", "")


def test_every_address_of_the_api_is_in_its_document() -> None:
    there = {plain(one) for one in patterns(get_resolver().url_patterns)}
    told = {plain(path) for path in DOCUMENT["paths"]} | {"/api/schema"}
    assert {one for one in there if one.startswith("/api/") and "(" not in one} - told == set()


@pytest.fixture
def foreign(clip: Clip, athlete: Athlete, coach: User) -> dict[str, Any]:
    """What another coach has, by the names that addresses have for it."""
    task = put(clip)
    block = begin(clip, timezone.localdate(), 4, [0, 2, 4])
    note = Note.objects.create(clip=clip, frame=3, words="Wait.", by=coach)
    return {
        "clips": clip.pk, "athletes": athlete.pk, "blocks": block.pk, "assignments": task.pk, "notes": note.pk,
        "slots": block.slots.first().pk, "handed": publish(clip).token, "training": link_of(athlete).token,
    }  # fmt: skip


SMALL = {
    "frame": "3", "joint": "left_hip", "lift": "0", "event": "contact", "fault": "bar_looped", "measure": "loop_out",
    "exercise": "muscle_lift", "question": "contact", "ladder": "power_snatch", "step": "0", "place": "0", "said": "1", "mark": "1",
}  # fmt: skip


def address(path: str, ids: dict[str, Any]) -> str:
    def filled(found: re.Match[str]) -> str:
        before, name = found[1], found[2]
        if before == "athletes" and name == "lift":
            return f"{before}/snatch"
        return f"{before}/{ids.get(before, ids.get(name + 's', SMALL.get(name, '1')))}"

    return re.sub(r"(\w+)/\{(\w+)\}", filled, path)


@pytest.mark.parametrize(("path", "method"), [one for one in OPERATIONS if re.search(r"/(clips|athletes|blocks|assignments)/\{", one[0])])
def test_what_is_another_coachs_answers_as_what_is_not_there(stranger: User, foreign: dict[str, Any], path: str, method: str) -> None:
    missing = {name: str(uuid4()) if name == "clips" else 10**7 for name in foreign}
    there, nowhere = (getattr(signed_in(stranger), method)(address(path, ids), {}, format="json") for ids in (foreign, missing))
    assert 400 <= there.status_code < 500
    assert (there.status_code, there.content) == (nowhere.status_code, nowhere.content)
    assert Assignment.objects.filter(pk=foreign["assignments"]).exists()


def odd_bodies(operation: dict[str, Any], chance: random.Random, count: int) -> Iterator[Any]:
    """Bodies that an operation's own schema does not allow, and some that it might."""
    content = operation.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema", {})
    fields = DOCUMENT["components"]["schemas"].get(content.get("$ref", "").rpartition("/")[2], {}).get("properties", {})
    yield from ({}, [], "text", None)
    for _ in range(count):
        yield {name: chance.choice(ODD) for name in fields if chance.random() < 0.8} | ({"odd": 1} if chance.random() < 0.2 else {})


def hostile(api: APIClient, ids: dict[str, Any], count: int) -> int:
    """Sends odd bodies to every address that takes one, odd queries to every other; each is answered in words. Returns how many."""
    chance, sent = random.Random(1), 0
    for path, method in OPERATIONS:
        if path in ("/api/session", "/api/password") or method == "delete":
            # Who is signed in stays so, and what is asked about stays there.
            continue
        at, operation = address(path, ids), DOCUMENT["paths"][path][method]
        if method == "get":
            asked = [f"{at}?{row['name']}={chance.choice(['', '-1', 'x' * 5000, '%00', '٣', '1e999', '[]', '9999-12-31'])}"
                     for row in operation.get("parameters", []) if row["in"] == "query"]  # fmt: skip
            answers = [(one, api.get(one)) for one in asked]
        else:
            bodies = odd_bodies(operation, chance, count)
            answers = [
                (f"{method} {at} {json.dumps(body)[:200]}", getattr(api, method)(at, json.dumps(body), content_type="application/json"))
                for body in bodies
            ]
        for what, answer in answers:
            sent += 1
            assert answer.status_code < 500, what
            if answer.status_code >= 400 and "json" in answer.get("Content-Type", ""):
                assert re.search(r"[a-z]{2}", answer.content.decode()), what
    return sent


def test_whatever_body_is_sent_is_answered_in_words(api: APIClient, foreign: dict[str, Any]) -> None:
    assert hostile(api, foreign, 4) > 400
