"""The simulated phone's sound, the bar sensor, and asking for a lift in words: each against what the lift really did."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import av
import numpy as np
import pytest

from atleta.cli import main
from atleta.simulation import Build, Sensor, asked_camera, asked_path, clean_spec, hear, pull_path, record, snatch_spec
from atleta.simulation.asked import AT_FULL_STRENGTH, with_faults
from atleta.simulation.film import true_measures
from atleta.simulation.sound import RATE_HZ, SOUND_M_S, bump_m_s, landings

BUILD = Build(1.72)
QUIET = Sensor(bias_m_s2=0.0, noise_m_s2=0.0, rate_hz=500)
# Where the domain calls it a fault: the measure and its threshold for a snatch.
FAULT_BEYOND = {
    "bar_forward_off_floor": ("bar_forward_before_knee", 2.0), "bar_looped": ("loop_width", 15.0), "bar_crashed": ("drop_to_meet", 14.0),
    "yanked_from_floor": ("early_force_ratio", 1.10),
}  # fmt: skip
SOUND_BELOW = {"bar_forward_before_knee": 1.0, "loop_width": 10.0, "drop_to_meet": 9.0, "early_force_ratio": 0.95}


def loudness(sound: np.ndarray, start_s: float, length_s: float) -> float:
    piece = sound[round(start_s * RATE_HZ) : round((start_s + length_s) * RATE_HZ)]
    return float(np.sqrt(np.mean(piece.astype(float) ** 2)))


# -- sound ----------------------------------------------------------------------------------------------------------------


def test_the_click_comes_at_contact_later_by_the_way_to_the_phone_and_grows_with_the_bump() -> None:
    soft = pull_path(snatch_spec(BUILD, loop_forward_m=0.02), BUILD)
    hard = pull_path(snatch_spec(BUILD, loop_forward_m=0.13), BUILD)
    assert bump_m_s(hard) > 2 * bump_m_s(soft)
    clicks = []
    for path in (soft, hard):
        sound = hear(path, distance_m=5.0, seed=1)
        arrives = path.events_s["contact"] - path.time_s[0] + 5.0 / SOUND_M_S
        clicks.append(loudness(sound, arrives, 0.01))
        assert clicks[-1] > 2 * loudness(sound, arrives - 0.05, 0.045)
    assert clicks[1] > 1.8 * clicks[0]


def test_the_discs_are_heard_when_they_land_and_not_when_the_bar_is_kept() -> None:
    dropped = pull_path(snatch_spec(BUILD), BUILD)
    first, speed = landings(dropped)[0]
    fallen = np.interp(dropped.events_s["release"], dropped.time_s, dropped.y_m) - 0.225
    assert speed == pytest.approx(np.sqrt(2 * 9.81 * fallen), rel=0.02)
    sound = hear(dropped, distance_m=3.0, seed=2)
    arrives = first - dropped.time_s[0] + 3.0 / SOUND_M_S
    assert loudness(sound, arrives, 0.05) > 10 * loudness(sound, arrives - 0.2, 0.15)
    assert landings(pull_path(snatch_spec(BUILD, release=False), BUILD)) == []


# -- sensor ---------------------------------------------------------------------------------------------------------------


def test_a_perfect_sensor_gives_the_bars_own_speed_and_way() -> None:
    path = pull_path(clean_spec(BUILD, release=False), BUILD)
    held = record(path, QUIET, np.random.default_rng(1))
    clock = held.time_s + path.time_s[0]
    assert held.vy_m_s == pytest.approx(np.interp(clock, path.time_s, path.vy_m_s), abs=0.03)
    assert held.y_m == pytest.approx(np.interp(clock, path.time_s, path.y_m) - 0.225, abs=0.02)


def test_bias_drifts_away_with_time_and_the_square_of_time() -> None:
    path = pull_path(clean_spec(BUILD, release=False), BUILD)
    true = record(path, QUIET, np.random.default_rng(1))
    biased = record(path, Sensor(bias_m_s2=0.2, noise_m_s2=0.0, rate_hz=500), np.random.default_rng(1))
    off, elapsed = np.abs(biased.vy_m_s - true.vy_m_s), true.time_s - true.time_s[0]
    assert off == pytest.approx(0.2 * elapsed, abs=1e-6)
    assert np.abs(biased.y_m - true.y_m)[-1] == pytest.approx(0.1 * elapsed[-1] ** 2, rel=1e-2)


def test_clock_and_drop_outs_are_as_asked() -> None:
    path = pull_path(snatch_spec(BUILD), BUILD)
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
        record(pull_path(snatch_spec(BUILD), BUILD), sensor, np.random.default_rng(0))


# -- asked in words -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("fault", AT_FULL_STRENGTH)
def test_an_injected_fault_passes_its_threshold_and_no_other_does(fault: str) -> None:
    rng = np.random.default_rng(3)
    for seed in range(50):
        true = true_measures(asked_path("snatch", Build(float(rng.uniform(1.5, 1.95))), {fault: float(rng.uniform(0.75, 1.0))}, seed))
        measure, threshold = FAULT_BEYOND[fault]
        assert true[measure] > threshold, (seed, true)
        for other, limit in SOUND_BELOW.items():
            assert other == measure or true[other] < limit, (seed, other, true)


def test_without_a_fault_no_repetition_has_one_and_no_two_are_alike() -> None:
    seen = set()
    for seed in range(50):
        true = true_measures(asked_path("snatch", BUILD, {}, seed))
        assert all(true[measure] < limit for measure, limit in SOUND_BELOW.items()), (seed, true)
        seen.add(round(true["peak_velocity"], 6))
    assert len(seen) == 50
    assert true_measures(asked_path("snatch", BUILD, {}, 7)) == true_measures(asked_path("snatch", BUILD, {}, 7))


def test_a_bar_that_leaves_forward_stays_in_front() -> None:
    sound, forward = snatch_spec(BUILD), with_faults(snatch_spec(BUILD), {"bar_forward_off_floor": 1.0})
    assert forward.back_at_contact_m < sound.back_at_contact_m - 0.03


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
        (["--stature", "3"], "1.3 to 2.2"), (["--lift", "jerk", "--fault", "bar_looped:1"], "No fault"),
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
    assert truth["measures"]["drop_to_meet"] > 14
    with (tmp_path / "clean-90-7.sensor.csv").open() as handle:
        rows = list(csv.DictReader(handle))
    assert max(float(row["vy_m_s"]) for row in rows if row["vy_m_s"]) == pytest.approx(truth["measures"]["peak_velocity"], abs=0.25)
    with av.open(str(tmp_path / "clean-90-7.mp4")) as clip:
        heard = np.concatenate([block.to_ndarray()[0] for block in clip.decode(audio=0)])
    assert len(heard) / RATE_HZ == pytest.approx(truth["frame_time_s"][-1], abs=0.2)
    assert np.abs(heard).max() > 0.1
