"""A small world for the server's tests: two coaches who must not see each other, and one clip measured from prepared tracks."""

from __future__ import annotations

import gzip
import json
from datetime import date
from functools import lru_cache
from pathlib import Path

import pytest
from django.contrib.auth.models import User
from rest_framework.test import APIClient

from atleta.analysis import track_clip
from atleta.footage import ClipInfo, probe
from clips.models import Clip
from clips.services import receive_clip
from jobs.errands import run_errand
from jobs.models import Errand
from jobs.services import State
from people.models import Athlete, Best
from reviews.services import rebuild

DEMO = Path(__file__).parents[2] / "demo" / "clips"
CLIP = DEMO / "ida-snatch-76.mp4"


@lru_cache(maxsize=1)
def prepared_tracks() -> bytes:
    return gzip.compress(json.dumps(track_clip(CLIP, probe(CLIP)).to_json()).encode(), 1)


# The body fitted to the clip as it comes in, by file name: found once, it is there for every test.
BODIES: dict[str, bytes] = {}


@pytest.fixture(autouse=True)
def own_media(settings, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    settings.MEDIA_DIR = tmp_path / "media"


@pytest.fixture
def coach(db) -> User:  # type: ignore[no-untyped-def]
    return User.objects.create_user("maren", password="saltmarsh-lane")


@pytest.fixture
def stranger(db) -> User:  # type: ignore[no-untyped-def]
    return User.objects.create_user("other", password="another-lane-1")


@pytest.fixture
def athlete(coach: User) -> Athlete:
    athlete = Athlete.objects.create(coach=coach, name="Ida Fenn", stature_m=1.60)
    Best.objects.create(athlete=athlete, lift="snatch", kilos=80, on=date(2026, 10, 1))
    return athlete


def opened(api: APIClient, clip: Clip) -> dict:
    """What a coach sees who opens a clip: judged anew where it was judged by something that no longer stands."""
    told = api.get(f"/api/clips/{clip.pk}/bench").json()
    return api.post(f"/api/clips/{clip.pk}/bench").json() if told["outdated"] else told


def signed_in(user: User) -> APIClient:
    client = APIClient()
    client.force_login(user)
    return client


@pytest.fixture
def api(coach: User) -> APIClient:
    return signed_in(coach)


@pytest.fixture
def clip(athlete: Athlete) -> Clip:
    """A measured clip, ready on the bench, its copy for stepping aside."""
    clip = receive_clip(CLIP, CLIP.name, athlete, lift="snatch", load=76.0, made=True)
    clip.tracks_file.write_bytes(prepared_tracks())
    clip.job.state = State.DONE
    clip.job.save()
    clip.bodies_dir.mkdir(parents=True)
    for name, content in BODIES.items():
        (clip.bodies_dir / name).write_bytes(content)
    rebuild(clip)
    BODIES.update({file.name: file.read_bytes() for file in clip.bodies_dir.iterdir()})
    return Clip.objects.get(pk=clip.pk)


@pytest.fixture
def info() -> ClipInfo:
    return probe(CLIP)


def film_of(api: APIClient, address: str) -> bytes:
    """A film that the server makes on being asked for it."""
    assert api.get(address).status_code == 202
    assert api.get(address).status_code == 202
    (errand,) = Errand.objects.filter(kind="draw")
    run_errand(errand)
    answer = api.get(address)
    assert (answer.status_code, answer["Content-Type"]) == (200, "video/mp4")
    return b"".join(answer.streaming_content)
