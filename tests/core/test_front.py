"""Clips from the front: the bar as a line, bar and lifter to either side, and what is told of them and what is not."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
import pytest

from atleta.analysis import Settings, analyse, track_clip
from atleta.analysis.findings import findings_of
from atleta.document import bar_csv, joints_trc, validate_document
from atleta.footage import probe, read_frames
from atleta.measures import LiftData, Value, declarations, measure_lift
from atleta.motion import BarMotion, Calibration, FrontMotion, Scale, front_motion, scale_from_front
from atleta.motion.front import KNEES_IN_CM, SHOULDERS_TO_ANKLES, USUAL_DISTANCE_M
from atleta.simulation import Camera, Shoot, Wanted, asked_set, film, play
from atleta.tracking import Box, FrontTrack, RawTracks, look_from_front, perhaps_from_front
from atleta.tracking.front import bar_line
from atleta.tracking.network import AT, JOINTS, Look, pair

from .world import BUILD, write_clip

PX_PER_M = 250.0
WIDTH, HEIGHT = 1280, 720
MIDDLE = (640.0, 360.0)


def stood(frames: int = 40, hands_y: float = 300.0) -> np.ndarray:
    """The network's points of one who stands and faces the camera `(frames, 21, 2)`."""
    points = np.zeros((len(JOINTS), 2))
    for name, half_m, y in (
        ("shoulder", 0.15, 250.0), ("hip", 0.08, 375.0), ("knee", 0.12, 480.0), ("ankle", 0.14, 580.0), ("heel", 0.14, 590.0),
    ):  # fmt: skip
        left, right = pair(name)
        # The lifter's left is on the picture's right.
        points[left], points[right] = (640 + half_m * PX_PER_M, y), (640 - half_m * PX_PER_M, y)
    for side, x in (("left", 640 + 0.4 * PX_PER_M), ("right", 640 - 0.4 * PX_PER_M)):
        points[[AT[f"{side}_wrist"], AT[f"{side}_hand"]]] = x, hands_y
    return np.tile(points, (frames, 1, 1))


def look(points: np.ndarray) -> Look:
    return Look(points, np.ones(points.shape), np.zeros(len(points)), np.ones(len(points)), 1.0)


def picture(slope: float | None, y: float = 300.0, *, edge: bool = False) -> np.ndarray:
    """A grey wall, brighter to one side, with noise; a person in the middle; and a bar with its discs unless there is none."""
    rng = np.random.default_rng(2)
    made = 120 + np.linspace(0, 40, WIDTH)[None] + rng.normal(0, 2, (HEIGHT, WIDTH))
    if edge:
        made[int(y) :] -= 50
    made[240:600, 590:690] = 60
    grey = np.clip(made, 0, 255).astype(np.uint8)
    if slope is not None:
        half = 1.1 * PX_PER_M
        ends = [(round(640 + by), round(y + by * slope)) for by in (-half, half)]
        cv2.line(grey, ends[0], ends[1], 200, 7, cv2.LINE_AA)
        for by in (-0.7 * PX_PER_M, 0.7 * PX_PER_M):
            x, middle = round(640 + by), round(y + by * slope)
            cv2.rectangle(grey, (x - 10, middle - 56), (x + 10, middle + 56), 25, -1)
    return cv2.GaussianBlur(grey, (0, 0), 0.7)


# -- the bar in a picture ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("deg", [-6.0, -1.5, 0.0, 2.0, 8.0])
@pytest.mark.parametrize("off_px", [-12.0, 9.0])
def test_the_bar_is_the_line_that_runs_on_outside_both_hands(deg: float, off_px: float) -> None:
    slope = float(np.tan(np.radians(deg)))
    # The model tells hands some centimetres off.
    points = stood(1)[0]
    for hand, side in (((15, 17, 19), 1), ((16, 18, 20), -1)):
        points[list(hand), 1] += side * 0.4 * PX_PER_M * slope + off_px
    found = bar_line(picture(slope), look(points), None)
    assert found is not None
    assert np.degrees(np.arctan(found[2])) == pytest.approx(deg, abs=0.25)
    assert found[1] == pytest.approx(300.0, abs=3.0)


@pytest.mark.parametrize("edge", [False, True])
def test_where_no_bar_is_none_is_made_out_of_walls_and_their_edges(edge: bool) -> None:
    assert bar_line(picture(None, edge=edge), look(stood(1)[0]), None) is None


def test_nobody_is_seen_from_the_front_where_nobody_is(tmp_path: Path) -> None:
    pictures = [np.full((240, 320), 60 + 2 * k, np.uint8) for k in range(12)]
    clip = write_clip(tmp_path / "empty.mp4", pictures, fps=2)
    assert not perhaps_from_front([cv2.cvtColor(one, cv2.COLOR_GRAY2BGR) for one in pictures[:2]])
    assert look_from_front(read_frames(clip), np.arange(12) / 2) is None


def test_a_bar_that_leaves_the_picture_is_not_guessed() -> None:
    points = stood(1)[0] + [560.0, 0.0]
    assert bar_line(np.roll(picture(0.0), 560, axis=1), look(points), None) is None


# -- bar and lifter to either side ------------------------------------------------------------------------------------------------


def tracks(points: np.ndarray, bar_y: np.ndarray, slope: np.ndarray) -> tuple[RawTracks, FrontTrack, Calibration]:
    frames = np.arange(len(points))
    front = FrontTrack(frames, points, np.ones(points.shape[:2]), np.column_stack([np.full(len(points), 640.0), bar_y, slope]))
    raw = RawTracks(frames / 30, WIDTH, HEIGHT, [], np.zeros((len(points), 1, 1), np.uint8), front=front)
    scale = Scale(1 / PX_PER_M, 0.0, "stature", 0.45)
    return raw, front, Calibration(scale, 0.0, 0.1, "picture", "right", "motion", False, None, MIDDLE)


def motion(points: np.ndarray, bar_y: np.ndarray, slope: np.ndarray) -> FrontMotion:
    raw, front, calibration = tracks(points, bar_y, slope)
    return front_motion(raw, front, calibration, np.ones(len(points), bool))


def test_knees_count_from_the_line_between_hip_and_ankle_and_apart_is_from_one_to_the_other() -> None:
    points = stood()
    for side, sign in (("left", 1), ("right", -1)):
        knee = AT[f"{side}_knee"]
        # The line is 0.1107 m to the side where the knees are; these are 5 cm inside it, and one more so than the other.
        points[:, knee, 0] = 640 + sign * PX_PER_M * (0.08 + 0.06 * 105 / 205 - 0.05) + 4.0
    told = motion(points, np.full(40, 300.0), np.zeros(40))
    assert told.knees_in_cm == pytest.approx(np.full(40, 5.0 - KNEES_IN_CM), abs=1e-6)
    assert told.feet_apart_cm == pytest.approx(np.full(40, 28.0))
    assert told.hands_apart_cm == pytest.approx(np.full(40, 80.0))


def test_what_a_waiting_bar_slopes_by_for_a_camera_off_square_is_no_tilt() -> None:
    # Up and down about the camera's eye; the camera stands 10° off square, and the bar is tilted by 3° for a while.
    high_m = np.concatenate([np.full(10, -0.6), np.linspace(-0.6, 0.8, 20), np.full(10, 0.8)])
    off_square = np.degrees(np.tan(np.radians(10.0))) / USUAL_DISTANCE_M * high_m
    tilted = np.where((np.arange(40) >= 24) & (np.arange(40) < 34), 3.0, 0.0)
    told = motion(stood(), 360 - PX_PER_M * high_m, np.tan(np.radians(off_square + tilted)))
    # A camera so far off square is not quite believed.
    assert told.tilt_deg[:22] == pytest.approx(np.zeros(22), abs=0.3)
    assert told.tilt_deg[26:32] == pytest.approx(np.full(6, 3.0), abs=0.4)


def test_scale_is_by_how_tall_who_stands_is_and_wider_known_without_a_stature() -> None:
    points = stood()
    # Down in a squat for most of the clip.
    points[:30, list(pair("shoulder")), 1] += 150
    _, front, _ = tracks(points, np.full(40, 300.0), np.zeros(40))
    known, unknown = scale_from_front(front, 1.80, 0.45), scale_from_front(front, None, 0.45)
    assert known.m_per_px == pytest.approx(SHOULDERS_TO_ANKLES * 1.80 / 330)
    assert unknown.sd / unknown.m_per_px > 2 * known.sd / known.m_per_px


def test_looks_are_kept_as_they_are_and_say_whether_they_are_from_behind() -> None:
    raw, front, _ = tracks(stood(), np.full(40, 300.0), np.where(np.arange(40) < 5, np.nan, 0.01))
    again = RawTracks.from_json(raw.to_json()).front
    assert again is not None
    for name in ("frame", "points", "sd", "bar"):
        np.testing.assert_allclose(getattr(again, name), getattr(front, name), atol=0.006)
    assert again.side == "front"
    assert replace(front, points=front.points * [-1, 1] + [WIDTH, 0]).side == "back"


# -- what is told -----------------------------------------------------------------------------------------------------------------


def from_front(**series: np.ndarray) -> LiftData:
    clock = np.arange(0, 3, 1 / 30)
    flat = np.zeros(len(clock))
    held = {name: series.get(name, flat) for name in ("tilt_deg", "knees_in_cm", "feet_apart_cm", "hands_apart_cm")}
    front = FrontMotion(clock, **held, bar_slope=flat, tilt_sd_deg=0.3, from_behind=False)
    bar = BarMotion(0, clock, *(flat,) * 9, 0.0)
    events = {"descent_start": 0.5, "bottom": 1.0, "stand": 2.0, "release": 2.5}
    return LiftData(bar, events, True, 0.225, 80.0, 1.7, "front_squat", front=front)


def test_the_front_tells_level_knees_feet_and_hands_at_their_largest_while_it_counts() -> None:
    clock = np.arange(0, 3, 1 / 30)
    data = from_front(
        tilt_deg=np.interp(clock, (0.9, 1.2, 1.5, 2.05, 2.4), (0.0, 5.0, 0.0, 0.0, 9.0)),
        knees_in_cm=np.interp(clock, (0.8, 1.5, 2.2), (9.0, 4.0, 12.0)),
        feet_apart_cm=40 + clock, hands_apart_cm=60 + 10 * clock,
    )  # fmt: skip
    told = {name: value.value for name, value in measure_lift("squat", data).items() if isinstance(value, Value)}
    # A bar that is let go may tilt, and knees count on the way up.
    expected = {"bar_tilt_max": 5.0, "knee_track": 4 + 8 * 0.5 / 0.7, "stance_width@descent_start": 40.5,
    "stance_width@bottom": 41.0}  # fmt: skip
    # As shares of a stature of 1.7 m.
    shares = {name.replace("width", "share"): value / 170 for name, value in expected.items() if name.startswith("stance")}
    assert told == pytest.approx(expected | shares, abs=0.15)
    assert told["stance_share@bottom"] == pytest.approx(0.241, abs=0.001)


def test_everything_else_asks_for_a_film_from_the_side_and_the_side_for_one_from_the_front() -> None:
    needs_front = {one.id for one in declarations() if "front" in one.requires}
    for name, value in measure_lift("squat", from_front()).items():
        assert name in needs_front or value == "it shows only from the side: film this from the side", name
    beside = measure_lift("squat", replace(from_front(), front=None))
    for name in needs_front & beside.keys():
        assert beside[name] == "it shows only from the front: film this from the front"


def test_a_clip_from_the_front_is_asked_only_what_shows_from_there() -> None:
    measures = {
        "knee_track": {"value": 8.0, "sd": 1.0, "unit": "cm", "frame": 3},
        "bar_tilt_max": {"value": 0.3, "sd": 0.3, "unit": "°", "frame": 3},
        "depth": {"value": None, "unit": "cm", "reason": "it shows only from the side: film this from the side"},
    }  # fmt: skip
    told = findings_of("front_squat", 0, measures, Settings(lift="front_squat"), None, "front")
    story = told["story"]
    stances = {"stance_too_narrow": "cannot_tell", "stance_too_wide": "cannot_tell"}
    assert {row["fault"]: row["level"] for row in told["findings"]} == {"knees_in": "fault", "bar_tilted": "fine"} | stances
    assert story is not None
    assert "8.0 cm inside" in story["says"]
    crooked = measures | {
        "knee_track": {"value": -2.0, "sd": 1.0, "unit": "cm", "frame": 3},
        "bar_tilt_max": measures["bar_tilt_max"] | {"value": 5.0},
    }
    told = findings_of("front_squat", 0, crooked, Settings(lift="front_squat"), None, "front")
    assert {row["fault"]: row["level"] for row in told["findings"]} == {"knees_in": "fine", "bar_tilted": "fault"} | stances
    # A tilt alone never proves a grip.
    assert told["story"]["faults"] == ["bar_tilted"]
    beside = findings_of("front_squat", 0, measures, Settings(lift="front_squat"))["findings"]
    assert {"shallow", "knees_in"} <= {row["fault"] for row in beside}


def test_from_pixels_a_clip_from_the_front_is_known_and_its_knees_are_seen_to_fall_in(tmp_path: Path) -> None:
    done = play(asked_set(Wanted("front_squat", BUILD, 80.0, 80.0, None, {"knees_in": 1.0}, "", 5)))
    clip = tmp_path / "front.mp4"
    truth = film(Shoot(done, Camera(width_px=640, height_px=360, fps=15, yaw_deg=87.0)), clip)["lifts"][0]["measures"]
    document = analyse(clip, Settings(lift="front_squat", load_kg=80.0, stature_m=BUILD.stature_m))
    validate_document(document)
    assert document["clip"]["view"]["kind"] == "front"
    assert document["clip"]["facing"] is None
    (lift,) = document["lifts"]
    told = {name: (lift["measures"][name]["value"], truth[name]["value"]) for name in ("bar_tilt_max", "knee_track", "stance_width@bottom")}
    for name, close in (("bar_tilt_max", 1.2), ("knee_track", 4.0), ("stance_width@bottom", 8.0)):
        assert told[name][0] == pytest.approx(told[name][1], abs=close), name
    assert next(row["level"] for row in lift["findings"] if row["fault"] == "knees_in") in ("fault", "watch")
    assert all(row["level"] != "fault" for row in lift["findings"] if row["fault"] != "knees_in")
    # Nothing is said of forward and back, and what is not known is written as nothing.
    assert set(lift["bar"]["x_m"]) == {None}
    assert bar_csv(document).splitlines()[1].split(",")[3] == ""
    with pytest.raises(ValueError, match="from the side"):
        joints_trc(document)
    # A box about the lifter is looked into from the front, too.
    raw = track_clip(clip, probe(clip), lifter=Box(230, 60, 410, 330))
    assert raw.front is not None
    assert raw.front.side == "front"
