"""Whether it helped: a film against its pass rule, the next load, a number before and after."""

from __future__ import annotations

from math import hypot, sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from atleta.coaching import Filmed, Pass, changed, follow_up, load_library, next_percent

HOLD = (Pass("hold_time", at_least=3.0), Pass("hold_drift_trunk", at_most=4.0))


@pytest.mark.parametrize(("hold", "tips", "step"), [
    # 3.2 s against 3 s is 4 deviations above, 2° against 4° is 2 below: both all but certain.
    ((3.2, 0.05), (2.0, 1.0), "up"),
    # 2.4 s is 12 deviations short.
    ((2.4, 0.05), (2.0, 1.0), "back"),
    # 3.02 s with 0.05 s is kept with 66 %: the film cannot tell.
    ((3.02, 0.05), (2.0, 1.0), "repeat"),
    # The trunk tips by 9°: shape lost.
    ((3.2, 0.05), (9.0, 1.0), "back"),
])  # fmt: skip
def test_a_pause_is_held_against_its_rule(hold: tuple, tips: tuple, step: str) -> None:
    told = follow_up(HOLD, {"hold_time": hold, "hold_drift_trunk": tips})
    assert told.step == step
    assert told.passed == (step == "up")


def test_what_could_not_be_seen_is_filmed_again() -> None:
    told = follow_up(HOLD, {"hold_time": (3.2, 0.05)})
    assert told.step == "repeat"
    assert "could not be seen" in told.says
    assert told.rules[1].probability is None


def test_a_missed_repetition_or_the_fault_itself_is_a_step_back() -> None:
    measured = {"hold_time": (3.2, 0.05), "hold_drift_trunk": (2.0, 0.5)}
    assert follow_up(HOLD, measured, missed=1).says == "1 missed: step back 5 %."
    assert "“bar looped” is still there" in follow_up((), {}, faults=["Bar looped"]).says.lower()
    assert follow_up((), {}).step == "up"


def test_every_pass_rule_of_the_library_can_be_kept_and_not_kept() -> None:
    for exercise in load_library().values():
        for rule in exercise.passes:
            limit = rule.at_least if rule.at_least is not None else rule.at_most
            assert limit is not None
            inside, outside = (limit + 10, limit - 10) if rule.at_least is not None else (limit - 10, limit + 10)
            assert follow_up([rule], {rule.measure: (inside, 1.0)}).step == "up", exercise.id
            assert follow_up([rule], {rule.measure: (outside, 1.0)}).step == "back", exercise.id


@given(st.floats(0, 110), st.sampled_from(["up", "repeat", "back"]), st.floats(50, 110))
def test_the_next_share_is_never_above_the_ceiling(percent: float, step: str, ceiling: float) -> None:
    assert 0 <= next_percent(percent, step, ceiling) <= ceiling


def test_the_next_share_by_hand() -> None:
    assert [next_percent(70, step, 80) for step in ("up", "repeat", "back")] == [72.5, 70, 65]
    assert next_percent(79, "up", 80) == 80


def test_a_film_that_cannot_show_the_fault_does_not_say_that_it_is_gone() -> None:
    told = follow_up((), {}, shows_faults=False)
    assert (told.step, told.passed) == ("repeat", False)
    assert "your eye decides" in told.says
    # Rules of its own are kept or not, whatever the fault.
    assert follow_up(HOLD, {"hold_time": (3.2, 0.05), "hold_drift_trunk": (2.0, 0.5)}, shows_faults=False).step == "up"


# -- before and after ---------------------------------------------------------------------------------------------------------


def at(load: float | None, *values: float, sd: float = 0.5) -> list[Filmed]:
    return [Filmed(value, sd, load) for value in values]


def word(before: list[Filmed], after: list[Filmed], **more: object) -> str:
    told = changed(before, after, **{"less_is_better": True, **more})  # type: ignore[arg-type]
    assert told is not None
    return told.word


def test_a_number_moved_or_is_not_shown_to_have() -> None:
    # From 6 ± 0.5 cm to 2 ± 0.5 cm: 4 cm better with a deviation of 0.5 x sqrt 2 = 0.71.
    told = changed(at(76, 6.0), at(76, 2.0), less_is_better=True)
    assert told is not None
    assert (told.word, told.by, told.sd, told.load_kg) == ("changed", 4.0, pytest.approx(0.5 * sqrt(2)), 76)
    assert word(at(76, 6.0, sd=2.0), at(76, 4.0, sd=2.0)) == "not_shown"
    assert word(at(76, 2.0), at(76, 6.0)) == "worse"
    assert word(at(76, 2.0), at(76, 6.0), less_is_better=False) == "changed"
    assert changed([], at(76, 6.0), less_is_better=True) is None


def test_lifts_that_differ_among_each_other_make_a_change_less_sure() -> None:
    # Means 6 and 4; the first differ by 2, 6 and 10: their mean is uncertain by 4 / sqrt 3 = 2.3, and the single one after by 4.
    told = changed(at(76, 2.0, 6.0, 10.0, sd=0.1), at(76, 4.0, sd=0.1), less_is_better=True)
    assert told is not None
    assert told.word == "not_shown"
    assert told.sd == pytest.approx(hypot(4 / sqrt(3), 4), rel=0.01)


def test_only_like_loads_are_compared_and_otherwise_it_says_what_to_film() -> None:
    # 78 kg is within 3 % of 76, 79 is not.
    assert word(at(76, 6.0), at(78, 2.0)) == "changed"
    told = changed(at(76, 6.0), at(79, 2.0), less_is_better=True)
    assert (told.word, told.before, told.load_kg) == ("not_comparable", None, 76)  # type: ignore[union-attr]
    assert word(at(None, 6.0), at(None, 2.0)) == "not_comparable"
    # Of several loads the heaviest that both have; a heavier one before says nothing.
    both = changed([*at(60, 3.0), *at(76, 6.0), *at(80, 9.0)], [*at(60, 3.0), *at(76, 2.0)], less_is_better=True)
    assert (both.load_kg, both.before, both.after) == (76, 6.0, 2.0)  # type: ignore[union-attr]


def test_the_athletes_own_curve_over_four_loads_carries_a_number_to_another_load() -> None:
    # It grows by 0.1 cm a kg: 6 at 76 is 4.4 at 60, where 1.0 was seen afterwards.
    others = [one for load in (50, 60, 70, 80) for one in at(load, 6.0 + 0.1 * (load - 76), sd=0.1)]
    told = changed(at(76, 6.0, sd=0.1), at(66, 1.0, sd=0.1), less_is_better=True, others=others)
    assert told is not None
    assert (told.word, told.load_kg) == ("changed", 66)
    assert told.before == pytest.approx(5.0, abs=0.01)
    assert word(at(76, 6.0), at(66, 1.0), others=others[:2]) == "not_comparable"


def test_the_athletes_own_scatter_stands_in_for_that_of_a_single_lift() -> None:
    others = at(76, 3.0, 6.0, 9.0, sd=0.1)
    assert word(at(76, 6.0, sd=0.1), at(76, 2.0, sd=0.1)) == "changed"
    assert word(at(76, 6.0, sd=0.1), at(76, 2.0, sd=0.1), others=others) == "not_shown"
