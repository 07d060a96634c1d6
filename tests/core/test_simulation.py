from __future__ import annotations

import json

import numpy as np
import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from atleta.simulation import Build, Camera, JerkSpec, clean_spec, jerk_path, pose_at, pull_path, snatch_spec
from atleta.simulation.barpath import DISC_RADIUS_M, G
from atleta.simulation.film import true_measures

from .world import DEMO

builds = st.builds(Build, st.floats(1.48, 2.0), st.floats(0.97, 1.04))


@settings(max_examples=20, deadline=None, phases=(Phase.explicit, Phase.generate))
@given(builds, st.sampled_from([snatch_spec, clean_spec]), st.floats(0.85, 1.15))
def test_a_bar_path_obeys_physics_and_its_own_specification(build: Build, spec_of, ratio: float) -> None:  # type: ignore[no-untyped-def]
    spec = spec_of(build, early_ratio=ratio, middle_push_m_s2=1.2)
    path = pull_path(spec, build)
    at = path.events_s
    step = path.time_s[1] - path.time_s[0]
    inside = (path.time_s > at["lift_off"] + 0.02) & (path.time_s < at["meet"] - 0.02)
    assert np.gradient(path.y_m, step)[inside] == pytest.approx(path.vy_m_s[inside], abs=0.03)
    assert path.vy_m_s.max() == pytest.approx(spec.peak_speed_m_s, rel=4e-3)
    assert np.interp(at["peak_speed"], path.time_s, path.y_m) == pytest.approx(spec.peak_speed_height_m, abs=2e-3)
    assert list(at.values()) == sorted(at.values())
    assert path.y_m.min() >= DISC_RADIUS_M - 1e-3
    falling = (path.time_s > at["release"] + 0.02) & (path.time_s < at["release"] + 0.3)
    assert path.ay_m_s2[falling] == pytest.approx(-G)


def test_a_start_too_soft_to_lift_the_bar_is_refused_in_words() -> None:
    build = Build(1.48, 0.97)
    with pytest.raises(ValueError, match="higher early ratio"):
        pull_path(clean_spec(build, early_ratio=0.75, middle_push_m_s2=1.2), build)


@settings(max_examples=15, deadline=None, phases=(Phase.explicit, Phase.generate))
@given(builds, st.sampled_from([snatch_spec, clean_spec]))
def test_segments_keep_their_length_and_the_hands_stay_on_the_bar(build: Build, spec_of) -> None:  # type: ignore[no-untyped-def]
    path = pull_path(spec_of(build), build)
    for time_s in np.linspace(path.time_s[0], path.events_s["stand"], 60):
        pose = pose_at(path, build, float(time_s))
        assert np.hypot(*(pose.hip - pose.knee)) == pytest.approx(build.thigh_m, abs=0.001)
        assert np.hypot(*(pose.knee - pose.ankle)) == pytest.approx(build.shank_m, abs=0.001)
        assert np.hypot(*(pose.shoulder - pose.hip)) == pytest.approx(build.trunk_m, abs=0.001)
        assert pose.bar == pytest.approx(path.at(float(time_s)))


def test_what_was_asked_of_the_bar_is_what_it_does() -> None:
    build = Build(1.75)
    sound = true_measures(pull_path(snatch_spec(build), build))
    forward = true_measures(pull_path(snatch_spec(build, forward_off_floor_m=0.04), build))
    looped = true_measures(pull_path(snatch_spec(build, loop_forward_m=0.12, loop_back_m=0.08), build))
    crashed = true_measures(pull_path(clean_spec(build, drop_m=0.18), build))
    yanked = true_measures(pull_path(snatch_spec(build, early_ratio=1.25, middle_push_m_s2=0.8), build))
    assert sound["bar_forward_before_knee"] < 1 < 3 < forward["bar_forward_before_knee"]
    assert sound["loop_width"] < 10 < 15 < looped["loop_width"]
    assert crashed["drop_to_meet"] == pytest.approx(18, abs=0.2)
    assert sound["early_force_ratio"] < 0.95 < 1.1 < yanked["early_force_ratio"]


def test_a_jerk_dips_drives_and_is_caught_in_order() -> None:
    path = jerk_path(JerkSpec())
    assert list(path.events_s.values()) == sorted(path.events_s.values())
    low = np.interp(path.events_s["dip_bottom"], path.time_s, path.y_m)
    assert JerkSpec().rack_height_m - low == pytest.approx(JerkSpec().dip_m, abs=1e-3)
    assert path.vy_m_s.max() == pytest.approx(JerkSpec().drive_speed_m_s, rel=5e-3)


def test_the_camera_draws_a_metre_as_long_as_its_focal_length_says() -> None:
    camera = Camera(distance_m=5.0, cover_m=2.5, height_m=1.0, aim_height_m=1.0)
    ends = camera.project(np.array([[0, 0.5, 0], [0, 1.5, 0]]))
    assert np.hypot(*(ends[1] - ends[0])) == pytest.approx(720 / 2.5, rel=1e-6)
    mirrored = Camera(facing="left").project(np.array([[0.3, 1.0, 0.0]]))[0]
    plain = Camera().project(np.array([[0.3, 1.0, 0.0]]))[0]
    assert mirrored[0] + plain[0] == pytest.approx(1279)
    rolled = Camera(roll_deg=2.0).project(np.array([[0, 0.2, 0], [0, 2.0, 0]]))
    lean = np.degrees(np.arctan2(rolled[1, 0] - rolled[0, 0], rolled[0, 1] - rolled[1, 1]))
    assert lean == pytest.approx(2.0, abs=0.05)


def test_every_demo_clip_has_its_truth_beside_it() -> None:
    clips = sorted(DEMO.glob("*.mp4"))
    assert len(clips) >= 3
    for clip in clips:
        truth = json.loads(clip.with_suffix(".truth.json").read_text())
        assert len(truth["disc"]["x_px"]) == len(truth["frame_time_s"]) > 100
        assert clip.stat().st_size < 3_500_000
