"""The simulated lifter and bar: bodies, physics, events and faults, each held to what it must truly be."""

from __future__ import annotations

import json
from functools import lru_cache
from itertools import pairwise

import numpy as np
import pytest

from atleta.faults import load_catalogue
from atleta.footage import content_hash
from atleta.simulation import Build, Camera, LiftTruth, Performance, Wanted, asked_set, play, read_recipe, truths, verdicts
from atleta.simulation.asked import AT_FULL_STRENGTH, COMPANIONS
from atleta.simulation.barbell import discs_for, near_face_m
from atleta.simulation.barpath import G
from atleta.simulation.build import DISC_RADIUS_M

from .world import BUILD, DEMO, lift

PULLS = ("snatch", "clean", "power_snatch", "power_clean", "snatch_pull", "clean_pull", "snatch_from_blocks", "clean_pull_from_blocks")
OTHERS = (
    "split_jerk",
    "power_jerk",
    "front_squat",
    "back_squat",
    "overhead_squat",
    "back_squat_pause",
    "jerk_dip",
    "halting_snatch_pull",
    "clean_pull_pause_knee",
    "snatch_high_pull",
    "brush_deadlift_clean",
    "press_behind_neck",
    "continental_clean",
    "press",
)
FAMILY = {
    "pull": ("snatch", "clean"),
    "jerk": ("split_jerk",),
    "squat": ("front_squat", "back_squat", "overhead_squat"),
    "pause": ("front_squat_pause", "overhead_squat_pause"),
    "dip": ("jerk_dip",),
    "hold": ("halting_snatch_pull", "clean_pull_pause_knee"),
    "continental": ("continental_clean",),
    "press": ("press",),
    "snatch_grip": ("snatch",),
    "clean_grip": ("clean",),
}
# A human's fastest joints: a sprinter's ankle or a thrower's elbow moves at twelve and more, a thrower's hand at twenty.
FASTEST_M_S, FASTEST_HAND_M_S = 12.0, 16.0
CHUNKS, EACH = 8, 10


@lru_cache(maxsize=64)
def performed(lifts: str, build: Build, faults: tuple[tuple[str, float], ...] = (), seed: int = 1, miss: str = "") -> Performance:
    return play(asked_set(Wanted(lifts, build, 80.0, 80.0, None, dict(faults), miss, seed)))


def judged(lift: str, fault: str) -> bool:
    """Whether this fault is judged in this lift at all."""
    from atleta.simulation.verdict import family, limits

    letters = family(truths(performed(lift, BUILD))[0])
    return fault in limits() and bool(set(limits()[fault]["kinds"]) & set(letters))


def random_lift(seed: int) -> tuple[Performance, str, str]:
    """Any lift of any build, every other one with a fault put in; its name and the fault's."""
    rng = np.random.default_rng(seed)
    build = Build(
        float(rng.uniform(1.5, 1.95)), float(rng.uniform(0.98, 1.02)), float(rng.uniform(0.92, 1.1)), float(rng.uniform(0.99, 1.01))
    )
    if seed % 2:
        faults = sorted(AT_FULL_STRENGTH)
        fault = faults[seed // 2 % len(faults)]
        kinds = [kind for family in AT_FULL_STRENGTH[fault] for kind in FAMILY[family] if judged(kind, fault)]
        kind = kinds[int(rng.integers(len(kinds)))]
        return performed(kind, build, ((fault, 0.9),), seed), kind, fault
    kinds = PULLS + OTHERS
    kind = kinds[seed // 2 % len(kinds)]
    return performed(kind, build, (), seed), kind, ""


def allowed_beside(fault: str) -> set[str]:
    """What may come with a fault: what it leads to in the cause graph, and what cannot be had without it."""
    effects, found, queue = load_catalogue().effects, {fault}, [fault, *COMPANIONS.get(fault, ())]
    while queue:
        one = queue.pop()
        found.add(one)
        queue += [effect for effect in (*effects.get(one, ()), *COMPANIONS.get(one, ())) if effect not in found]
    return found


@pytest.mark.parametrize("chunk", range(CHUNKS))
def test_any_lift_is_a_lift_of_a_human_with_a_bar(chunk: int) -> None:
    for seed in range(chunk * EACH, (chunk + 1) * EACH):
        done, kind, fault = random_lift(seed)
        told = (seed, kind, fault, done.build)
        _body_is_whole(done, told)
        for one in truths(done):
            _events_are_in_order(one, told)
            levels = verdicts(one, done.build.stature_m)
            if fault:
                assert levels[fault] == "fault", (told, one.measures)
            beside = {name for name, level in levels.items() if level == "fault"} - (allowed_beside(fault) if fault else set())
            assert not beside, (told, beside)


def _body_is_whole(done: Performance, told: object) -> None:
    time = np.arange(0.0, float(done.path.time_s[-1]), 0.008)
    joints, build = done.body_at(time), done.build
    for side in ("left_", "right_"):
        for a, b, length in (
            ("hip", "knee", build.thigh_m),
            ("knee", "ankle", build.shank_m),
            ("shoulder", "elbow", build.upper_arm_m),
            ("elbow", "wrist", build.forearm_m),
            ("wrist", "hand", build.palm_m),
        ):
            measured = np.linalg.norm(joints[side + a] - joints[side + b], axis=0)
            assert np.abs(measured - length).max() < 0.001, (told, side, a, b)
        held = time < (done.released_s if done.released_s is not None else np.inf)
        along, hand = joints["bar_right"] - joints["bar"], joints[f"{side}hand"] - joints["bar"]
        assert np.linalg.norm(np.cross(along, hand, axis=0)[:, held], axis=0).max() < 0.005, told
        flat = (joints[f"{side}heel"][1] < 1e-4) & (joints[f"{side}toe"][1] < 1e-4)
        for stretch in np.split(np.arange(len(time)), np.flatnonzero(np.diff(flat.astype(int))) + 1):
            if flat[stretch[0]] and len(stretch) > 2:
                for part in ("heel", "toe"):
                    place = (
                        joints[side + part][[0, 2]][:, stretch[1:-1]] if len(stretch) > 3 else joints[side + part][[0, 2]][:, stretch[1:2]]
                    )
                    assert np.ptp(place, axis=1).max() < 0.002, (told, side, part, time[stretch[0]])
    for name, place in joints.items():
        if not name.startswith("bar"):
            fastest = FASTEST_HAND_M_S if name.endswith(("hand", "wrist")) else FASTEST_M_S
            assert np.linalg.norm(np.gradient(place, time, axis=1), axis=0).max() < fastest, (told, name)
    assert done.path.y_m.min() > DISC_RADIUS_M - 1e-3, told
    if done.released_s is not None:
        falling = (done.path.time_s > done.released_s + 0.005) & (done.path.time_s < done.released_s + 0.25)
        assert done.path.ay_m_s2[falling] == pytest.approx(-G)


def _events_are_in_order(one: LiftTruth, told: object) -> None:
    at = one.events_s
    for first, then in (
        ("set", "lift_off"),
        ("lift_off", "knee"),
        ("knee", "first_pull_end"),
        ("first_pull_end", "rebend"),
        ("knee", "contact"),
        ("contact", "apex"),
        ("peak_speed", "apex"),
        ("apex", "meet"),
        ("meet", "bottom"),
        ("bottom", "stand"),
        ("dip_start", "dip_bottom"),
        ("dip_bottom", "drive_end"),
        ("drive_end", "apex"),
        ("meet", "recovered"),
        ("low_point", "first_step"),
        ("descent_start", "bottom"),
        ("hold_start", "hold_end"),
        ("stand", "release"),
        ("recovered", "release"),
    ):
        if first in at and then in at:
            assert at[first] <= at[then] + 1e-9, (told, first, then, at)


def test_the_bars_speed_is_the_rate_of_its_height() -> None:
    done = lift("snatch")
    path, step = done.path, done.path.time_s[1] - done.path.time_s[0]
    # Until it lands: no rate is left where it bounces.
    flying = path.time_s < done.released_s + 0.3
    assert np.gradient(path.y_m, step)[flying] == pytest.approx(path.vy_m_s[flying], abs=0.03)


@pytest.mark.parametrize("lifts", ["clean_and_jerk", "clean+clean+jerk", "snatch+overhead_squat"])
def test_a_complex_is_as_many_lifts_in_their_order(lifts: str) -> None:
    done = performed(lifts, BUILD)
    made = truths(done)
    assert [one.kind for one in made] == [{"jerk": "split_jerk"}.get(word, word) for word in lifts.replace("_and_", "+").split("+")]
    assert all(a.stop_s <= b.start_s + 1.001 for a, b in pairwise(made))
    _body_is_whole(done, lifts)


@pytest.mark.parametrize("lifts", ["snatch", "split_jerk", "power_jerk", "clean_and_jerk"])
@pytest.mark.parametrize("miss", ["forward", "behind", "short"])
def test_a_missed_lift_is_let_go_where_it_was_lost(lifts: str, miss: str) -> None:
    done = performed(lifts, BUILD, (), 3, miss)
    _body_is_whole(done, (lifts, miss))
    *before, last = truths(done)
    assert all(one.made for one in before)
    assert not last.made
    assert not {"stand", "recovered", "first_step"} & last.events_s.keys()
    assert done.released_s is not None
    after = np.interp([done.released_s, done.released_s + 0.4], done.path.time_s, done.path.x_m)
    assert (after[1] - after[0] > 0.1) == (miss != "behind")
    # Clear of the bar, the feet side by side.
    stood = done.body_at(np.array([done.path.time_s[-1]]))
    assert abs(stood["left_toe"][0] - stood["right_toe"][0]) < 0.02
    assert np.sign(done.path.x_m[-1] - stood["right_hip"][0][0]) == (-1 if miss == "behind" else 1)


def test_the_same_seed_is_the_same_lift_and_another_is_not() -> None:
    one, same, other = (truths(play(asked_set(Wanted("clean", BUILD, seed=seed))))[0].measures for seed in (5, 5, 6))
    assert one == same
    assert one["peak_velocity"] != other["peak_velocity"]


def test_a_light_bar_flies_higher_and_a_tired_lifter_stands_up_slower() -> None:
    heavy, light = (truths(play(asked_set(Wanted("snatch", BUILD, load, best_kg=100.0))))[0].measures for load in (98.0, 55.0))
    assert light["peak_velocity"] > heavy["peak_velocity"] + 0.1
    fresh, tired = (truths(play(asked_set(Wanted("clean", BUILD, tired=worn))))[0].measures for worn in (0.0, 1.0))
    assert tired["time_bottom_to_stand"] > fresh["time_bottom_to_stand"] + 0.2


def test_a_bar_that_leaves_forward_stays_in_front() -> None:
    sound, forward = (truths(performed("snatch", BUILD, faults))[0].measures for faults in ((), (("bar_forward_off_floor", 1.0),)))
    assert forward["bar_x@contact"] > sound["bar_x@contact"] + 1
    assert forward["bar_thigh_gap_max"] > sound["bar_thigh_gap_max"]


def test_discs_make_up_the_load_and_the_outermost_full_one_is_what_is_seen() -> None:
    assert sum(disc.weight_kg for disc in discs_for(107.0)) == pytest.approx(43.5)
    assert near_face_m(discs_for(140.0)) > near_face_m(discs_for(70.0))
    with pytest.raises(ValueError, match="cannot be put on a 20 kg bar"):
        discs_for(21.0)


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


def test_every_clip_of_the_recipe_is_there_with_its_truth_beside_it() -> None:
    recipe = read_recipe(DEMO.parent / "film.toml")
    assert len(recipe) >= 24
    assert len({clip.told["lifter"] for clip in recipe}) >= 12
    total = 0
    for clip in recipe:
        film = DEMO / f"{clip.name}.mp4"
        truth = json.loads(film.with_suffix("").with_suffix(".truth.json").read_text())
        assert len(truth["disc"]["x_px"]) == truth["clip"]["frame_count"] == len(truth["joints"]["nose"]["x_px"]) > 90
        assert truth["simulation"]["faults"] == clip.told.get("faults", {})
        assert truth["clip"]["sha256"] == content_hash(film)
        assert film.stat().st_size < 3_500_000
        total += film.stat().st_size
    assert total < 70_000_000
