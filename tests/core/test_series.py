"""Several lifts together, against numbers whose answer is known."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta
from typing import NamedTuple

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from atleta.faults import load_catalogue, taught
from atleta.series import (
    LEAST_LIFTS,
    Lifts,
    first_against_last,
    leaves_first,
    load_speed_profile,
    made_against_missed,
    over_repetitions,
    usual_band,
)
from atleta.series.lifts import median

DAY = date(2026, 9, 1)
CATALOGUE = load_catalogue()


class Row(NamedTuple):
    load: float
    order: int
    made: bool | None
    on: date
    set: str
    kind: str
    sd: float
    values: dict[str, float]


def entry(load: float, order: int = 0, *, made: bool | None = True, on: date = DAY, set: str = "", kind: str = "snatch",
          sd: float = 0.01, **values: float) -> Row:  # fmt: skip
    return Row(load, order, made, on, set or str(order), kind, sd, values)


def laid(rows: Sequence[Row]) -> Lifts:
    rows = sorted(rows, key=lambda one: (one.on, one.order))
    measures = tuple(dict.fromkeys(name for one in rows for name in one.values))
    value = np.array([[one.values.get(name, np.nan) for name in measures] for one in rows]).reshape(len(rows), len(measures))
    sd = np.where(np.isfinite(value), np.array([[one.sd] for one in rows]).reshape(-1, 1), np.nan)
    made = [np.nan if one.made is None else float(one.made) for one in rows]
    return Lifts(
        np.array([f"{one.on}-{one.order}" for one in rows], str), np.array([one.set for one in rows], str),
        np.array([one.kind for one in rows], str), np.array([one.on for one in rows], "datetime64[D]"),
        np.array([one.load for one in rows], float), np.array(made, float), measures, value, sd,
    )  # fmt: skip


# -- load and speed -------------------------------------------------------------------------------------------------------


@given(st.floats(1.7, 2.1), st.floats(0.008, 0.02), st.integers(75, 90))
def test_a_speed_held_up_to_a_load_and_lost_beyond_it_is_found_so(plateau: float, slope: float, breaks_at: int) -> None:
    loads = np.arange(60, 106, 5)
    row = [entry(load, i, peak_velocity=plateau - slope * max(load - breaks_at, 0)) for i, load in enumerate(loads)]
    profile = load_speed_profile(laid(row))
    assert profile is not None
    assert profile.plateau_m_s == pytest.approx(plateau, abs=0.01)
    assert profile.break_kg == pytest.approx(breaks_at, abs=1.5)
    assert profile.slope_m_s_per_10_kg == pytest.approx(-10 * slope, rel=0.12)
    assert profile.at(60) == pytest.approx(plateau, abs=0.01)
    assert profile.at(105) == pytest.approx(plateau - slope * (105 - breaks_at), abs=0.02)


def test_a_speed_that_falls_all_along_has_no_break() -> None:
    rng = np.random.default_rng(2)
    row = [entry(load, i, peak_velocity=2.2 - 0.006 * load + rng.normal(0, 0.02)) for i, load in enumerate(range(50, 101, 5))]
    profile = load_speed_profile(laid(row))
    assert profile is not None
    assert (profile.plateau_m_s, profile.break_kg) == (None, None)
    assert profile.slope_m_s_per_10_kg == pytest.approx(-0.06, abs=0.015)
    assert profile.spread_m_s == pytest.approx(0.02, rel=0.6)


def test_fewer_than_four_loads_are_no_profile_and_misses_do_not_count() -> None:
    row = [entry(load, peak_velocity=1.9) for load in (60, 60, 70, 80)]
    assert load_speed_profile(laid(row)) is None
    assert load_speed_profile(laid([*row, entry(90, made=False, peak_velocity=1.5)])) is None
    assert load_speed_profile(laid([*row, entry(90, peak_velocity=1.8)])) is not None


# -- what is usual --------------------------------------------------------------------------------------------------------


def test_a_band_needs_eight_made_lifts_at_sixty_percent_and_says_how_many_there_are() -> None:
    row = [entry(70, i, loop_out=8 + 0.1 * i) for i in range(LEAST_LIFTS - 1)]
    light, missed = entry(40, loop_out=30), entry(75, made=False, loop_out=30)
    assert usual_band(laid([*row, light, missed]), "loop_out", 100) == LEAST_LIFTS - 1
    band = usual_band(laid([*row, entry(72, loop_out=8.7), light, missed]), "loop_out", 100)
    assert not isinstance(band, int)
    assert (band.lifts, band.middle) == (8, pytest.approx(8.35))
    assert band.low < 8 < 8.7 < band.high < 10


def test_one_odd_lift_does_not_widen_the_band_and_it_is_no_narrower_than_numbers_are_known() -> None:
    row = [entry(70, i, sd=0.5, loop_out=8.0) for i in range(10)]
    band = usual_band(laid([*row, entry(70, loop_out=40)]), "loop_out", 100)
    assert not isinstance(band, int)
    assert (band.low, band.high) == (pytest.approx(7.0), pytest.approx(9.0))


# -- heavier --------------------------------------------------------------------------------------------------------------


def test_what_passes_its_limit_first_and_stays_beyond_leads() -> None:
    loads = (60, 70, 80, 90)
    row = [
        entry(load, i, loop_out=loop, bar_forward_before_knee=forward, lean_back=lean, drop_to_meet=8, meet_speed=0.5)
        for i, (load, loop, forward, lean) in enumerate(zip(loads, (3, 4, 5, 9), (0.2, 0.6, 1.4, 2.5), (16, 10, 11, 12), strict=True))
    ]
    found = leaves_first(laid(row), CATALOGUE)
    assert [(one.fault, one.load_kg) for one in found] == [("bar_forward_off_floor", 80), ("bar_looped", 90)]
    assert (found[0].lightest, found[0].there, found[0].heaviest, found[0].limit) == (0.2, 1.4, 2.5, 1.0)


def test_what_comes_and_goes_does_not_break_and_two_loads_tell_nothing() -> None:
    row = [entry(load, loop_out=loop) for load, loop in ((60, 3), (70, 8), (80, 3))]
    assert leaves_first(laid(row), CATALOGUE) == []
    assert leaves_first(laid([entry(60, loop_out=3), entry(80, loop_out=16)]), CATALOGUE) == []
    # What was beyond at the lightest load does not break later, nor does what only noise carries over its limit.
    assert leaves_first(laid([entry(load, loop_out=loop) for load, loop in ((60, 7), (70, 4), (80, 8))]), CATALOGUE) == []
    assert leaves_first(laid([entry(load, sd=2.0, loop_out=loop) for load, loop in ((60, 4), (70, 5), (80, 7))]), CATALOGUE) == []
    assert leaves_first(laid([]), CATALOGUE) == []


def test_a_coachs_school_has_its_say_in_what_breaks() -> None:
    row = [entry(load, early_force_ratio=ratio) for load, ratio in ((60, 0.8), (70, 0.9), (80, 1.2))]
    assert [one.fault for one in leaves_first(laid(row), CATALOGUE)] == ["yanked_from_floor"]
    assert leaves_first(laid(row), taught({"first_pull_speed": "fast"})) == []


# -- against each other ---------------------------------------------------------------------------------------------------


def test_misses_stand_against_made_lifts_of_about_their_load() -> None:
    row = [entry(60, 0, loop_out=2), entry(94, 1, loop_out=8.0), entry(95, 2, loop_out=8.4),
           entry(97, 3, made=False, loop_out=14.0)]  # fmt: skip
    (told,) = made_against_missed(laid(row))
    assert (told.first, told.then, told.counts) == (pytest.approx(8.2), 14.0, (2, 1))
    assert told.shown
    assert made_against_missed(laid(row[:3])) == []


def test_a_difference_within_its_own_doubt_is_not_shown() -> None:
    row = [entry(94, 0, sd=2.0, loop_out=8.0), entry(95, 1, made=False, sd=2.0, loop_out=11.0)]
    (told,) = made_against_missed(laid(row))
    assert told.sd == pytest.approx(np.hypot(2, 2))
    assert not told.shown


def test_the_last_set_stands_against_the_first_of_the_same_load_and_day() -> None:
    later = DAY + timedelta(days=7)
    row = [entry(80, i, set=str(i), peak_velocity=1.9 - 0.05 * i) for i in range(4)]
    row += [entry(80, 0, on=later, set="a", peak_velocity=1.0), entry(60, 5, set="light", peak_velocity=2.2)]
    (told,) = first_against_last(laid(row))
    assert (told.first, told.then) == (1.9, pytest.approx(1.75))
    assert told.shown
    assert first_against_last(laid(row[:1])) == []


@given(st.floats(-2, 2), st.integers(3, 6))
def test_the_trend_over_repetitions_is_the_change_from_one_to_the_next(step: float, count: int) -> None:
    row = [entry(80, i, set="one", loop_out=8 + step * i) for i in range(count)]
    spread, slope = over_repetitions(laid(row))["loop_out"]
    assert slope.value == pytest.approx(step, abs=1e-9)
    assert spread == pytest.approx(abs(step) * np.std(range(count), ddof=1), abs=1e-9)
    assert slope.sd > 0
    assert over_repetitions(laid(row[:2])) == {}


def test_medians_are_those_of_what_is_known() -> None:
    table = np.array([[1.0, np.nan, 4.0], [5.0, np.nan, np.nan], [2.0, np.nan, 7.0]])
    assert median(table).tolist()[::2] == [2.0, 5.5]
    assert np.isnan(median(table)[1])
