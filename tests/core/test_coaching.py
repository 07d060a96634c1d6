"""From finding to work: the library holds together, loads are what can be loaded, cautions come first."""

from __future__ import annotations

from dataclasses import replace
from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from atleta.coaching import Rack, best_lift, candidates, drill_lift, load_bar, load_ladders, load_library
from atleta.faults import load_catalogue
from atleta.measures import declarations

weights = st.dictionaries(st.sampled_from([25.0, 20.0, 15.0, 10.0, 5.0, 2.5, 1.25, 1.0, 0.5]), st.integers(0, 2), max_size=5)


@given(st.floats(20, 250), weights, st.sampled_from([15.0, 20.0]), st.sampled_from([0.0, 5.0]))
def test_no_loadable_weight_lies_between_the_load_and_what_was_asked(target: float, pairs: dict, bar: float, collars: float) -> None:
    loading = load_bar(target, Rack("kg", bar, collars, pairs))
    sides = [sum(w * n for w, n in zip(pairs, counts, strict=True)) for counts in product(*(range(n + 1) for n in pairs.values()))]
    loadable = [bar + collars + 2 * side for side in sides if bar + collars + 2 * side <= target + 1e-9]
    assert loading.total == pytest.approx(max(loadable, default=bar))
    if loadable:
        assert loading.total == pytest.approx(bar + collars + 2 * sum(loading.per_side))
    for weight in pairs:
        assert loading.per_side.count(weight) <= pairs[weight]
    assert list(loading.per_side) == sorted(loading.per_side, reverse=True)


def test_the_fewest_discs_are_taken() -> None:
    assert load_bar(70, Rack(pairs={20.0: 1, 15.0: 1, 10.0: 2, 5.0: 2})).per_side == (20.0, 5.0)
    assert load_bar(80, Rack(pairs={15.0: 2, 20.0: 1, 10.0: 1})).per_side == (20.0, 10.0)


def test_less_than_the_bar_gives_the_bar_alone() -> None:
    loading = load_bar(12, Rack(collars=5.0))
    assert (loading.total, loading.per_side, loading.collars) == (20.0, (), 0.0)


def test_pounds_and_kilograms_are_told_apart() -> None:
    loading = load_bar(135, Rack("lb", 45.0, 0.0, {45.0: 1}))
    assert loading.total == 135
    assert loading.total_kg == pytest.approx(61.235, abs=1e-3)


@pytest.mark.parametrize("wrong", [{"unit": "stone"}, {"bar": 0.0}, {"collars": -1.0}, {"pairs": {-5.0: 1}}, {"pairs": {5.0: -1}}])
def test_an_impossible_rack_is_refused(wrong: dict) -> None:
    with pytest.raises(ValueError, match=r"unit|weigh"):
        Rack(**wrong)


# -- library --------------------------------------------------------------------------------------------------------------


def test_the_library_holds_together() -> None:
    library, faults = load_library(), load_catalogue().faults
    measures = {declaration.id for declaration in declarations()}
    # With the forms for snatch, clean and jerk counted one by one.
    assert sum(len(exercise.lifts) for exercise in library.values()) >= 80
    for exercise in library.values():
        assert set(exercise.answers) <= set(faults)
        assert set(exercise.watch) <= measures
        assert exercise.percent[0] <= exercise.start_percent <= exercise.percent[1]
        for lift in exercise.lifts:
            assert "{" not in exercise.named(lift)
            assert exercise.named(lift)[0].isupper()
    for fault in faults.values():
        assert set(fault.drills) <= set(library)


def test_every_measured_fault_has_a_drill_for_every_lift_it_is_found_in() -> None:
    for fault in load_catalogue().faults.values():
        for lift in {drill_lift(kind) for kind in fault.kinds} if fault.measured else ():
            assert candidates([fault.id], [], lift)[0], (fault.id, lift)


@pytest.mark.parametrize(
    ("kind", "drills", "best"),
    [
        ("power_snatch", "snatch", "snatch"), ("overhead_squat", "snatch", "snatch"), ("clean_pull", "clean", "clean"),
        ("split_jerk", "jerk", "jerk"), ("front_squat", "clean", "front_squat"), ("back_squat", "clean", "back_squat"),
        ("continental_clean", "clean", "clean_and_press"), ("press", "jerk", "clean_and_press"),
    ],
)  # fmt: skip
def test_a_kind_of_lift_has_drills_of_one_lift_and_is_held_against_one_best(kind: str, drills: str, best: str) -> None:
    assert (drill_lift(kind), best_lift(kind)) == (drills, best)


def test_work_that_loads_the_low_back_says_so_and_is_set_once_a_week_at_first() -> None:
    for exercise in load_library().values():
        if exercise.low_back:
            assert any("back" in caution for caution in exercise.cautions), exercise.id
            assert exercise.per_week == 1, exercise.id


def test_ladders_go_from_step_to_step_with_rules_that_can_be_measured() -> None:
    ladders = load_ladders()
    assert {"snatch_top_down", "snatch_bottom_up", "clean_top_down", "clean_bottom_up", "overhead_squat_group", "split_jerk",
            "axle_continental", "implements"} <= set(ladders)  # fmt: skip
    for ladder in ladders.values():
        assert any(step.passes for step in ladder.steps) or ladder.id == "axle_continental", ladder.id
        for step in ladder.steps:
            assert all((rule.at_least is None) != (rule.at_most is None) for rule in step.passes)


def test_neighbours_know_each_other() -> None:
    library = load_library()
    for exercise in library.values():
        assert exercise.id not in {*exercise.easier, *exercise.harder}
        assert not set(exercise.easier) & set(exercise.harder), exercise.id


# -- choosing -------------------------------------------------------------------------------------------------------------


def test_what_answers_the_first_cause_comes_before_what_answers_its_effects() -> None:
    offered, caution = candidates(["bar_forward_off_floor"], ["bar_looped"], "snatch")
    assert caution == ""
    direct = ["the first cause;" in one.reason for one in offered]
    assert direct == sorted(direct, reverse=True)
    assert offered[0].worth == max(one.worth for one in offered)


def test_an_exercise_that_answers_two_roots_is_worth_both() -> None:
    both = {one.exercise.id: one.worth for one in candidates(["bar_forward_off_floor", "yanked_from_floor"], [], "clean")[0]}
    one = {one.exercise.id: one.worth for one in candidates(["yanked_from_floor"], [], "clean")[0]}
    assert both["pull_pause_knee"] == pytest.approx(
        one["pull_pause_knee"] + load_library()["pull_pause_knee"].answers["bar_forward_off_floor"]
    )


@pytest.mark.parametrize("pain", [4, 7, 10])
def test_pain_from_four_on_stops_everything_and_sends_to_a_clinician(pain: int) -> None:
    offered, caution = candidates(["bar_forward_off_floor"], [], "snatch", pain=pain)
    assert offered == []
    assert "clinician" in caution


def test_a_bruise_leaves_out_contact_only() -> None:
    roots = ["bar_forward_off_floor", "bar_looped"]
    free, _ = candidates(roots, [], "snatch", pain=3)
    bruised, caution = candidates(roots, [], "snatch", contact_bruise=True)
    left_out = {one.exercise.id for one in free} - {one.exercise.id for one in bruised}
    assert left_out == {one.exercise.id for one in free if one.exercise.contact} != set()
    assert "healed" in caution


def test_a_habit_asks_for_drills_and_a_weakness_for_strength() -> None:
    def kinds(habit: bool | None) -> list[str]:
        return [one.exercise.kind for one in candidates(["hips_rise_first"], [], "clean", habit=habit)[0]]

    assert kinds(True)[0] == "technique_drill"
    assert kinds(False)[0] in ("pull_variation", "strength")
    assert sorted(kinds(None)) == sorted(kinds(True))
    assert "at every load" in next(
        one.reason for one in candidates(["hips_rise_first"], [], "clean", habit=True)[0] if one.exercise.kind == "technique_drill"
    )


def test_what_did_not_help_for_a_block_is_replaced_by_its_neighbour() -> None:
    offered, _ = candidates(["bar_forward_off_floor"], [], "snatch", unchanged=["halting_pull_knee"])
    assert "halting_pull_knee" not in {one.exercise.id for one in offered}
    neighbours = {*load_library()["halting_pull_knee"].harder, *load_library()["halting_pull_knee"].easier}
    told = {one.exercise.id for one in offered if "did not move the number" in one.reason}
    assert told
    assert told <= neighbours


def test_a_tired_session_ends_the_technical_work() -> None:
    offered, caution = candidates(["bar_looped"], [], "snatch", tired="the bar comes forward")
    assert offered == []
    assert caution == "The bar comes forward over the last sets of this session: technical work is over for today."


def test_the_coach_hides_exercises_and_brings_their_own() -> None:
    usual = candidates(["bar_looped"], [], "snatch")[0]
    first = usual[0].exercise
    assert first.id not in {one.exercise.id for one in candidates(["bar_looped"], [], "snatch", hidden=[first.id])[0]}
    own = replace(first, id="doorway_snatch", name="Doorway {lift}", answers={"bar_looped": 1.0})
    assert "doorway_snatch" in {one.exercise.id for one in candidates(["bar_looped"], [], "snatch", own=[own])[0]}
