"""Measures of the lifter on bodies that are written down, not fitted: each against what its definition gives by hand."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from atleta.events.joints import pull_joint_events
from atleta.measures import LiftData, Value, drawn_relations, measure_lift
from atleta.measures.posture import first_past, past_until
from atleta.motion import BarMotion, BodyMotion, between_frames
from atleta.motion.body.model import POINT, POINTS
from atleta.motion.lifter import STANDING_KNEE_DEG

RATE = 60.0
CLOCK = np.arange(0, 2, 1 / RATE)
LENGTHS = {"thigh": 0.40, "shin": 0.40, "trunk": 0.50, "upper_arm": 0.28, "forearm": 0.25, "grip": 0.35}


def body(*, bar: np.ndarray, **places: np.ndarray) -> BodyMotion:
    """A lifter whose named joints `(frames, 2)` are where they are said to be, both sides alike; the others are at the origin."""
    points = np.zeros((len(CLOCK), len(POINTS), 3))
    for name, place in places.items():
        for side in ("near", "far") if f"near_{name}" in POINT else ("",):
            points[:, POINT[f"{side}_{name}" if side else name], :2] = place
    return BodyMotion(CLOCK, points, bar, np.zeros((0, len(CLOCK), len(POINTS) + 1, 3)), 1.70, LENGTHS)


def at(x: float | np.ndarray, y: float | np.ndarray) -> np.ndarray:
    return np.stack(np.broadcast_arrays(np.asarray(x, float), np.asarray(y, float), CLOCK)[:2], axis=1)


def lift(lifter: BodyMotion, events: dict[str, float], kind: str = "snatch") -> LiftData:
    x, y = lifter.bar.T
    vx, vy = np.gradient(x, CLOCK), np.gradient(y, CLOCK)
    ay = np.gradient(vy, CLOCK)
    ax = np.gradient(vx, CLOCK)
    motion = BarMotion(0, CLOCK, x, y, vx, vy, ay, ax, ay, ay, y, 0.0)
    return LiftData(motion, events, True, 0.225, 80.0, 1.70, kind, lifter)


def number(held: LiftData, name: str, family: str = "pull") -> float:
    value = measure_lift(family, held)[name]
    assert isinstance(value, Value), value
    return value.value


def trunk_at(degrees: np.ndarray) -> dict[str, np.ndarray]:
    """Hip and shoulder of a trunk at an angle."""
    angle = np.radians(degrees)
    return {"hip": at(0.0, 0.9), "shoulder": at(0.5 * np.cos(angle), 0.9 + 0.5 * np.sin(angle))}


def test_the_trunk_leans_back_as_far_as_at_peak_velocity_though_no_frame_was_taken_then() -> None:
    falling_back = 60 + 60 * CLOCK
    lifter = body(bar=at(0.1, 0.3 + 0.5 * CLOCK), **trunk_at(falling_back))
    peak = 1.0 + 0.5 / RATE
    held = lift(lifter, {"contact": 0.5, "peak_speed": peak})
    assert number(held, "lean_back") == pytest.approx(60 * peak + 60 - 90, abs=0.01)


def test_the_trunk_opens_early_by_what_it_has_opened_when_the_bar_is_ten_centimetres_above_the_knee() -> None:
    # Ten degrees from frame to frame, asked a quarter of the way: the frame before would be 2.5° off, the one after 7.5°.
    opening = 40 + 600 * np.clip(CLOCK - 0.5, 0, None)
    bar = at(0.05, 0.3 + 0.5 * CLOCK)
    high = 0.5 + 0.25 / RATE
    lifter = body(bar=bar, knee=at(0.1, 0.3 + 0.5 * high - 0.10), **trunk_at(opening))
    held = lift(lifter, {"lift_off": 0.1, "knee": 0.3, "peak_speed": 1.5})
    assert number(held, "trunk_opened_early") == pytest.approx(600 * 0.25 / RATE, abs=0.05)


def test_hips_that_shoot_up_under_a_bar_that_stays_down_rise_more_than_the_shoulders() -> None:
    shoot = np.clip((CLOCK - 0.5) / 0.3, 0, 1)
    stand = np.clip((CLOCK - 0.8) / 0.9, 0, 1)
    lifter = body(bar=at(0.0, 0.8 + 0.6 * stand), hip=at(-0.1, 0.3 + 0.2 * shoot + 0.4 * stand), shoulder=at(0.0, 0.75 + 0.6 * stand))
    held = lift(lifter, {"bottom": 0.4, "stand": 1.8})
    third = 1 / 3
    assert number(held, "hip_shoulder_rise_ratio@stand") == pytest.approx((0.2 + 0.4 * third) / (0.6 * third), rel=0.03)


def test_a_leg_in_a_wide_stance_is_as_straight_as_it_is() -> None:
    # An ankle further out than the hip: from the side the leg looks shorter than it is.
    lifter = body(bar=at(0.0, 1.0), hip=at(0.0, 0.9), ankle=at(0.0, 0.9 - 0.76), knee=at(0.12, 0.5))
    points = lifter.points.copy()
    wide = CLOCK > 1.0
    points[wide, POINT["near_ankle"], 2] = 0.25
    points[wide, POINT["near_ankle"], 1] = 0.9 - np.sqrt(0.76**2 - 0.25**2)
    straight = replace(lifter, points=points).knee_straight
    assert straight[10] == pytest.approx(straight[-10], abs=0.01)


def test_a_knee_is_straight_at_the_end_of_a_drive_only_where_the_leg_is_known_well_enough() -> None:
    events = {"dip_start": 0.3, "dip_bottom": 0.6, "drive_end": 0.9}
    # The leg shortens by 10 cm and comes back.
    hip_y = 0.9 - 0.1 * np.exp(-(((CLOCK - 0.6) / 0.15) ** 2))
    lifter = body(bar=at(0.0, 1.4), hip=at(0.0, hip_y), ankle=at(0.0, 0.1), knee=at(0.1, 0.5), shoulder=at(0.0, hip_y + 0.5))

    def told(doubt_m: float) -> Value | str:
        off = np.zeros((24, len(CLOCK), len(POINTS) + 1, 3))
        off[:, :, POINT["near_hip"], 1] = np.random.default_rng(1).normal(0, doubt_m, (24, 1))
        return measure_lift("jerk", lift(replace(lifter, drawn_off=off), events, "split_jerk"))["drive_extension_knee"]

    known = told(0.003)
    assert isinstance(known, Value)
    assert known.value == pytest.approx(STANDING_KNEE_DEG, abs=3.0)
    assert isinstance(told(0.012), str)


SPLIT = {"low_point": 0.5, "first_step": 1.5}


def jerked(knee_back: np.ndarray, near_is_front: bool) -> LiftData:
    """A split held from 0.5 s to 1.5 s: one leg ahead with an upright shin, the other back with its knee at a height of its own."""
    lifter = body(bar=at(0.0, 1.9), hip=at(0.0, 0.8), shoulder=at(0.0, 1.3))
    points = lifter.points.copy()
    front, back = ("near", "far") if near_is_front else ("far", "near")
    for side, ankle, knee in ((front, at(0.4, 0.1), at(0.4, 0.5)), (back, at(-0.5, 0.1), knee_back)):
        for name, place in (("ankle", ankle), ("knee", knee), ("heel", ankle - [0.05, 0.1]), ("toe", ankle + [0.15, -0.1])):
            points[:, POINT[f"{side}_{name}"], :2] = place
    return lift(replace(lifter, points=points), SPLIT, "split_jerk")


def test_the_back_knee_is_what_the_split_holds_and_not_what_the_landing_bends() -> None:
    held = at(-0.25, 0.45)
    landing = np.where((CLOCK < 0.7)[:, None], held + [0.06, -0.06], held)
    steady = number(jerked(held, False), "back_knee_angle", "jerk")
    assert steady == pytest.approx(180.0, abs=0.5)
    assert number(jerked(landing, False), "back_knee_angle", "jerk") == pytest.approx(steady, abs=0.01)


def test_a_leg_behind_the_other_is_judged_only_where_it_is_known() -> None:
    known = jerked(at(-0.25, 0.45), near_is_front=True)
    assert number(known, "back_knee_angle", "jerk") == pytest.approx(180.0, abs=0.5)
    rng = np.random.default_rng(1)
    guessed = rng.normal(0, 0.04, (24, 1, len(POINTS) + 1, 3)) + np.zeros((1, len(CLOCK), 1, 1))
    doubtful = replace(known, body=replace(known.lifter, drawn_off=guessed))
    assert measure_lift("jerk", doubtful)["back_knee_angle"] == "the lifter was not seen well enough here"
    assert number(doubtful, "front_shin_off_vertical", "jerk") == pytest.approx(0.0, abs=0.5)


def test_a_descent_that_was_fastest_between_two_frames_is_braked_from_there() -> None:
    # Half-way between two frames, and 5 % slower in both of them.
    peak, bottom = 0.5 + 0.5 / RATE, 0.8
    speed = -np.clip(2.0 - 1440 * (CLOCK - peak) ** 2, 0, None)
    height = 1.2 - 0.5 * np.clip(CLOCK - 0.1, 0, bottom - 0.1)
    held = lift(body(bar=at(0.0, height), hip=at(0.0, 0.9)), {"descent_start": 0.1, "bottom": bottom, "stand": 1.9}, "back_squat")
    held = replace(held, motion=replace(held.motion, vy_m_s=speed))
    assert number(held, "sink_speed", "squat") == pytest.approx(2.0, abs=0.02)
    assert number(held, "brake_distance", "squat") == pytest.approx(50 * (bottom - peak), abs=0.5)


@pytest.mark.parametrize("through", [4, 5])
def test_between_frames_a_curve_of_a_degree_less_than_the_frames_it_goes_through_is_told_exactly(through: int) -> None:
    # Frames of a phone are not evenly far apart.
    times = np.sort(CLOCK[:40] + np.random.default_rng(3).uniform(-0.3, 0.3, 40) / RATE)
    curve = np.polynomial.Polynomial([0.3, -2.0, 5.0, 8.0, -30.0][:through])
    asked = np.linspace(times[0], times[-1], 133)
    assert between_frames(times, curve(times), asked, through=through) == pytest.approx(curve(asked), abs=1e-9)
    assert between_frames(times, np.sin(9 * times), times, through=through) == pytest.approx(np.sin(9 * times), abs=1e-12)


def test_a_joint_on_a_parabola_is_as_quick_as_its_slope_however_uneven_the_frames_are() -> None:
    times = np.sort(CLOCK + np.random.default_rng(4).uniform(-0.3, 0.3, len(CLOCK)) / RATE)
    lifter = replace(body(bar=at(0.0, 0.0)), time_s=times)
    assert lifter.speed(1.0 - 2.0 * times + 3.0 * times**2)[1:-1] == pytest.approx((6.0 * times - 2.0)[1:-1], abs=1e-9)
    assert lifter.speed(2.0 * times)[[0, -1]] == pytest.approx(2.0)


def test_relations_are_told_of_every_frame_with_how_far_they_may_be_off() -> None:
    shoulder, foot = np.linspace(0.10, 0.30, len(CLOCK)), at(0.02, 0.0)
    held = body(bar=at(0.05, 0.5), shoulder=at(shoulder, 1.2), hip=at(-0.3, 0.8), knee=at(0.04, 0.5), heel=foot, toe=foot)
    off = np.zeros((2, len(CLOCK), len(POINTS) + 1, 3))
    # The one draw has shoulders, the other the bar elsewhere.
    off[0, :, [POINT["near_shoulder"], POINT["far_shoulder"]], 0] = 0.02
    off[1, :, -1, 0] = 0.02
    told = drawn_relations(replace(held, drawn_off=off))
    assert told["shoulder_over_bar"][0] == pytest.approx(100 * (shoulder - 0.05))
    assert told["hip_bar_distance"][0] == pytest.approx(35.0)
    assert told["bar_over_midfoot"][0] == pytest.approx(3.0)
    for name, sd in (("shoulder_over_bar", 2.0), ("knee_over_bar", 1.0), ("bar_over_midfoot", 1.0)):
        assert told[name][1] == pytest.approx(sd), name
    assert drawn_relations(held)["knee_over_bar"][1] == pytest.approx(0.0)


def test_what_passes_a_limit_does_so_between_two_frames() -> None:
    over = CLOCK - 0.507
    assert first_past(CLOCK, over) == pytest.approx(0.507, abs=1e-9)
    assert first_past(CLOCK, -1 - CLOCK) is None
    # What is past it from the first frame on passed it no later.
    assert first_past(CLOCK, 1 + CLOCK) == 0.0
    # Where the frame before is not known, the first that is.
    assert first_past(CLOCK, np.where(CLOCK < 0.8, np.nan, over)) == pytest.approx(0.8, abs=0.5 / RATE)


def test_what_was_past_a_limit_for_a_moment_only_passes_it_when_it_stays() -> None:
    over = np.where(np.abs(CLOCK - 0.3) < 0.05, 0.1, CLOCK - 0.907)
    last = int(1.5 * RATE)
    assert past_until(CLOCK, over, last) == pytest.approx(0.907, abs=1e-9)
    assert past_until(CLOCK, over, int(0.6 * RATE)) is None


def test_a_knee_that_is_straight_between_two_frames_is_read_as_straight_as_it_was() -> None:
    lifter = body(bar=at(0.0, 1.0))
    moment = 0.5 + 0.5 / RATE
    bent = 178 - 4000 * (CLOCK - moment) ** 2
    assert lifter.at(bent, moment) == pytest.approx(178.0, abs=1e-6)
    # In a frame that frame alone counts, and beside one in which the lifter is not known only what is known.
    assert lifter.at(bent, CLOCK[40]) == bent[40]
    unknown = np.where(moment + 1 / RATE < CLOCK, np.nan, bent)
    assert lifter.at(unknown, moment) == pytest.approx(bent[30], abs=1e-6)


def caught(elbow_deg: np.ndarray, doubt_m: float) -> BodyMotion:
    """A lifter under a bar overhead whose elbows are so straight, and known so well."""
    sharp = np.radians(elbow_deg) / 2
    shoulder, reach = np.array([0.0, 1.4]), 0.28 * np.sin(sharp)
    elbow, wrist = at(0.28 * np.cos(sharp), 1.4 + reach), at(0.0, 1.4 + 2 * reach)
    lifter = body(bar=wrist + [0.0, 0.05], shoulder=at(*shoulder), elbow=elbow, wrist=wrist, ear=at(0.05, 1.6), hip=at(0.0, 0.9))
    off = np.zeros((24, len(CLOCK), len(POINTS) + 1, 3))
    off[:, :, [POINT["near_elbow"], POINT["far_elbow"]], 0] = doubt_m * np.linspace(-1.7, 1.7, 24)[:, None, None]
    return replace(lifter, drawn_off=off)


@pytest.mark.parametrize(("held_deg", "locks"), [(174.0, True), (163.0, True), (145.0, False)])
def test_arms_that_are_held_as_good_as_straight_are_locked_when_they_come_to_be_so(held_deg: float, locks: bool) -> None:
    # Known to some five degrees: 163° may as well be straight, 145° may not.
    bending = np.clip(110 + 400 * (CLOCK - 0.9), 110, held_deg)
    lifter = caught(bending, 0.011)
    assert 3 < lifter.doubt_deg("elbow", 1.0) < 8
    bar = {"lift_off": 0.1, "peak_speed": 0.5, "apex": 0.8, "meet": 0.95, "bottom": 1.2}
    told = pull_joint_events(lifter, "snatch", bar)
    assert ("lockout" in told) == locks
    if locks:
        assert told["lockout"] == pytest.approx(0.9 + (held_deg - 110) / 400, abs=0.04)
