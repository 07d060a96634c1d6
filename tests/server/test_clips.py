from __future__ import annotations

import hashlib
from pathlib import Path

import av
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test.utils import CaptureQueriesContext
from rest_framework.test import APIClient

from clips.models import Clip
from people.models import Athlete

from .conftest import CLIP


def upload(api: APIClient, athlete: Athlete, content: bytes, name: str = "lift.mp4", **facts: object):  # type: ignore[no-untyped-def]
    told = {"athlete": athlete.pk, "lift": "snatch", "load": 76, "load_unit": "kg", "made": True, **facts}
    return api.post("/api/clips", {**told, "file": SimpleUploadedFile(name, content)}, format="multipart")


def test_a_clip_comes_in_and_waits_for_its_analysis(api: APIClient, athlete: Athlete) -> None:
    answer = upload(api, athlete, CLIP.read_bytes(), filmed_on="2026-11-20", load=167.5, load_unit="lb")
    assert answer.status_code == 201, answer.content
    told = answer.json()
    assert (told["athlete_name"], told["load"], told["load_unit"], told["job"]["state"], told["measured"]) == (
        "Ida Fenn",
        167.5,
        "lb",
        "queued",
        False,
    )
    clip = Clip.objects.get(pk=told["id"])
    assert hashlib.sha256(clip.original.read_bytes()).hexdigest() == clip.sha256 == hashlib.sha256(CLIP.read_bytes()).hexdigest()
    assert clip.original.stat().st_mode & 0o222 == 0
    assert api.get("/api/clips").json()["results"][0]["id"] == told["id"]


def test_the_same_file_twice_is_two_clips_and_one_original(api: APIClient, athlete: Athlete) -> None:
    first, second = (upload(api, athlete, CLIP.read_bytes()).json()["id"] for _ in range(2))
    assert first != second
    assert len({Clip.objects.get(pk=pk).original for pk in (first, second)}) == 1


def test_a_film_in_another_container_is_taken_in(api: APIClient, athlete: Athlete, tmp_path: Path) -> None:
    target = tmp_path / "lift.mkv"
    with av.open(str(CLIP)) as source, av.open(str(target), "w") as out:
        stream = out.add_stream_from_template(source.streams.video[0])
        for packet in source.demux(video=0):
            if packet.dts is not None:
                packet.stream = stream
                out.mux(packet)
    answer = upload(api, athlete, target.read_bytes(), "lift.MKV")
    assert answer.status_code == 201
    clip = Clip.objects.get(pk=answer.json()["id"])
    assert clip.original.suffix == ".mkv"
    assert clip.poster_file.exists()


@pytest.mark.parametrize(
    ("content", "name", "words"),
    [
        (b"no film at all" * 100, "notes.mp4", "cannot be read as a video"),
        (CLIP.read_bytes()[:200_000], "cut.mp4", "cannot be read as a video"),
        (CLIP.read_bytes(), "lift.txt", "no ending of a video file"),
    ],
)
def test_a_file_that_cannot_be_used_is_refused_in_words_and_leaves_nothing(
    api: APIClient,
    athlete: Athlete,
    settings,
    content: bytes,
    name: str,
    words: str,  # type: ignore[no-untyped-def]
) -> None:
    answer = upload(api, athlete, content, name)
    assert answer.status_code == 422
    assert words in answer.json()["detail"]
    assert not Clip.objects.exists()
    assert not list(Path(settings.MEDIA_DIR).rglob("*.mp4"))


@pytest.mark.parametrize(("facts", "field"), [({"lift": "cartwheel"}, "lift"), ({"load": -3}, "load"), ({"load_unit": "st"}, "load_unit")])
def test_facts_that_make_no_sense_are_refused(api: APIClient, athlete: Athlete, facts: dict, field: str) -> None:
    answer = upload(api, athlete, CLIP.read_bytes(), **facts)
    assert answer.status_code == 400
    assert field in answer.json()


def test_what_is_said_of_a_clip_changes_its_analysis_at_once(api: APIClient, clip: Clip) -> None:
    before = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]
    assert api.patch(f"/api/clips/{clip.pk}", {"facing": "left", "load": 38}, format="json").status_code == 200
    after = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]
    assert (before["clip"]["facing"], after["clip"]["facing"]) == ("right", "left")
    one, two = (document["lifts"][0]["measures"] for document in (before, after))
    assert two["peak_power"]["value"] == pytest.approx(one["peak_power"]["value"] / 2, rel=1e-3)
    assert two["bar_x@apex"]["value"] == pytest.approx(-one["bar_x@apex"]["value"], abs=1e-3)


def test_the_queue_asks_the_database_as_often_for_twenty_clips_as_for_one(
    api: APIClient,
    clip: Clip,
    django_assert_num_queries,  # type: ignore[no-untyped-def]
) -> None:
    from django.db import connection

    with CaptureQueriesContext(
        connection,
    ) as one:
        api.get("/api/clips")
    for _ in range(19):
        Clip.objects.get(pk=clip.pk)
        copy = Clip.objects.get(pk=clip.pk)
        copy.pk = None
        copy._state.adding = True
        copy.save()
        clip.job.pk = None
        clip.job._state.adding = True
        clip.job.clip = copy
        clip.job.save()
    with django_assert_num_queries(len(one)):
        assert len(api.get("/api/clips").json()["results"]) == 20


def test_the_copy_for_stepping_is_served_by_ranges(api: APIClient, clip: Clip) -> None:
    clip.proxy_file.write_bytes(bytes(range(256)) * 4)
    clip.proxy_times_file.write_text("[0.0]")
    address = f"/api/clips/{clip.pk}/video.mp4"
    whole = api.get(address)
    assert whole["Accept-Ranges"] == "bytes"
    assert len(b"".join(whole.streaming_content)) == 1024
    for asked, expected, content_range in (
        ("bytes=10-19", bytes(range(10, 20)), "bytes 10-19/1024"),
        ("bytes=1020-", bytes(range(252, 256)), "bytes 1020-1023/1024"),
        ("bytes=-4", bytes(range(252, 256)), "bytes 1020-1023/1024"),
        ("bytes=1000-5000", bytes(range(232, 256)), "bytes 1000-1023/1024"),
    ):
        part = api.get(address, headers={"Range": asked})
        assert (part.status_code, part["Content-Range"]) == (206, content_range)
        assert b"".join(part.streaming_content) == expected
    assert api.get(address, headers={"Range": "bytes=4000-"}).status_code == 416


def test_the_copy_for_stepping_is_not_served_before_it_is_whole(api: APIClient, clip: Clip) -> None:
    clip.proxy_file.write_bytes(b"half of it")
    assert api.get(f"/api/clips/{clip.pk}/video.mp4").status_code == 404
    assert api.get(f"/api/clips/{clip.pk}/bench").json()["playback_s"] is None
