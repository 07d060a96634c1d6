"""What is said over a clip, what a clip's microphone heard, and what becomes of all of it."""

from __future__ import annotations

import io
import json
import re
import warnings

import av
import c3d
import numpy as np
import pytest
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from rest_framework.test import APIClient

from atleta.document import joint_places_mm
from clips.models import Clip
from clips.services import forget, receive_clip
from people.models import Athlete
from reviews.models import HandOver
from reviews.tasks import film_spoken

from .conftest import CLIP, film_of, signed_in


def recording(seconds: float = 1.0, rate: int = 48_000) -> bytes:
    """A tone as a browser records it: Opus in WebM."""
    made = io.BytesIO()
    with av.open(made, "w", format="webm") as out:
        stream = out.add_stream("libopus", rate=rate)
        stream.layout = "mono"
        tone = (0.4 * np.sin(2 * np.pi * 440 * np.arange(round(seconds * rate)) / rate)).astype(np.float32)
        for start in range(0, len(tone), 960):
            block = av.AudioFrame.from_ndarray(tone[None, start : start + 960], format="flt", layout="mono")
            block.sample_rate, block.pts = rate, start
            out.mux(stream.encode(block))
        out.mux(stream.encode(None))
    return made.getvalue()


def say(  # type: ignore[no-untyped-def]
    api: APIClient, clip: Clip, shown: object = ((0.0, 60), (0.4, 61), (0.8, 90)), sound: bytes | None = None, looked: object = ()
):
    form = {
        "frame": 60, "shown": json.dumps(shown), "looked": json.dumps(looked),
        "sound": SimpleUploadedFile("voice", recording() if sound is None else sound, "audio/webm"),
    }  # fmt: skip
    return api.post(f"/api/clips/{clip.pk}/voice", form, format="multipart")


def look(s: float, zoom: float = 1.0, drawn: tuple[str, ...] = ()) -> dict:
    return {"s": s, "zoom": zoom, "x": 0.5, "y": 0.5, "drawn": list(drawn)}


def test_a_spoken_note_is_heard_again_with_what_was_shown(api: APIClient, clip: Clip, stranger: User) -> None:
    (note,) = say(api, clip).data
    assert note["seconds"] == pytest.approx(1.0, abs=0.1)
    assert note["shown"] == [[0.0, 60], [0.4, 61], [0.8, 90]]
    address = f"/api/clips/{clip.pk}/notes/{note['id']}/voice.m4a"
    with av.open(io.BytesIO(b"".join(api.get(address).streaming_content))) as heard:
        samples = np.concatenate([frame.to_ndarray()[0] for frame in heard.decode(audio=0)])
    assert 0.2 < np.abs(samples).max() < 0.7
    assert signed_in(stranger).get(address).status_code == 404
    file = clip.notes.get().voice_file
    api.delete(f"/api/clips/{clip.pk}/notes/{note['id']}")
    assert not file.exists()
    assert api.get(address).status_code == 404


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({"sound": b"no sound at all"}, "cannot be read"),
        ({"sound": CLIP.with_suffix(".truth.json").read_bytes()[:2000]}, "cannot be read"),
        ({"shown": [[0.5, 60], [0.1, 61]]}, "in order"),
        ({"shown": [[0.0, 99_999]]}, "frames of the clip"),
        ({"shown": "everything"}, "list of times"),
        ({"looked": "closely"}, "list of moments"),
        ({"looked": [look(0.0, zoom=0.2)]}, "list of moments"),
        ({"looked": [look(0.5), look(0.1)]}, "in order"),
    ],
)
def test_what_cannot_be_kept_is_refused_in_words(api: APIClient, clip: Clip, wrong: dict, says: str) -> None:
    answer = say(api, clip, **wrong)
    assert answer.status_code == 400
    assert says in str(answer.data)
    assert clip.notes.count() == 0


def test_too_long_a_recording_is_refused(api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("reviews.services.MOST_SPOKEN_S", 0.5)
    assert "Say it in two" in say(api, clip).data["detail"]


def test_too_large_a_recording_is_refused(api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("reviews.serializers.MOST_SPOKEN_BYTES", 100)
    answer = say(api, clip)
    assert answer.status_code == 400
    assert "too large" in str(answer.data)


def test_a_spoken_note_is_a_clip_of_what_stood_on_the_stage(api: APIClient, clip: Clip) -> None:
    (note,) = say(api, clip).data
    answer = film_of(api, f"/api/clips/{clip.pk}/drawn.mp4?voice={note['id']}")
    with av.open(io.BytesIO(answer)) as film:
        pictures = [frame.to_ndarray(format="gray").astype(int) for frame in film.decode(video=0)]
    with av.open(io.BytesIO(answer)) as film:
        heard = sum(frame.samples for frame in film.decode(audio=0))
    assert len(pictures) == 15
    assert heard == pytest.approx(48_000, abs=5_000)
    # Frame 60 until 0.4 s, 61 until 0.8 s, then 90: the picture changes there and nowhere else.
    changes = np.abs(np.diff(pictures, axis=0)).mean(axis=(1, 2))
    assert int(np.argmax(changes)) == 11
    assert changes[11] > 5 * max(changes[6:11])
    assert api.get(f"/api/clips/{clip.pk}/drawn.mp4?voice=99999").status_code == 404


def test_a_spoken_note_shows_what_was_enlarged_and_drawn_and_no_more(api: APIClient, clip: Clip) -> None:
    looked = [look(0.0), look(0.35, drawn=("path", "angles")), look(0.65, zoom=2.0)]
    (note,) = say(api, clip, shown=[[0.0, 150]], looked=looked).data
    assert note["looked"] == looked
    answer = film_of(api, f"/api/clips/{clip.pk}/drawn.mp4?voice={note['id']}")
    with av.open(io.BytesIO(answer)) as film:
        pictures = [frame.to_ndarray(format="bgr24").astype(int) for frame in film.decode(video=0)]
    plain, pathed, close = (pictures[at] for at in (2, 7, 13))
    height, width = (side // 4 * 4 for side in plain.shape[:2])
    middle = plain[height // 4 : height // 4 * 3, width // 4 : width // 4 * 3]
    halved = close[:height, :width].reshape(height // 2, 2, width // 2, 2, 3).mean(axis=(1, 3))
    # The path alone is added, and covers little; then the middle half fills the picture.
    assert 0.0005 < (np.abs(pathed - plain).max(axis=2) > 60).mean() < 0.02
    assert np.abs(halved - middle).mean() < 0.25 * np.abs(close - plain).mean()


def test_what_was_said_goes_out_with_the_review_and_stays_as_it_was(api: APIClient, clip: Clip) -> None:
    (note,) = say(api, clip).data
    assert api.post(f"/api/clips/{clip.pk}/hand-over").status_code == 201
    token = HandOver.objects.get().token
    reader = APIClient()
    assert reader.get(f"/api/handed/{token}").data["notes"][0]["voice"] == note["id"]
    api.delete(f"/api/clips/{clip.pk}/notes/{note['id']}")
    address = f"/api/handed/{token}/voices/{note['id']}.m4a"
    assert reader.get(address).status_code == 200
    api.delete(f"/api/clips/{clip.pk}/hand-over")
    assert reader.get(address).status_code == 404


def test_what_was_shown_while_speaking_is_seen_by_the_athlete_once_the_worker_has_filmed_it(
    api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch
) -> None:
    (note,) = say(api, clip, looked=[look(0.0, zoom=2.0, drawn=("path",))]).data
    api.post(f"/api/clips/{clip.pk}/hand-over")
    handed, reader = HandOver.objects.get(), APIClient()
    film = f"/api/handed/{handed.token}/films/{note['id']}.mp4"
    assert reader.get(f"/api/handed/{handed.token}").data["notes"][0]["film"] is False
    assert reader.get(film).status_code == 404
    film_spoken(handed.pk)
    assert reader.get(f"/api/handed/{handed.token}").data["notes"][0]["film"] is True
    # In parts, without which a phone plays nothing.
    assert reader.get(film, HTTP_RANGE="bytes=0-99").status_code == 206
    with av.open(io.BytesIO(b"".join(reader.get(film).streaming_content))) as seen:
        assert {stream.type for stream in seen.streams} == {"audio", "video"}
    kept = handed.files()
    assert len(kept) == 3
    # Deleted while it is being filmed, it leaves nothing behind either.
    monkeypatch.setattr("reviews.tasks.spoken_clip", lambda clip, note: forget(clip) or b"a film")
    film_spoken(handed.pk)
    assert handed.files() == []


def test_what_was_drawn_and_written_goes_out_with_its_pictures(api: APIClient, clip: Clip) -> None:
    arrow = {"shape": "arrow", "ink": "amber", "points": [[100.0, 50.0], [300.0, 200.0]]}
    api.post(f"/api/clips/{clip.pk}/notes", {"frame": 60, "words": "Wait."}, format="json")
    api.post(f"/api/clips/{clip.pk}/marks", arrow | {"frame": 90}, format="json")
    api.post(f"/api/clips/{clip.pk}/hand-over")
    handed, reader = HandOver.objects.get(), APIClient()
    written, drawn = reader.get(f"/api/handed/{handed.token}").data["notes"]
    assert (written["frame"], written["words"], written["drawing"]["marks"]) == (60, "Wait.", [])
    assert (drawn["frame"], drawn["words"], drawn["drawing"]["marks"]) == (90, "", [arrow])
    assert len(drawn["drawing"]["lifter"]) > 8
    for frame, status in ((60, 200), (90, 200), (91, 404)):
        assert reader.get(f"/api/handed/{handed.token}/moments/{frame}.jpg").status_code == status
    api.delete(f"/api/clips/{clip.pk}/hand-over")
    assert reader.get(f"/api/handed/{handed.token}/moments/60.jpg").status_code == 404


def test_every_point_handed_over_has_its_picture_and_what_was_measured(api: APIClient, clip: Clip) -> None:
    found = [row["fault"] for row in clip.analysis.document["lifts"][0]["findings"] if row["level"] == "fault"]
    assert len(found) > 1
    for fault in found:
        api.put(f"/api/clips/{clip.pk}/verdicts/0/{fault}", {"decision": "confirmed"}, format="json")
    api.post(f"/api/clips/{clip.pk}/hand-over")
    handed = HandOver.objects.get()
    for place, point in enumerate(handed.content["points"]):
        assert APIClient().get(f"/api/handed/{handed.token}/pictures/{place}.jpg").status_code == 200
        assert len(point["drawing"]["line"]) > 0
        assert not re.search(r"±|%|ms\b|\d\.\d\d", f"{point['says']} {point['cue']} {point['why']}")
    assert APIClient().get(f"/api/handed/{handed.token}/pictures/9.jpg").status_code == 404


def test_a_clips_sound_is_loud_where_the_bar_lands(api: APIClient, clip: Clip, stranger: User) -> None:
    times = clip.analysis.document["clip"]["frame_time_s"]
    assert api.get(f"/api/clips/{clip.pk}/loudness").data["loudness"] is None
    clip.proxy_times_file.write_text(json.dumps(times))
    loud = api.get(f"/api/clips/{clip.pk}/loudness").data["loudness"]
    assert len(loud) == len(times)
    # The bar is let go after the lift and lands; nothing before is half as loud.
    assert np.argmax(loud) > clip.analysis.document["lifts"][0]["events"]["release"]["frame"]
    with av.open(io.BytesIO(api.get(f"/api/clips/{clip.pk}/sound.m4a").content)) as heard:
        assert heard.duration / 1e6 == pytest.approx(times[-1], abs=0.2)
    for name in ("loudness", "sound.m4a"):
        assert signed_in(stranger).get(f"/api/clips/{clip.pk}/{name}").status_code == 404


def test_joints_are_read_by_another_program(api: APIClient, clip: Clip) -> None:
    answer = api.get(f"/api/clips/{clip.pk}/joints.c3d")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        reader = c3d.Reader(io.BytesIO(answer.content))
        frames = [points for _, points, _ in reader.read_frames()]
    names, places, rate = joint_places_mm(clip.analysis.document)
    assert [label.strip() for label in reader.point_labels] == list(names)
    assert reader.point_rate == pytest.approx(rate, abs=0.01)
    assert len(frames) == len(places)
    for frame in (0, len(frames) // 2):
        np.testing.assert_allclose(frames[frame][:, [0, 2]], places[frame], atol=0.01)


def test_a_lift_is_a_model_only_when_its_lifter_agrees(api: APIClient, clip: Clip) -> None:
    address = f"/api/clips/{clip.pk}"
    refused = api.patch(address, {"model_name": "A calm pull"}, format="json")
    assert refused.status_code == 400
    assert "Ask the lifter first" in str(refused.data)
    told = api.patch(address, {"model_name": "A calm pull", "model_agreed": True}, format="json").data
    assert (told["model_name"], told["model_agreed"]) == ("A calm pull", True)
    # Who no longer agrees is no longer shown.
    assert api.patch(address, {"model_agreed": False}, format="json").status_code == 400
    assert api.patch(address, {"model_name": "", "model_agreed": False}, format="json").status_code == 200


def test_deleting_a_clip_takes_all_of_it_away_but_not_what_another_clip_needs(api: APIClient, clip: Clip, athlete: Athlete) -> None:
    say(api, clip)
    twin = receive_clip(CLIP, CLIP.name, athlete, lift="snatch", load=76.0)
    assert api.delete(f"/api/clips/{clip.pk}").status_code == 204
    assert not clip.voices_dir.exists()
    assert not clip.bodies_dir.exists()
    assert twin.original.exists()
    assert api.delete(f"/api/clips/{twin.pk}").status_code == 204
    assert not twin.original.exists()
    assert not twin.derived_dir.exists()


def test_positions_that_were_not_found_are_offered_and_can_be_set(api: APIClient, clip: Clip) -> None:
    absent = api.get(f"/api/clips/{clip.pk}/bench").data["absent"]
    assert "hold_start" in absent[0]
    assert "lift_off" not in absent[0]
    told = api.put(f"/api/clips/{clip.pk}/events/0/hold_start", {"frame": 150}, format="json").data
    assert told["document"]["lifts"][0]["events"]["hold_start"]["source"] == "coach"
    assert "hold_start" not in told["absent"][0]
