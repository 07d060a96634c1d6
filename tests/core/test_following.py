"""Whether it helped: a film against its pass rule, the next load, a number before and after."""

from __future__ import annotations

from math import sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from atleta.coaching import Pass, changed, follow_up, load_library, next_percent

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


def test_a_number_moved_or_is_not_shown_to_have() -> None:
    # From 6 ± 0.5 cm to 2 ± 0.5 cm: 4 cm better with a deviation of 0.5 x sqrt 2 = 0.71.
    told = changed([(6.0, 0.5)], [(2.0, 0.5)], less_is_better=True)
    assert told is not None
    assert (told.word, told.by, told.sd) == ("changed", 4.0, pytest.approx(0.5 * sqrt(2)))
    assert changed([(6.0, 2.0)], [(4.0, 2.0)], less_is_better=True).word == "not_shown"  # type: ignore[union-attr]
    assert changed([(2.0, 0.5)], [(6.0, 0.5)], less_is_better=True).word == "worse"  # type: ignore[union-attr]
    assert changed([(2.0, 0.5)], [(6.0, 0.5)], less_is_better=False).word == "changed"  # type: ignore[union-attr]
    assert changed([], [(6.0, 0.5)], less_is_better=True) is None


def test_lifts_that_differ_among_each_other_make_a_change_less_sure() -> None:
    # Means 6 and 4; the first differ by 2, 6 and 10: their mean is uncertain by 4 / sqrt 3 = 2.3, so 2 cm is nothing.
    told = changed([(2.0, 0.1), (6.0, 0.1), (10.0, 0.1)], [(4.0, 0.1)], less_is_better=True)
    assert told is not None
    assert told.word == "not_shown"
    assert told.sd == pytest.approx(4 / sqrt(3), rel=0.01)
