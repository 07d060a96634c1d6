"""Instants on curves and measures on paths whose answer is known in closed form."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from atleta.events import done_otherwise, heights_from_stature, recognise, sequence_of
from atleta.events.jerk import jerk_events
from atleta.events.pull import _met_by_thigh
from atleta.events.search import CLEAR_M, GRAVITY_M_S2, first_crossing, largest, let_go, load_taken, onset, set_out, still_since, sunk
from atleta.measures import LiftData, Value, declarations, measure_lift
from atleta.motion import BarMotion, BarTrack, Calibration, Scale, bar_tracks
from atleta.motion.filters import derivatives
from atleta.simulation import Build, Camera
from atleta.tracking import choose_lifted

from .world import lift, true_tracks

G = 9.81
CLOCK = np.arange(0, 3, 1 / 60)


# -- search ---------------------------------------------------------------------------------------------------------------


@given(st.floats(0.3, 2.5), st.floats(0.2, 5))
def test_a_straight_line_crosses_exactly_where_it_should(when: float, slope: float) -> None:
    assert first_crossing(CLOCK, slope * (CLOCK - when), 0.0, after_s=0.0) == pytest.approx(when, abs=1e-9)
    assert first_crossing(CLOCK, -slope * (CLOCK - when), 0.0, after_s=0.0, rising=False) == pytest.approx(when, abs=1e-9)
    assert first_crossing(CLOCK, slope * (CLOCK - when), 0.0, after_s=0.0, rising=False) is None


@given(st.floats(0.5, 2.4))
def test_the_top_of_a_parabola_is_found_between_the_samples(when: float) -> None:
    assert largest(CLOCK, -((CLOCK - when) ** 2), after_s=0.2, before_s=2.8) == pytest.approx(when, abs=1e-6)


@given(st.floats(1.0, 2.2), st.floats(0.1, 0.8))
def test_a_bar_is_let_go_where_it_begins_to_fall_and_not_where_a_filter_swings(when: float, before: float) -> None:
    fallen = np.maximum(CLOCK - when, 0.0)
    y, ay = 1.4 - G / 2 * fallen**2, np.where(fallen > 0, -G, 0.0)
    swings = np.abs(CLOCK - (when - before)) < 0.03
    ay[swings & (fallen == 0)] = [-G, 0.0, -1.2 * G, 0.0, 0.0][: int((swings & (fallen == 0)).sum())]
    assert let_go(CLOCK, y, ay, after_s=0.0, before_s=3.0) == pytest.approx(when, abs=1 / 30)
    assert let_go(CLOCK, np.full_like(y, 1.4), ay, after_s=0.0, before_s=3.0) is None


def test_crossings_and_tops_outside_the_window_are_not_answers() -> None:
    wave = np.sin(2 * np.pi * CLOCK)
    assert first_crossing(CLOCK, wave, 0.5, after_s=0.2) == pytest.approx(1 + 1 / 12, abs=0.002)
    assert first_crossing(CLOCK, wave, 0.5, after_s=0.2, before_s=0.9) is None
    assert largest(CLOCK, wave, after_s=2.9999, before_s=3.5) is None


@given(st.floats(0.4, 1.5), st.floats(1.0, 8.0), st.floats(0.0, 0.0004))
def test_a_push_that_is_there_at_once_begins_when_it_begins(when: float, push: float, noise: float) -> None:
    height = np.where(when < CLOCK, push * (CLOCK - when) ** 2 / 2, 0) + noise * np.random.default_rng(1).normal(0, 1, len(CLOCK))
    found = onset(CLOCK, height, noise=max(noise, 1e-5), upto=0.025)
    assert found is not None
    assert abs(found - when) < 2.5 / 60
    if noise < 5e-5:
        # Not when it is pushed, but when that has taken it so far.
        assert found == pytest.approx(when + np.sqrt(2 * CLEAR_M / push), abs=0.3 / 60)


def test_what_never_rises_never_begins() -> None:
    assert onset(CLOCK, np.zeros_like(CLOCK), noise=0.001, upto=0.025) is None


def test_stillness_counts_from_when_it_lasts() -> None:
    height = np.where(CLOCK < 1.0, CLOCK, 1.0)
    height[(CLOCK > 1.1) & (CLOCK < 1.15)] += 0.05
    assert still_since(CLOCK, height, after_s=0.0, within=0.01, for_s=0.25) == pytest.approx(1.15, abs=0.03)
    assert still_since(CLOCK, CLOCK, after_s=0.0, within=0.01, for_s=0.25) is None
    assert still_since(CLOCK[:5], height[:5], after_s=0.0, within=0.01, for_s=0.25) is None


@given(st.floats(0.3, 1.2), st.floats(0.0, 0.005))
def test_what_is_held_at_its_lowest_has_sunk_when_it_comes_there(when: float, drifts: float) -> None:
    # Down at 1 m/s to a place from which it goes on sinking by less than anybody would call sinking.
    height = np.where(when > CLOCK, 1.0 - CLOCK, 1.0 - when - drifts * (CLOCK - when))
    found = sunk(CLOCK, height, after_s=0.0, before_s=2.0)
    assert found == pytest.approx(when - 0.01 + drifts * (2.0 - when), abs=0.01)
    assert sunk(CLOCK, height, after_s=5.0, before_s=6.0) is None
    assert sunk(CLOCK, np.full_like(CLOCK, 0.4), after_s=0.5, before_s=1.5) == pytest.approx(0.5, abs=1 / 60)


def test_what_quickens_evenly_set_out_when_its_speed_was_none() -> None:
    speed = np.clip(3.0 * (CLOCK - 1.0), 0, None)
    assert set_out(CLOCK, speed, int(np.searchsorted(CLOCK, 1.05))) == pytest.approx(1.0, abs=0.001)
    # What does not quicken, or hardly, is not told to have begun long ago.
    assert set_out(CLOCK, np.full_like(CLOCK, 0.2), 50) == CLOCK[50]
    assert set_out(CLOCK, 0.2 + 0.1 * CLOCK, 50) == pytest.approx(CLOCK[50] - 0.1)


def met(speed_forward: np.ndarray) -> float | None:
    way = data(np.zeros_like(CLOCK), 0.8 + 0 * CLOCK, {}).motion
    return _met_by_thigh(replace(way, vx_m_s=speed_forward), 0.9, 1.4)


def back(when: float, size: float) -> np.ndarray:
    """A bar that comes back and goes on as before, at most so fast."""
    return -size * np.exp(-(((CLOCK - when) / 0.025) ** 2))


def test_the_thigh_meets_the_bar_where_it_sends_it_forward_and_not_where_it_only_sways() -> None:

    struck = np.where(CLOCK > 1.2, 0.5 * np.clip((CLOCK - 1.2) / 0.05, 0, 1), 0.0)
    only = met(back(1.2, 0.2) + struck)
    assert only == pytest.approx(1.2, abs=0.03)
    assert met(back(1.0, 0.25) + back(1.2, 0.2) + struck) == pytest.approx(only, abs=0.005)
    # A sway off the knees may be larger than what the thigh does after it.
    assert met(back(1.0, 0.8) + back(1.2, 0.2) + struck) == pytest.approx(only, abs=0.005)
    # A bar that never comes back is met nowhere that its way shows.
    assert met(np.full_like(CLOCK, 0.1)) is None


@pytest.mark.parametrize(("gained", "late"), [(0.4, True), (1.6, False)])
def test_a_brushed_bar_has_lost_half_of_its_way_back_when_it_is_met_and_a_struck_one_nothing(gained: float, late: bool) -> None:
    # It comes back at 0.4 m/s, evenly, until 1.2 s, and gains so much forward within 80 ms.
    speed = np.interp(CLOCK, [0.9, 1.0, 1.2, 1.28], [0.0, -0.4, -0.41, -0.41 + gained])
    half = 1.2 + 0.08 * 0.205 / gained
    assert met(speed) == pytest.approx(half if late else 1.2, abs=0.012)


def test_a_bar_caught_overhead_is_recovered_with_when_it_is_stood_up_with_and_not_when_it_first_is_calm() -> None:
    # A dip, a drive, a catch a hand's breadth low that is held still for a second, and only then the way up.
    way = [(0.0, 1.40), (0.8, 1.40), (1.2, 1.25), (1.5, 1.62), (1.8, 1.85), (1.9, 1.84), (2.1, 1.78), (3.1, 1.78), (3.6, 1.92), (4.8, 1.92)]
    t = np.arange(0.0, 4.8, 1 / 60)
    y = PchipInterpolator(*zip(*way, strict=True))(t)
    vy = np.gradient(y, t)
    ay = np.gradient(vy, t)
    flat = np.zeros_like(t)
    events = jerk_events(BarMotion(0, t, flat, y, flat, vy, ay, flat, ay, ay, y, 0.0), 0.0, 4.8)
    assert events["recovered"] == pytest.approx(3.55, abs=0.1)


@pytest.mark.parametrize(("rate_hz", "cutoff_hz"), [(30, 10.5), (60, 16.0), (120, 18.0)])
@pytest.mark.parametrize(("grows_s", "sharp"), [(0.005, True), (0.1, False)])
def test_a_bar_that_is_caught_hard_is_not_told_to_be_met_as_early_as_a_filter_shows_it(
    rate_hz: float, cutoff_hz: float, grows_s: float, sharp: bool
) -> None:
    fine = np.arange(0.0, 2.0, 1e-4)
    # It falls from 0.8 s on, and from 1.0 s on is pushed up, soon by more than its weight.
    ay = np.interp(fine, [0.7, 0.8, 1.0, 1.0 + grows_s, 1.2, 1.4], np.array([0, -1, -1, 1.2, 1.2, 0]) * GRAVITY_M_S2)
    true_s, height = 1.0 + grows_s * 0.5 / 2.2, np.cumsum(np.cumsum(ay) * 1e-4) * 1e-4
    off = []
    for first in np.linspace(0, 1, 9) / rate_hz:
        t = np.arange(first, 1.9, 1 / rate_hz)
        seen = np.interp(t, fine, height)
        quick, slower = (derivatives(t, seen, cutoff_hz=hz, rate_hz=rate_hz)[2] for hz in (cutoff_hz, cutoff_hz / 2))
        off.append([load_taken(t, quick, other, apex_s=0.85, before_s=1.5) - true_s for other in (quick, slower)])
    shown, told = np.abs(np.mean(off, axis=0))
    assert told < (0.7 * shown if sharp else 0.1 / rate_hz)


def test_words_for_lifts_are_resolved_or_refused() -> None:
    assert sequence_of("jerk") == ("split_jerk",)
    assert sequence_of("clean_and_jerk") == ("clean", "split_jerk")
    assert sequence_of("snatch") == ("snatch",)
    with pytest.raises(ValueError, match="Known lifts"):
        sequence_of("cartwheel")


def test_what_a_lift_is_taken_for_instead_is_held_received_or_gone_on_with_otherwise() -> None:
    assert done_otherwise("front_squat") == ["overhead_squat", "back_squat"]
    assert done_otherwise("jerk") == ["power_jerk"]
    assert done_otherwise("other") == []
    # A power snatch and a snatch are held, received and stood up with alike, so that one body does for both.
    assert done_otherwise("power_snatch") == ["clean", "snatch_pull", "clean_pull"]
    assert done_otherwise("clean_and_jerk") == ["snatch", "clean", "snatch_pull", "clean_pull"]


@given(st.floats(1.3, 2.2))
def test_the_knee_stands_in_from_stature_and_scatters_with_it(stature: float) -> None:
    heights = heights_from_stature(stature)
    assert 0.25 * stature < heights.knee_m < 0.35 * stature
    assert heights.shifted(1.0).knee_m - heights.knee_m == pytest.approx(heights.knee_sd_m) == pytest.approx(0.02 * stature)


def test_a_stature_in_centimetres_is_refused_in_words() -> None:
    with pytest.raises(ValueError, match="Give it in metres"):
        heights_from_stature(172)


# -- measures on closed forms ----------------------------------------------------------------------------------------------


def data(x: np.ndarray, y: np.ndarray, events: dict[str, float], *, load: float | None = 100.0) -> LiftData:
    speed = [np.gradient(one, CLOCK) for one in (x, y)]
    force = [np.gradient(one, CLOCK) for one in speed]
    return LiftData(
        BarMotion(0, CLOCK, x, y, speed[0], speed[1], force[1], force[0], force[1], force[1], y, 0.0), events, True, 0.225, load, 1.70
    )


def number(held: LiftData, name: str, family: str = "pull") -> float:
    value = measure_lift(family, held)[name]
    assert isinstance(value, Value), value
    return value.value


@given(st.floats(1.0, 2.0))
def test_a_largest_speed_between_two_frames_is_not_missed(when: float) -> None:
    pulled = data(np.zeros_like(CLOCK), 0.225 + 0.5 * CLOCK, {"lift_off": 0.2, "peak_speed": when})
    speed = 2.0 - 60 * (CLOCK - when) ** 2
    pulled = replace(pulled, motion=replace(pulled.motion, vy_m_s=speed))
    assert number(pulled, "peak_velocity") == pytest.approx(2.0, abs=0.001)
    down = replace(pulled, motion=replace(pulled.motion, vy_m_s=-speed), events_s={"dip_start": 0.2, "dip_bottom": when + 0.3})
    assert number(down, "dip_peak_speed", "jerk") == pytest.approx(2.0, abs=0.001)


@given(st.floats(1.0, 1.1))
def test_a_bar_that_is_turned_round_between_two_frames_is_as_quick_as_it_was(contact: float) -> None:
    # A swing of 3 Hz, back before contact and forward after: 0.4 m/s to either side, a quarter of a swing apart.
    speed = 0.4 * np.sin(2 * np.pi * 3 * (CLOCK - contact))
    struck = data(np.zeros_like(CLOCK), 0.8 + 0 * CLOCK, {"contact": contact})
    struck = replace(struck, motion=replace(struck.motion, vx_m_s=speed))
    assert number(struck, "bump_speed") == pytest.approx(0.4 * np.sin(2 * np.pi * 3 * 0.08), abs=0.002)
    assert number(struck, "bar_approach_speed") == pytest.approx(0.4 * np.sin(2 * np.pi * 3 * 0.03), abs=0.002)


@pytest.mark.parametrize("late", [0.1, 0.5, 0.9])
def test_work_counts_up_to_the_largest_speed_wherever_between_two_frames_that_is(late: float) -> None:
    peak = 1.0 + late * (CLOCK[1] - CLOCK[0])
    # Up with g alone at 1 m/s; aside ever faster in the last five hundredths of a second: the work aside is half of the last speed squared.
    aside = 40 * np.clip(CLOCK - (peak - 0.05), 0, None)
    pulled = data(np.zeros_like(CLOCK), 0.225 + CLOCK, {"lift_off": 0.0, "peak_speed": peak})
    motion = replace(pulled.motion, vx_m_s=aside, quick_ax_m_s2=np.where(aside > 0, 40.0, 0.0), quick_ay_m_s2=np.zeros_like(CLOCK))
    up, side = G * peak, (40 * 0.05) ** 2 / 2
    told = number(replace(pulled, motion=replace(motion, vy_m_s=np.ones_like(CLOCK))), "vertical_work_share")
    assert told == pytest.approx(100 * up / (up + side), abs=1.0)


def test_a_bar_pulled_straight_up_with_even_force() -> None:
    a = 2.0
    y = 0.225 + np.where(CLOCK < 1, a * CLOCK**2 / 2, 1.0 + a * (CLOCK - 1) - G * (CLOCK - 1) ** 2 / 2)
    top = 1 + a / G
    pulled = data(np.zeros_like(CLOCK), y, {"lift_off": 0.0, "peak_speed": 1.0, "apex": top, "meet": top})
    assert number(pulled, "peak_velocity") == pytest.approx(2.0, rel=0.06)
    assert number(pulled, "peak_velocity_height") == pytest.approx(1.225, abs=0.01)
    assert number(pulled, "peak_velocity_height_stature") == pytest.approx(100 * 1.225 / 1.7, abs=0.6)
    assert number(pulled, "peak_height") == pytest.approx(1.225 + a**2 / (2 * G), abs=0.005)
    assert number(pulled, "bar_travel") == pytest.approx(1.0 + a**2 / (2 * G), abs=0.02)
    assert number(pulled, "vertical_work_share") == pytest.approx(100)
    assert number(pulled, "early_force_ratio") == pytest.approx(1.0, abs=0.02)
    # Mean power is force times way over time: 100 kg x (2 + g) over 1 m in 1 s.
    assert number(pulled, "mean_power") == pytest.approx(100 * (a + G), rel=0.03)
    assert number(pulled, "drop_to_meet") == pytest.approx(0.0, abs=0.01)


@pytest.mark.parametrize(("swings", "count"), [(0, 0), (1, 1), (2, 2), (3, 3)])
def test_bounces_are_counted_one_by_one(swings: int, count: int) -> None:
    # Down by 10 cm and up again as often as asked, then still.
    phase = np.clip(CLOCK - 0.5, 0, 0.5 * swings)
    y = 1.2 - 0.05 * (1 - np.cos(2 * np.pi * phase / 0.5))
    held = data(np.zeros_like(CLOCK), y, {"meet": 0.5, "stand": 2.9})
    assert number(held, "bounces") == count


def test_a_loop_is_the_way_out_and_the_way_back() -> None:
    x = np.interp(CLOCK, [0, 0.5, 1.0, 1.5, 3], [0, -0.05, 0.08, 0.02, 0.02])
    held = data(x, np.linspace(0.225, 1.2, len(CLOCK)), {"lift_off": 0.0, "knee": 0.3, "contact": 0.5, "meet": 1.5})
    assert number(held, "loop_width") == pytest.approx(13 + 6, abs=0.4)
    assert number(held, "bar_forward_max") == pytest.approx(8, abs=0.2)
    assert number(held, "bar_back_max") == pytest.approx(-5, abs=0.2)
    assert number(held, "bar_forward_before_knee") == 0.0
    assert number(held, "bar_x@meet") == pytest.approx(2, abs=0.2)


def test_a_measure_that_cannot_be_taken_gives_its_reason() -> None:
    held = data(np.zeros_like(CLOCK), np.full_like(CLOCK, 0.5), {"lift_off": 0.2, "peak_speed": 1.0}, load=None)
    told = measure_lift("pull", held)
    assert told["peak_power"] == "the load was not given"
    assert "stature" in str(told["velocity_at_knee"])
    assert "highest point" in str(told["peak_height"])


def test_every_measure_says_what_it_is_and_no_two_share_an_id() -> None:
    told = declarations()
    assert len({declaration.id for declaration in told}) == len(told)
    for declaration in told:
        assert declaration.label
        assert declaration.about.endswith(".")
        assert declaration.families


@pytest.mark.parametrize(
    "kind",
    [
        "snatch",
        "clean",
        "power_snatch",
        "power_clean",
        "snatch_pull",
        "clean_pull",
        "split_jerk",
        "front_squat",
        "overhead_squat",
        "continental_clean",
    ],
)
@pytest.mark.parametrize("stature", [1.58, 1.88])
def test_the_kind_of_lift_is_recognised_from_the_bar(kind: str, stature: float) -> None:
    raw, truth = true_tracks(lift(kind, Build(stature)), Camera(cover_m=3.0, aim_height_m=1.25), noise_px=0.05)
    against = {"front_squat": (0.06, 0.0), "overhead_squat": (0.0, 0.6)}.get(kind)
    calibration = Calibration(Scale(truth["m_per_px"], 0.0, "disc", 0.45), 0.0, 0.0, "coach", "right", "coach", True)
    (bar,) = bar_tracks(raw.frame_time_s, choose_lifted(raw), calibration)
    seen = recognise(bar.motion, disc_radius_m=0.225, stature_m=stature, bar_against_shoulder_m=against)
    assert seen is not None
    assert seen.kind == ("clean_pull" if kind.endswith("pull") else kind)
    assert 0.5 <= seen.probability <= 1


def test_a_bar_that_lies_still_is_no_lift() -> None:
    still = BarTrack(0, np.arange(60) / 60, np.zeros(60), np.full(60, 0.2), np.full(60, 1e-3), np.zeros(60, bool), 60.0, 6.0, 6.0, 6.0)
    assert recognise(still.motion, disc_radius_m=0.225, stature_m=1.7, bar_against_shoulder_m=None) is None
