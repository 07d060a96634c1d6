"""What is kept from the bench: notes at frames, and files that other programs open."""

from __future__ import annotations

import io
import re
from datetime import timedelta

import av
import cv2
import numpy as np
import pytest
from django.contrib.auth.models import User
from django.utils import timezone
from rest_framework.test import APIClient

from atleta.document import captions, joints_trc
from clips.derived import KeptBodies
from clips.models import Clip
from jobs.errands import run_errand
from jobs.models import Errand
from reviews.pictures import angle_deg, figures_at, sheet

from .conftest import film_of, signed_in


def test_words_stay_at_their_frame_and_go_out_with_the_review(api: APIClient, clip: Clip, stranger: User) -> None:
    address = f"/api/clips/{clip.pk}/notes"
    api.post(address, {"frame": 120, "words": "Wait here."}, format="json")
    rows = api.post(address, {"frame": 60, "words": "Good start."}, format="json").data
    assert [(row["frame"], row["words"]) for row in rows] == [(60, "Good start."), (120, "Wait here.")]
    told = api.get(f"/api/clips/{clip.pk}/review").data["preview"]["notes"]
    times = clip.analysis.document["clip"]["frame_time_s"]
    assert [(row["time_s"], row["words"]) for row in told] == [(times[60], "Good start."), (times[120], "Wait here.")]
    beyond = api.post(address, {"frame": 9999, "words": "Nowhere."}, format="json")
    assert beyond.status_code == 400
    assert "frames 0 to" in beyond.data["detail"]
    assert signed_in(stranger).get(address).status_code == 404
    left = api.delete(f"{address}/{rows[0]['id']}").data
    assert [row["words"] for row in left] == ["Wait here."]


def test_notes_are_captions(api: APIClient, clip: Clip) -> None:
    for frame, words in ((60, "Good start."), (90, "Wait --> here.")):
        api.post(f"/api/clips/{clip.pk}/notes", {"frame": frame, "words": words}, format="json")
    lines = api.get(f"/api/clips/{clip.pk}/notes.vtt").content.decode().splitlines()
    assert lines[0] == "WEBVTT"
    # The first stands until the second, the second for 2.5 s.
    assert lines[2] == "00:00:01.000 --> 00:00:01.500"
    assert lines[5] == "00:00:01.500 --> 00:00:04.000"
    assert lines[6] == "Wait → here."


def test_captions_after_an_hour_and_beyond_the_end() -> None:
    document = {"clip": {"frame_time_s": [0.0, 3661.5]}}
    assert captions(document, [(7, "Late.")]).splitlines()[2] == "01:01:01.500 --> 01:01:04.000"


def test_joints_lie_where_they_are_in_millimetres() -> None:
    # 2 mm a pixel, facing left: 100 px to the left of the bar's first place is 200 mm forward; 50 px above the lowest line 100 mm up.
    document = {
        "clip": {"facing": "left", "view": {"kind": "side"}, "height": 720, "frame_time_s": [0.0, 0.5, 1.0]},
        "scale": {"m_per_px": 0.002, "body_m_per_px": None, "plumb_deg": 0.0},
        "disc": {"x_px": [600.0, 590.0, None], "y_px": [670.0, 620.0, None]},
        "joints": {"left_hip": {"x_px": [500.0, None, 480.0], "y_px": [670.0, None, 420.0]}},
    }
    lines = [line.split("\t") for line in joints_trc(document).splitlines()]
    assert lines[3][2::3] == ["bar", "left_hip"]
    assert lines[2][:4] == ["2.0000", "2.0000", "3", "2"]
    assert lines[6] == ["1", "0.00000", "-0.00", "100.00", "0.00", "200.00", "100.00", "0.00"]
    assert lines[7][5:] == ["", "", ""]
    assert lines[8][5:] == ["240.00", "600.00", "0.00"]


def test_what_lies_on_a_leaning_plumb_line_is_straight_above() -> None:
    # The line leans 2° to the right as it goes up: 500 px up along it is 0 mm forward and 1000 mm high.
    lean = np.radians(2.0)
    x, y = 600 + 500 * np.sin(lean), 720 - 500 * np.cos(lean)
    document = {
        "clip": {"facing": "right", "view": {"kind": "side"}, "height": 720, "frame_time_s": [0.0]},
        "scale": {"m_per_px": 0.002, "body_m_per_px": None, "plumb_deg": 2.0},
        "disc": {"x_px": [600.0], "y_px": [720.0]},
        "joints": {"right_ear": {"x_px": [x], "y_px": [y]}},
    }
    row = joints_trc(document).splitlines()[6].split("\t")
    assert [abs(float(cell)) for cell in row[5:7]] == [pytest.approx(0.0, abs=0.01), pytest.approx(1000.0, abs=0.01)]


def test_the_joints_file_has_a_row_for_every_frame(api: APIClient, clip: Clip) -> None:
    text = api.get(f"/api/clips/{clip.pk}/joints.trc").content.decode()
    rows = [line.split("\t") for line in text.splitlines()[6:]]
    document = clip.analysis.document
    assert len(rows) == document["clip"]["frame_count"]
    assert {len(row) for row in rows} == {2 + 3 * (1 + len(document["joints"]))}


def test_the_positions_are_one_picture(api: APIClient, clip: Clip) -> None:
    answer = api.get(f"/api/clips/{clip.pk}/positions.png")
    picture = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR)
    events = clip.analysis.document["lifts"][0]["events"]
    rows = -(-len({event["frame"] for event in events.values()}) // 5)
    assert picture.shape[1] == 5 * 320
    assert picture.shape[0] > rows * 320
    assert picture.std() > 20


def test_the_positions_are_one_page_of_paper(api: APIClient, clip: Clip) -> None:
    page = api.get(f"/api/clips/{clip.pk}/positions.pdf").content
    assert page.startswith(b"%PDF-")
    assert len(re.findall(rb"/Type ?/Page\b(?!s)", page)) == 1
    # In points of a 72nd of an inch, no larger than A4 lying across.
    width, height = map(float, re.search(rb"/MediaBox \[ ?0 0 ([\d.]+) ([\d.]+)", page).groups())
    assert width <= 842
    assert height <= 595


def test_a_position_shows_first_what_a_finding_rests_on() -> None:
    lift = {
        "events": {"knee": {"frame": 80}},
        "measures": {
            name: {"value": 1.0, "unit": "cm", "frame": 80} for name in ("peak_height", "bar_x@knee", "loop_width", "drop_to_meet")
        },
        "findings": [
            {"level": "fault", "evidence": [{"measure": "loop_width"}]},
            {"level": "fine", "evidence": [{"measure": "bar_x@knee"}]},
        ],
    }
    told = figures_at(lift, "knee")
    assert [wrong for _, wrong in told] == [True, False, False]
    assert told[0][0].startswith("Loop width: 1.0 cm")
    assert told[1][0].startswith("Forward/back at the knee")


def test_the_lift_is_a_clip_with_what_was_measured_drawn_in(api: APIClient, clip: Clip) -> None:
    api.post(f"/api/clips/{clip.pk}/notes", {"frame": 100, "words": "Here."}, format="json")
    answer = film_of(api, f"/api/clips/{clip.pk}/drawn.mp4")
    lift = clip.analysis.document["lifts"][0]
    times = clip.analysis.document["clip"]["frame_time_s"]
    with av.open(io.BytesIO(answer)) as film:
        frames = list(film.decode(video=0))
    assert len(frames) == lift["end_frame"] - lift["start_frame"] + 1
    assert float(frames[-1].pts * frames[-1].time_base) == pytest.approx(times[lift["end_frame"]] - times[lift["start_frame"]], abs=0.002)
    # The path is drawn in a colour that the room does not have.
    last = frames[-1].to_ndarray(format="bgr24").astype(int)
    assert ((last[..., 2] > 200) & (last[..., 1] > 150) & (last[..., 0] < 150)).sum() > 300
    assert not list(clip.derived_dir.glob(".drawn*"))


def test_a_film_that_cannot_be_made_is_said_to_be_so_and_not_tried_without_end(
    api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch
) -> None:
    def breaks(*_: object) -> bytes:
        raise RuntimeError

    monkeypatch.setattr("reviews.films.drawn_clip", breaks)
    address = f"/api/clips/{clip.pk}/drawn.mp4"
    assert api.get(address).status_code == 202
    run_errand(Errand.objects.get(kind="draw"))
    told = api.get(address)
    assert (told.status_code, "could not be made" in told.json()["detail"]) == (500, True)
    Errand.objects.update(finished_at=timezone.now() - timedelta(hours=1))
    assert api.get(address).status_code == 202


def test_files_are_the_coachs_own(clip: Clip, stranger: User) -> None:
    other = signed_in(stranger)
    for name in ("positions.png", "positions.pdf", "drawn.mp4", "joints.trc", "joints.c3d", "notes.vtt"):
        assert other.get(f"/api/clips/{clip.pk}/{name}").status_code == 404
    assert APIClient().get(f"/api/clips/{clip.pk}/drawn.mp4").status_code == 404


def test_no_such_lift_is_said(api: APIClient, clip: Clip) -> None:
    assert "No such lift" in api.get(f"/api/clips/{clip.pk}/positions.png?lift=7").content.decode()


def test_each_lift_of_a_clip_is_kept_under_a_name_of_its_own(api: APIClient, clip: Clip) -> None:
    clip.analysis.document["lifts"] *= 2
    clip.analysis.save()
    names = [api.get(f"/api/clips/{clip.pk}/positions.png?lift={number}")["Content-Disposition"] for number in (0, 1)]
    assert ["lift-1-positions.png" in names[0], "lift-2-positions.png" in names[1]] == [True, True]


def test_what_is_drawn_stays_with_its_frame_and_goes_into_the_pictures(api: APIClient, clip: Clip, stranger: User) -> None:
    address = f"/api/clips/{clip.pk}/marks"
    frame = clip.analysis.document["lifts"][0]["events"]["contact"]["frame"]
    plain = sheet(clip, 0)
    angle = {"frame": frame, "shape": "angle", "points": [[300, 100], [300, 200], [400, 200]]}
    assert api.post(address, angle, format="json").status_code == 201
    rows = api.post(address, {"frame": frame, "shape": "circle", "points": [[300, 150], [330, 150]]}, format="json").data
    assert [row["shape"] for row in rows] == ["angle", "circle"]
    assert sheet(clip, 0) != plain
    assert angle_deg(angle["points"]) == pytest.approx(90)
    assert signed_in(stranger).get(address).status_code == 404
    assert signed_in(stranger).delete(f"{address}/{rows[0]['id']}").status_code == 404
    assert [row["shape"] for row in api.delete(f"{address}/{rows[0]['id']}").data] == ["circle"]


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({"frame": 99999}, "frames 0 to"),
        ({"points": [[10, 10], [20, 20], [30, 30]]}, "2 points"),
        ({"points": [[10, 10], [99999, 20]]}, "inside the picture"),
    ],
)
def test_a_mark_that_cannot_be_is_refused_in_words(api: APIClient, clip: Clip, wrong: dict, says: str) -> None:
    refused = api.post(f"/api/clips/{clip.pk}/marks", {"frame": 1, "shape": "line", "points": [[1, 1], [9, 9]]} | wrong, format="json")
    assert refused.status_code == 400
    assert says in str(refused.data)
    assert clip.marks.count() == 0


def test_what_a_coach_likes_to_see_is_their_own(api: APIClient, stranger: User) -> None:
    assert api.get("/api/looks").data == {"drawn": None, "traces": [], "angles": None}
    liked = {"drawn": ["path", "angles", "relations"], "traces": ["height", "trunk", "shin"], "angles": ["shin", "elbow"]}
    assert api.put("/api/looks", liked, format="json").status_code == 200
    assert api.get("/api/looks").data == liked
    assert signed_in(stranger).get("/api/looks").data["drawn"] is None
    assert api.put("/api/looks", {"drawn": ["fireworks"], "traces": []}, format="json").status_code == 400
    assert api.put("/api/looks", liked | {"angles": ["smile"]}, format="json").status_code == 400


def test_bodies_of_an_earlier_version_are_not_looked_at(clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    assert len(list(KeptBodies(clip.bodies_dir).kept(""))) == 1
    assert list(KeptBodies(clip.bodies_dir).kept("another scene")) == []
    scene = next(clip.bodies_dir.iterdir()).name.partition("-")[2][:8]
    assert [len(list(KeptBodies(clip.bodies_dir).kept("", unlike=unlike))) for unlike in (scene, "another scene")] == [0, 1]
    monkeypatch.setattr("clips.derived.__version__", "99.0")
    assert list(KeptBodies(clip.bodies_dir).kept("")) == []
    kept = next(clip.bodies_dir.iterdir()).name.partition("-")[2].removesuffix(".json")
    assert KeptBodies(clip.bodies_dir).recall(kept) == (False, None)


def test_the_latest_few_bodies_of_every_scene_are_kept(clip: Clip) -> None:
    bodies = KeptBodies(clip.bodies_dir)
    had = next(clip.bodies_dir.iterdir())
    earlier = had.with_name("0.1-scene-old.json")
    earlier.write_bytes(had.read_bytes())
    for number in range(KeptBodies.MOST + 2):
        bodies.keep(f"turned-{number}", None)
    assert [bodies.recall(f"turned-{number}")[0] for number in range(4)] == [False, False, True, True]
    assert had.exists()
    assert not earlier.exists()
