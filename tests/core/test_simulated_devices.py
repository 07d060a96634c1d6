"""The simulated phone's sound, the bar sensor, joints told wrong, and asking for a lift in words: each against what the lift really did."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import av
import numpy as np
import pytest

from atleta.cli import main
from atleta.document import validate_document
from atleta.footage import probe, read_frames
from atleta.motion.body.model import POINTS
from atleta.simulation import Camera, Performance, Sensor, Shoot, asked_camera, film, frames_of, hear, read_recipe, record, truth_of, truths
from atleta.simulation.perfect import PerfectBody
from atleta.simulation.sound import RATE_HZ, SOUND_M_S, landings

from .world import lift

QUIET = Sensor(bias_m_s2=0.0, noise_m_s2=0.0, rate_hz=500)
TINY = Camera(width_px=256, height_px=144, fps=20)


def heard(done: Performance, distance_m: float) -> np.ndarray:
    contacts = [(one.events_s["contact"], one.measures["bump_speed"]) for one in truths(done)]
    return hear(done.path, contacts=contacts, span_s=(0.0, float(done.path.time_s[-1])), distance_m=distance_m, seed=1)


def loudness(sound: np.ndarray, start_s: float, length_s: float) -> float:
    piece = sound[round(start_s * RATE_HZ) : round((start_s + length_s) * RATE_HZ)]
    return float(np.sqrt(np.mean(piece.astype(float) ** 2)))


# -- sound ----------------------------------------------------------------------------------------------------------------


def test_the_click_comes_at_contact_later_by_the_way_to_the_phone_and_grows_with_the_bump() -> None:
    soft, hard = lift("snatch", bump_m_s=0.3), lift("snatch", bump_m_s=0.9)
    bumps, clicks = [], []
    for done in (soft, hard):
        told = truths(done)[0]
        sound = heard(done, 5.0)
        arrives = told.events_s["contact"] + 5.0 / SOUND_M_S
        bumps.append(told.measures["bump_speed"])
        clicks.append(loudness(sound, arrives, 0.01))
        assert clicks[-1] > 2 * loudness(sound, arrives - 0.05, 0.045)
    assert bumps[1] > 1.8 * bumps[0]
    assert clicks[1] > 1.5 * clicks[0]


def test_the_discs_are_heard_when_they_land_and_not_when_the_bar_is_kept() -> None:
    dropped = lift("snatch")
    first, speed = landings(dropped.path)[0]
    fallen = np.interp(dropped.released_s, dropped.path.time_s, dropped.path.y_m) - 0.225
    assert speed == pytest.approx(np.sqrt(2 * 9.81 * fallen), rel=0.02)
    sound = heard(dropped, 3.0)
    arrives = first + 3.0 / SOUND_M_S
    assert loudness(sound, arrives, 0.05) > 10 * loudness(sound, arrives - 0.2, 0.15)
    assert landings(lift("back_squat").path) == []


# -- sensor ---------------------------------------------------------------------------------------------------------------


def test_a_perfect_sensor_gives_the_bars_own_speed_and_way() -> None:
    path = lift("clean_pull").path
    held = record(path, QUIET, np.random.default_rng(1))
    assert held.vy_m_s == pytest.approx(np.interp(held.time_s, path.time_s, path.vy_m_s), abs=0.03)
    assert held.y_m == pytest.approx(np.interp(held.time_s, path.time_s, path.y_m) - 0.225, abs=0.02)


def test_bias_drifts_away_with_time_and_the_square_of_time() -> None:
    path = lift("clean_pull").path
    true = record(path, QUIET, np.random.default_rng(1))
    biased = record(path, Sensor(bias_m_s2=0.2, noise_m_s2=0.0, rate_hz=500), np.random.default_rng(1))
    off, elapsed = np.abs(biased.vy_m_s - true.vy_m_s), true.time_s - true.time_s[0]
    assert off == pytest.approx(0.2 * elapsed, abs=1e-6)
    assert np.abs(biased.y_m - true.y_m)[-1] == pytest.approx(0.1 * elapsed[-1] ** 2, rel=1e-2)


def test_clock_and_drop_outs_are_as_asked() -> None:
    path = lift("snatch").path
    held = record(path, Sensor(rate_hz=100, clock_offset_s=3.0, clock_drift=0.001, drop_outs=2, drop_out_s=0.1), np.random.default_rng(4))
    assert held.time_s[0] == 3.0
    assert np.diff(held.time_s) == pytest.approx(0.01001)
    lost = np.isnan(held.ay_m_s2)
    assert 10 <= lost.sum() <= 21
    assert np.array_equal(lost, np.isnan(held.y_m))
    assert not np.isnan(held.time_s).any()


@pytest.mark.parametrize(("sensor", "words"), [(Sensor(rate_hz=2), "10 Hz"), (Sensor(drop_outs=90), "fewer or shorter")])
def test_a_sensor_that_tells_nothing_is_refused_in_words(sensor: Sensor, words: str) -> None:
    with pytest.raises(ValueError, match=words):
        record(lift("snatch").path, sensor, np.random.default_rng(0))


# -- camera ---------------------------------------------------------------------------------------------------------------


def test_a_shaken_uneven_slow_motion_clip_knows_where_and_when_every_frame_was_taken() -> None:
    camera = Camera(fps=240, file_fps=30, shake_px=4, jitter=0.2)
    frames = frames_of(Shoot(lift("snatch"), camera, seed=5))
    assert np.diff(frames.shown_s) == pytest.approx(8 * np.diff(frames.taken_s), abs=3e-5)
    assert np.diff(frames.taken_s).std() > 0.0002
    moved = np.array([held.shift_px for held in frames.cameras])
    assert 2 < moved.std(0).mean() < 8
    still = truth_of(Shoot(lift("snatch"), Camera(fps=240)), frames_of(Shoot(lift("snatch"), Camera(fps=240))))
    assert truth_of(Shoot(lift("snatch"), camera, seed=5), frames)["disc"]["x_px"][0] != still["disc"]["x_px"][0]


def test_a_lifter_who_faces_left_shows_the_left_side_and_is_named_so() -> None:
    right, left = (truth_of(Shoot(lift("split_jerk"), camera), frames_of(Shoot(lift("split_jerk"), camera)))
                   for camera in (Camera(), Camera(facing="left")))  # fmt: skip
    assert right["joints"]["right_knee"]["y_px"] == left["joints"]["left_knee"]["y_px"]
    assert right["joints"]["right_knee"]["x_px"][0] + left["joints"]["left_knee"]["x_px"][0] == pytest.approx(1279, abs=0.02)


@pytest.mark.parametrize(("camera", "codec", "suffix"), [
    ("turned_deg=90", "libx264", ".mp4"), ("file_fps=10", "libx265", ".mp4"), ("shake_px=6,light=0.5", "libvpx-vp9", ".webm"),
])  # fmt: skip
def test_any_phone_writes_a_file_that_can_be_read(tmp_path: Path, camera: str, codec: str, suffix: str) -> None:
    held = asked_camera(f"width=256,height_px=144,fps=20,{camera}")
    clip = tmp_path / f"clip{suffix}"
    shoot = Shoot(lift("snatch"), held, from_s=1.5, until_s=2.6)
    truth = film(shoot, clip, codec=codec)
    info = probe(clip)
    assert (info.width_px, info.height_px) == (256, 144)
    assert info.rotation_deg == held.turned_deg
    frames = list(read_frames(clip))
    assert len(frames) == truth["clip"]["frame_count"]
    assert [frame.time_s for frame in frames] == pytest.approx(truth["simulation"]["shown_time_s"], abs=2e-3)
    # The disc is dark on a lighter wall wherever the truth says it is.
    middle = frames[len(frames) // 2].luma().astype(int)
    x, y, r = (truth["disc"][name][len(frames) // 2] for name in ("x_px", "y_px", "radius_px"))
    rim = np.array(
        [middle[round(y + 0.8 * r * np.sin(a)), round(x + 0.8 * r * np.cos(a))] for a in np.linspace(0, 6.28, 24, endpoint=False)]
    )
    assert np.median(rim) < middle.mean() - 15


def test_a_joint_behind_a_disc_is_told_as_hidden_and_the_document_is_one(tmp_path: Path) -> None:
    truth = film(Shoot(lift("clean"), TINY, from_s=0.6, until_s=2.6), tmp_path / "clip.mp4")
    validate_document(truth)
    ankle, nose = (np.array(truth["joints"][name]["occluded"]) for name in ("left_ankle", "nose"))
    assert ankle[: len(ankle) // 4].mean() > 0.8
    assert nose[: len(nose) // 4].mean() < 0.2


# -- asked in words -------------------------------------------------------------------------------------------------------


def test_a_camera_is_asked_for_in_short_words() -> None:
    camera = asked_camera("yaw=8, fps=120,width=640,facing=left")
    assert (camera.yaw_deg, camera.fps, camera.width_px, camera.facing) == (8.0, 120.0, 640, "left")
    assert asked_camera("") == asked_camera("fps=60")


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--lift", "cartwheel"], "cannot be simulated"), (["--fault", "sneezed:1"], "cannot be put into a lift"),
        (["--fault", "bar_looped:3"], "between 0 and 1"), (["--camera", "zoom=2"], "has no 'zoom'"),
        (["--camera", "fps=fast"], "is a number"),
        (["--stature", "3"], "1.3 to 2.2"), (["--lift", "jerk", "--fault", "bar_looped:1"], "cannot be put into a jerk"),
        (["--lift", "snatch+clean"], "cannot follow"), (["--load", "15"], "cannot be put on a 20 kg bar"),
    ],
)  # fmt: skip
def test_what_cannot_be_simulated_is_refused_in_words(tmp_path: Path, capsys: pytest.CaptureFixture, words: list[str], said: str) -> None:
    assert main(["simulate", "--out", str(tmp_path), *words]) == 2
    assert said in capsys.readouterr().err
    assert list(tmp_path.iterdir()) == []


def test_the_command_line_films_a_lift_with_sound_truth_and_sensor(tmp_path: Path) -> None:
    asked = ["simulate", "--lift", "clean", "--load", "90", "--fault", "bar_crashed:0.9", "--seed", "7"]
    assert main([*asked, "--camera", "fps=20,width=320,height_px=180", "--out", str(tmp_path)]) == 0
    truth = json.loads((tmp_path / "clean-90-7.truth.json").read_text())
    measures = truth["lifts"][0]["measures"]
    assert measures["drop_to_meet"]["value"] > 14
    with (tmp_path / "clean-90-7.sensor.csv").open() as handle:
        rows = list(csv.DictReader(handle))
    assert max(float(row["vy_m_s"]) for row in rows if row["vy_m_s"]) == pytest.approx(measures["peak_velocity"]["value"], abs=0.25)
    with av.open(str(tmp_path / "clean-90-7.mp4")) as clip:
        heard = np.concatenate([block.to_ndarray()[0] for block in clip.decode(audio=0)])
    assert len(heard) / RATE_HZ == pytest.approx(truth["clip"]["frame_time_s"][-1], abs=0.2)
    assert np.abs(heard).max() > 0.1


def test_a_recipe_is_filmed_clip_by_clip_and_says_what_it_lacks(tmp_path: Path, capsys: pytest.CaptureFixture) -> None:
    recipe = tmp_path / "recipe.toml"
    row = '[[clip]]\nname = "one"\nlifter = "anna"\nlifts = "snatch_pull"\nload = 60\ncamera = "width=256,height_px=144,fps=10"\n'
    recipe.write_text("[lifter.anna]\nstature_m = 1.6\nsex = 0.0\n" + row)
    assert main(["simulate", "--recipe", str(recipe), "--out", str(tmp_path)]) == 0
    assert json.loads((tmp_path / "one.truth.json").read_text())["simulation"]["stature_m"] == 1.6
    assert main(["simulate", "--recipe", str(recipe), "--only", "two", "--out", str(tmp_path)]) == 2
    assert "no clip named two" in capsys.readouterr().err
    recipe.write_text(row)
    with pytest.raises(ValueError, match="no lifter 'anna'"):
        read_recipe(recipe)


def test_a_misspelt_name_in_a_recipe_is_said(tmp_path: Path) -> None:
    recipe = tmp_path / "recipe.toml"
    recipe.write_text('[room.hall]\nwall_n = 3.0\n[[clip]]\nname = "one"\nlifts = "snatch"\nload = 60\n')
    with pytest.raises(ValueError, match="room hall has 'wall_n'"):
        read_recipe(recipe)
    recipe.write_text('[[clip]]\nname = "one"\nlifts = "snatch"\nload = 60\nfault = { shallow = 1 }\n')
    with pytest.raises(ValueError, match="clip one has 'fault'"):
        read_recipe(recipe)


def test_joints_that_are_told_wrong_are_so_by_as_much_as_is_said_and_for_a_moment() -> None:
    done, camera = lift("snatch"), Camera()
    true, told = (PerfectBody(done, camera, seed=3, off_m=off).tracks.bodies[0][1] for off in (0.0, 0.015))
    knees = [POINTS.index(f"{side}_knee") for side in ("near", "far")]
    off = told.points_m - true.points_m
    assert off[:, knees[0]] == pytest.approx(off[:, knees[1]])
    assert (off[..., 2] == 0).all()
    assert np.median(np.hypot(off[..., 0], off[..., 1])) == pytest.approx(0.015, rel=0.15)
    # What may as well be so is of the same size; of the bar nothing is in doubt.
    drawn = told.drawn_m
    assert drawn[:, :, :-1].std() / off.std() == pytest.approx(1.0, rel=0.15)
    assert (drawn[:, :, -1] == 0).all()
    later = round(0.5 / float(np.median(np.diff(told.time_s))))
    one = drawn[:, :, knees[0], 0]
    assert np.corrcoef(one[:, :-1].ravel(), one[:, 1:].ravel())[0, 1] > 0.97
    assert abs(np.corrcoef(one[:, :-later].ravel(), one[:, later:].ravel())[0, 1]) < 0.2
