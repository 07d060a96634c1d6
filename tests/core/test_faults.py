"""The rules engine on numbers: how likely a fault is, when it cannot be told, and which finding explains which."""

from __future__ import annotations

import copy
import json
import tomllib
from importlib.resources import files
from math import erf, sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from atleta.analysis.findings import spoken
from atleta.faults import Threshold, explain, judge, load_catalogue
from atleta.faults.catalogue import PHASES, read_catalogue
from atleta.faults.engine import Finding, Measured
from atleta.simulation.verdict import limits

CATALOGUE = load_catalogue()


def verdict(fault: str, kind: str = "snatch", thresholds: dict | None = None, **measures: tuple[float | None, float]) -> Finding:
    known = {name.replace("_at_", "@"): Measured(value, sd, "cm", 10, "hidden") for name, (value, sd) in measures.items()}
    return next(one for one in judge(CATALOGUE, kind, known, thresholds=thresholds) if one.fault.id == fault)


# -- engine ---------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("value", "level"), [(0.5, "fine"), (1.5, "watch"), (2.5, "fault")])
def test_a_number_falls_between_its_thresholds(value: float, level: str) -> None:
    assert verdict("bar_forward_off_floor", bar_forward_before_knee=(value, 0.1)).level == level


@given(st.floats(-5, 10), st.floats(0.05, 0.95))
def test_the_probability_is_that_of_the_true_value_beyond_the_threshold(value: float, sd: float) -> None:
    found = verdict("bar_forward_off_floor", bar_forward_before_knee=(value, sd))
    assert found.probability == pytest.approx(0.5 * (1 + erf((value - 2.0) / sd / sqrt(2))), abs=1e-9)
    assert found.watch_probability >= found.probability


@given(st.floats(-5, 10), st.floats(0.0, 0.9), st.floats(0.0, 3.0))
def test_more_of_the_sign_never_makes_the_fault_less_likely(value: float, sd: float, more: float) -> None:
    less = verdict("bar_forward_off_floor", bar_forward_before_knee=(value, sd))
    assert verdict("bar_forward_off_floor", bar_forward_before_knee=(value + more, sd)).probability >= less.probability


def test_an_exactly_known_number_is_beyond_or_not() -> None:
    assert verdict("bar_looped", loop_width=(15.01, 0.0)).probability == 1.0
    assert verdict("bar_looped", loop_width=(14.99, 0.0)).probability == 0.0


def test_uncertainty_wider_than_from_watch_to_fault_cannot_tell() -> None:
    found = verdict("bar_looped", loop_width=(24.0, 5.1))
    assert (found.level, found.probability) == ("cannot_tell", 0.0)
    assert "wider than the distance" in found.reason
    assert verdict("bar_looped", loop_width=(24.0, 4.9)).level == "fault"
    assert verdict("bar_looped", loop_width=(1.0, 5.1)).level == "cannot_tell"


def test_a_number_two_deviations_beyond_its_limits_is_graded_however_wide_they_are() -> None:
    assert verdict("bar_looped", loop_width=(26.0, 5.1)).level == "fault"
    assert verdict("bar_looped", loop_width=(-1.0, 5.1)).level == "fine"


def test_missing_data_never_fires_a_rule() -> None:
    assert verdict("bar_looped").level == "cannot_tell"
    found = verdict("bar_looped", loop_width=(None, 0.0))
    assert (found.level, found.reason) == ("cannot_tell", "hidden")


def test_a_rule_of_two_conditions_needs_both() -> None:
    both = verdict("bar_crashed", "clean", drop_to_meet=(20.0, 0.5), meet_speed=(1.5, 0.05))
    slow = verdict("bar_crashed", "clean", drop_to_meet=(20.0, 0.5), meet_speed=(0.5, 0.05))
    unseen = verdict("bar_crashed", "clean", drop_to_meet=(20.0, 0.5))
    assert (both.level, slow.level, unseen.level) == ("fault", "fine", "cannot_tell")


def test_conditions_that_are_known_settle_a_rule_or_leave_it_open() -> None:
    # Both are needed, and one plainly does not hold.
    assert verdict("bar_crashed", "clean", meet_speed=(0.5, 0.05)).level == "fine"
    # Either is enough, and one plainly holds.
    tipped = verdict("hips_rise_first", trunk_change_to_knee=(-14.0, 1.0))
    assert tipped.level == "fault"
    # Either is enough, the one that is known does not hold, and the other may.
    open_ = verdict("hips_rise_first", trunk_change_to_knee=(0.0, 1.0), hip_shoulder_rise_ratio_at_pull=(None, 0.0))
    assert (open_.level, open_.reason) == ("cannot_tell", "hidden")


@pytest.mark.parametrize(
    ("time_s", "depth", "level"),
    [
        ((0.22, 0.005), (8.5, 0.1), "fault"),
        ((0.22, 0.005), (5.5, 0.1), "fine"),
        ((0.28, 0.005), (8.5, 0.1), "watch"),
        ((0.45, 0.005), (8.5, 0.1), "fine"),
        # As likely as not deep enough: no more likely a fault than that.
        ((0.22, 0.005), (7.0, 0.5), "watch"),
        ((None, 0.0), (5.5, 0.1), "fine"),
        ((None, 0.0), (8.5, 0.1), "cannot_tell"),
        ((0.22, 0.005), (None, 0.0), "cannot_tell"),
    ],
)
def test_a_dip_is_rushed_through_only_if_it_is_deep(time_s: tuple, depth: tuple, level: str) -> None:
    assert verdict("dip_rushed", "split_jerk", dip_peak_speed=(0.6, 0.01), dip_time=time_s, dip_depth_stature=depth).level == level
    fast = verdict("dip_rushed", "split_jerk", dip_peak_speed=(1.5, 0.01), dip_time=time_s, dip_depth_stature=depth)
    assert fast.level == "fault"


@pytest.mark.parametrize(("click", "times"), [((26.0, 1.0), 2.0), ((14.0, 1.0), 1.0), ((20.0, 1.0), 1.5), ((None, 0.0), 1.0)])
def test_a_click_that_is_heard_makes_a_struck_bar_likelier_and_alone_is_nothing(click: tuple, times: float) -> None:
    silent = verdict("banged_away", bump_speed=(0.53, 0.1))
    heard = verdict("banged_away", bump_speed=(0.53, 0.1), contact_click=click)
    odds = silent.probability / (1 - silent.probability)
    assert heard.probability / (1 - heard.probability) == pytest.approx(times * odds, rel=1e-3)
    assert bool(heard.supported) == (times > 1.5)
    assert verdict("banged_away", bump_speed=(0.1, 0.05), contact_click=click).level == "fine"
    assert verdict("banged_away", bump_speed=(None, 0.0), contact_click=click).level == "cannot_tell"


def test_a_clean_loops_sooner_than_a_snatch() -> None:
    assert verdict("bar_looped", "snatch", loop_width=(13.0, 0.2)).level == "watch"
    assert verdict("bar_looped", "clean", loop_width=(13.0, 0.2)).level == "fault"


def test_the_coachs_own_thresholds_outrank_the_catalogues() -> None:
    own = {("bar_looped", "loop_width"): Threshold(20.0, 25.0)}
    assert verdict("bar_looped", thresholds=own, loop_width=(18.0, 0.2)).level == "fine"
    assert verdict("bar_looped", loop_width=(18.0, 0.2)).level == "fault"


def test_a_rule_is_asked_only_of_its_own_lifts() -> None:
    # A deadlift may be held; nothing else of the pull is asked of it.
    assert {one.fault.id for one in judge(CATALOGUE, "deadlift", {})} == {"shape_lost_in_hold"}
    assert "bar_looped" not in {one.fault.id for one in judge(CATALOGUE, "snatch_pull", {})}


# -- causes ---------------------------------------------------------------------------------------------------------------


def test_a_finding_without_a_present_parent_is_a_root() -> None:
    chain = explain(CATALOGUE, {"bar_looped"}, set())
    assert chain == {"bar_looped": (True, [])}


def test_a_cause_reaches_through_links_nobody_could_judge_and_not_through_those_judged_fine() -> None:
    present = {"bar_forward_off_floor", "bar_looped"}
    assert explain(CATALOGUE, present, set())["bar_forward_off_floor"] == (True, ["bar_looped"])
    assert explain(CATALOGUE, present, set())["bar_looped"][0] is False
    broken = explain(CATALOGUE, present, {"banged_away"})
    assert broken["bar_forward_off_floor"] == (True, [])
    assert broken["bar_looped"][0] is True


def test_the_earliest_of_a_chain_is_its_root_and_explains_the_rest() -> None:
    present = {"hips_rise_first", "opened_early", "bar_looped", "bar_crashed", "yanked_from_floor"}
    chain = explain(CATALOGUE, present, set())
    assert [fault for fault, (root, _) in chain.items() if root] == ["yanked_from_floor"]
    assert set(chain["yanked_from_floor"][1]) == present - {"yanked_from_floor"}


def test_a_fault_nobody_explains_is_its_own_root() -> None:
    chain = explain(CATALOGUE, {"bar_forward_off_floor", "hook_released"}, set())
    assert chain["hook_released"][0] is True


@given(st.sets(st.sampled_from(sorted(CATALOGUE.faults)), min_size=1, max_size=12))
def test_every_finding_is_a_root_or_explained_by_one(present: set[str]) -> None:
    chain = explain(CATALOGUE, present, set())
    roots = {fault for fault, (root, _) in chain.items() if root}
    explained = {effect for fault in roots for effect in chain[fault][1]}
    assert roots
    assert roots | explained == present


# -- catalogue ------------------------------------------------------------------------------------------------------------


def raw() -> tuple[dict, dict]:
    here = files("atleta.faults")
    return tomllib.loads(here.joinpath("faults.toml").read_text("utf-8")), json.loads(
        here.joinpath("faults.schema.json").read_text("utf-8")
    )


def test_the_catalogue_is_in_the_order_of_the_lift() -> None:
    phases = [PHASES.index(fault.phase) for fault in CATALOGUE.faults.values()]
    assert phases == sorted(phases)


def test_every_measured_fault_can_be_said_with_its_own_numbers() -> None:
    for fault in CATALOGUE.faults.values():
        numbers = {condition.measure: spoken(3.0, "cm") for condition in fault.conditions}
        if fault.measured:
            assert "3.0 cm" in fault.says.format(**numbers)
            assert "3.0 cm" in fault.good.format(**numbers)
            assert fault.cue
        for condition in fault.conditions:
            for limit in (condition.usual, *condition.by_kind.values()):
                assert (limit.fault > limit.watch) is condition.above


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (lambda held: held["fault"][0].pop("name"), "schema"),
        (lambda held: held["fault"].append(copy.deepcopy(held["fault"][0])), "share an id"),
        (lambda held: held["leads"][0]["causes"].append("sneezed"), "do not exist"),
        (lambda held: next(row for row in held["fault"] if row["id"] == "bar_looped")["kinds"].append("cartwheel"), "kinds of lift"),
        (lambda held: next(row for row in held["fault"] if row["id"] == "bar_looped")["when"]["all"][0].update(measure="mood"), "measures"),
    ],
)
def test_a_catalogue_that_does_not_hold_together_is_refused_in_words(spoil, words: str) -> None:  # type: ignore[no-untyped-def]
    held, schema = raw()
    spoil(held)
    with pytest.raises(ValueError, match=words):
        read_catalogue(held, schema)


# Measures that the truth calls by another name, and rules whose two thresholds coincide in the tables, which a probability cannot use.
CALLED = {"dip_depth_share": "dip_depth_stature", "time_apex_to_meet": "time_apex_meet"}
ONE_THRESHOLD = {
    ("hips_low_at_start", "hip_above_knee@lift_off"),
    ("not_punched_up", "press_out"),
    ("wrong_recovery_order", "recovery_order"),
}


def test_rules_and_the_simulations_truth_hold_the_same_thresholds() -> None:
    kind_of = {"S": "snatch", "C": "clean", "P": "clean_pull", "J": "split_jerk", "X": "split_jerk", "B": "back_squat", "F": "front_squat",
               "O": "overhead_squat"}  # fmt: skip
    compared = 0
    for fault, rule in limits().items():
        held = {condition.measure: condition for condition in CATALOGUE.faults[fault].conditions}
        for row in rule.get("all", rule.get("any", [])):
            measure = CALLED.get(row["measure"], row["measure"])
            if measure not in held or (fault, measure) in ONE_THRESHOLD:
                continue
            for letter in set(rule["kinds"]) & kind_of.keys():
                if kind_of[letter] in CATALOGUE.faults[fault].kinds:
                    watch, beyond = row.get(letter) or row.get("above") or row["below"]
                    assert held[measure].above is ("above" in row), fault
                    assert held[measure].threshold(kind_of[letter]) == Threshold(watch, beyond), (fault, measure, letter)
                    compared += 1
    assert compared > 80
