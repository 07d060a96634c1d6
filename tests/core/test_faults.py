"""The rules engine on numbers: how likely a fault is, when it cannot be told, and which finding explains which."""

from __future__ import annotations

import copy
import json
import re
import tomllib
from importlib.resources import files
from math import erf, sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from atleta.analysis import fault_as_data
from atleta.coaching import drill_lift, load_library
from atleta.faults import Causes, Present, Threshold, edges, explain, judge, load_catalogue, own_fault, taught
from atleta.faults.catalogue import EITHER_WAY, PHASES, read_catalogue
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
    assert verdict("bar_looped", loop_out=(9.01, 0.0)).probability == 1.0
    assert verdict("bar_looped", loop_out=(8.99, 0.0)).probability == 0.0


def test_uncertainty_wider_than_from_watch_to_fault_cannot_tell() -> None:
    found = verdict("bar_looped", loop_out=(14.0, 3.1))
    assert (found.level, found.probability) == ("cannot_tell", 0.0)
    assert "wider than the distance" in found.reason
    assert verdict("bar_looped", loop_out=(14.0, 2.9)).level == "fault"
    assert verdict("bar_looped", loop_out=(1.0, 3.1)).level == "cannot_tell"


def test_a_number_two_deviations_beyond_its_limits_is_graded_however_wide_they_are() -> None:
    assert verdict("bar_looped", loop_out=(16.0, 3.1)).level == "fault"
    assert verdict("bar_looped", loop_out=(-1.0, 3.1)).level == "fine"


def test_missing_data_never_fires_a_rule() -> None:
    assert verdict("bar_looped").level == "cannot_tell"
    found = verdict("bar_looped", loop_out=(None, 0.0))
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
    assert verdict("banged_away", bump_speed=(0.33, 0.1), contact_click=click).level == "fine"
    assert verdict("banged_away", bump_speed=(None, 0.0), contact_click=click).level == "cannot_tell"


def test_a_clean_loops_sooner_than_a_snatch() -> None:
    assert verdict("bar_looped", "snatch", loop_out=(8.5, 0.1)).level == "watch"
    assert verdict("bar_looped", "clean", loop_out=(8.5, 0.1)).level == "fault"


def test_the_coachs_own_thresholds_outrank_the_catalogues() -> None:
    own = {("bar_looped", "loop_out"): Threshold(20.0, 25.0)}
    assert verdict("bar_looped", thresholds=own, loop_out=(18.0, 0.2)).level == "fine"
    assert verdict("bar_looped", loop_out=(18.0, 0.2)).level == "fault"


def test_of_two_limits_of_one_number_a_coachs_own_stands_on_its_side() -> None:
    either = taught({"first_pull_path": "vertical"})

    def level(cm: float) -> str:
        measured = {"bar_x@knee": Measured(cm, 0.05, "cm", 10)}
        own = {("bar_not_brought_back", "bar_x@knee"): Threshold(2.0, 3.0)}
        return next(v.level for v in judge(either, "snatch", measured, thresholds=own) if v.fault.id == "bar_not_brought_back")

    assert [level(2.5), level(1.5), level(-1.5), level(-3.0)] == ["watch", "fine", "watch", "fault"]


def test_a_condition_is_asked_only_of_its_own_kinds_of_lift() -> None:
    straight = verdict("wrists_straight_overhead", "split_jerk", wrist_offset_at_lockout=(2.5, 0.2))
    assert straight.level == "fault"
    assert [one.measure for one in straight.evidence] == ["wrist_offset@lockout"]
    assert verdict("wrists_straight_overhead", "snatch", wrist_offset_at_bottom=(-2.5, 0.2)).level == "fine"


@pytest.mark.parametrize(("fault", "measure", "fires", "sound"), [
    ("bar_not_brought_back", "bar_x@knee", 1.6, -2.5), ("not_parallel_shin_torso", "torso_shin_difference", 24.0, -20.0),
    ("bar_looped", "loop_out", 9.6, 3.0), ("bar_away_in_turnover", "bar_shoulder_gap", 27.0, 16.0),
    ("bar_not_behind_delts", "bar_shoulder_offset@rack", 15.0, 5.5), ("stance_too_narrow", "stance_share@lift_off", 0.06, 0.17),
    ("stance_too_wide", "stance_share@lift_off", 0.31, 0.17), ("grip_too_narrow", "grip_share", 0.23, 0.30),
    ("grip_too_wide", "grip_share", 0.49, 0.30), ("bar_tilted", "bar_tilt_max", 5.0, 0.5),
])  # fmt: skip
def test_rules_say_what_is_a_fault_and_what_is_not(fault: str, measure: str, fires: float, sound: float) -> None:
    kind = next(kind for kind in ("clean", "back_squat") if kind in CATALOGUE.faults[fault].kinds)
    for value, level in ((fires, "fault"), (sound, "fine")):
        assert next(v.level for v in judge(CATALOGUE, kind, {measure: Measured(value, 0.001, "", 1)}) if v.fault.id == fault) == level


def test_a_trunk_more_upright_than_the_shin_is_never_a_fault_and_a_tilt_alone_no_grip() -> None:
    assert verdict("not_parallel_shin_torso", "front_squat", torso_shin_difference=(-40.0, 1.0)).level == "fine"
    tilted = {one.fault.id: one.level for one in judge(CATALOGUE, "clean", {"bar_tilt_max": Measured(7.0, 0.2, "°", 1)})}
    assert tilted["bar_tilted"] == "fault"
    assert "uneven_grip" not in tilted


def test_a_rule_is_asked_only_of_its_own_lifts() -> None:
    # A deadlift may be held; nothing else of the pull is asked of it.
    assert {one.fault.id for one in judge(CATALOGUE, "deadlift", {})} == {"shape_lost_in_hold"}
    assert "bar_looped" not in {one.fault.id for one in judge(CATALOGUE, "snatch_pull", {})}


# -- causes ---------------------------------------------------------------------------------------------------------------


def causes(*faults: str, watches: tuple[str, ...] = (), unknown: tuple[str, ...] = (), **more: dict) -> Causes:
    return explain(CATALOGUE, Present(frozenset(faults), frozenset(watches), frozenset(unknown), **more))


def test_a_fault_without_a_present_parent_is_a_root() -> None:
    found = causes("bar_looped")
    assert (found.roots, found.explains) == (("bar_looped",), {"bar_looped": ()})


def test_a_cause_reaches_through_what_this_film_cannot_tell_and_not_through_what_is_not_there() -> None:
    present = ("bar_forward_off_floor", "banged_away")
    assert causes(*present, unknown=("bar_left_in_front",)).explains["bar_forward_off_floor"] == ("banged_away",)
    assert causes(*present).roots == present


def test_the_earliest_of_a_chain_is_its_root_and_explains_the_rest() -> None:
    found = causes("hips_rise_first", "bar_left_in_front", "bar_looped", "bar_away_from_body", "bar_crashed", "yanked_from_floor")
    assert found.roots == ("yanked_from_floor",)
    assert set(found.explains["yanked_from_floor"]) == set(found.explains) - {"yanked_from_floor"}
    chain = found.chain(CATALOGUE, "yanked_from_floor")
    assert chain == ["yanked_from_floor", "hips_rise_first", "bar_left_in_front", "bar_looped", "bar_away_from_body", "bar_crashed"]


def test_one_bar_that_stays_forward_is_one_chain() -> None:
    found = causes("bar_forward_off_floor", "bar_not_brought_back", "bar_left_in_front", "bar_looped")
    assert found.roots == ("bar_forward_off_floor",)
    assert found.chain(CATALOGUE, "bar_forward_off_floor") == [
        "bar_forward_off_floor",
        "bar_not_brought_back",
        "bar_left_in_front",
        "bar_looped",
    ]


def test_what_comes_of_technique_is_never_named_first_while_a_fault_of_technique_stands() -> None:
    assert causes("low_bar_speed", "torso_tipped_in_catch").roots == ("torso_tipped_in_catch", "low_bar_speed")


def test_a_watch_between_two_faults_is_a_link_and_a_lone_one_is_not() -> None:
    found = causes("bar_forward_off_floor", "bar_looped", watches=("bar_left_in_front", "weight_on_toes"))
    assert found.links == {"bar_left_in_front"}
    assert found.roots == ("bar_forward_off_floor",)
    assert found.chain(CATALOGUE, "bar_forward_off_floor") == ["bar_forward_off_floor", "bar_left_in_front", "bar_looped"]
    assert causes(watches=("bar_looped", "bar_left_in_front")) == Causes((), {}, frozenset())


def test_of_hips_and_shins_the_earlier_frame_leads() -> None:
    two = ("hips_rise_first", "shins_vertical_early")
    assert causes(*two, frames=dict(zip(two, (50, 40), strict=True))).roots == ("shins_vertical_early",)
    assert causes(*two, frames=dict(zip(two, (40, 50), strict=True))).roots == ("hips_rise_first",)
    assert causes(*two).roots == ("hips_rise_first",)


def test_weight_that_goes_back_only_at_contact_does_not_move_the_bar_off_the_floor() -> None:
    two = ("weight_on_heels", "bar_forward_off_floor")
    assert causes(*two).roots == ("weight_on_heels",)
    assert set(causes(*two, phases={"weight_on_heels": "knee_to_contact"}).roots) == set(two)
    late = verdict("weight_on_heels", balance_at_contact=(-9.0, 0.5), balance_at_lift_off=(0.0, 0.5), balance_at_knee=(0.0, 0.5))
    assert (late.level, late.phase) == ("fault", "knee_to_contact")


@given(
    st.sets(st.sampled_from(sorted(CATALOGUE.faults)), min_size=1, max_size=12),
    st.sets(st.sampled_from(sorted(CATALOGUE.faults)), max_size=8),
    st.sets(st.sampled_from(sorted(CATALOGUE.faults)), max_size=8),
)
def test_every_fault_is_a_root_or_explained_by_one_and_no_chain_runs_against_time(
    faults: set[str], watches: set[str], unknown: set[str]
) -> None:
    watches, unknown = watches - faults, unknown - faults - watches
    found = causes(*faults, watches=tuple(watches), unknown=tuple(unknown))
    explained = {effect for root in found.roots for effect in found.explains[root]}
    assert found.roots
    assert set(found.roots) <= faults
    assert set(found.roots) | explained == faults | found.links
    assert found.links <= watches
    for root in found.roots:
        phases = [PHASES.index(CATALOGUE.faults[one].phase) for one in found.chain(CATALOGUE, root)]
        assert phases == sorted(phases)


# -- catalogue ------------------------------------------------------------------------------------------------------------


def raw() -> tuple[dict, dict]:
    here = files("atleta.faults")
    return tomllib.loads(here.joinpath("faults.toml").read_text("utf-8")), json.loads(
        here.joinpath("faults.schema.json").read_text("utf-8")
    )


def test_the_catalogue_is_in_the_order_of_the_lift() -> None:
    phases = [PHASES.index(fault.phase) for fault in CATALOGUE.faults.values()]
    assert phases == sorted(phases)


def test_every_fault_is_complete_in_all_its_fields() -> None:
    for fault in CATALOGUE.faults.values():
        held = fault_as_data(fault)
        for field in ("name", "coach", "athlete", "cue", "why", "good", "view"):
            assert held[field], (fault.id, field)
        assert held["kinds"], fault.id
        assert held["drills"], fault.id
        assert not fault.measured or " · aim " in held["coach"], fault.id
        for condition in fault.conditions:
            for limit in (condition.usual, *condition.by_kind.values()):
                assert (limit.fault > limit.watch) is condition.above
            assert condition.link or fault.needs_all, fault.id


def test_what_an_athlete_reads_has_no_number_that_cannot_be_felt() -> None:
    for fault in CATALOGUE.faults.values():
        for words in (fault.athlete, fault.cue, fault.good):
            assert not re.search(r"±|%|\bms\b|\d\.\d\d|\{", words), (fault.id, words)


def test_every_pairing_exists_for_its_lift() -> None:
    library = load_library()
    for fault in CATALOGUE.faults.values():
        for lift in {drill_lift(kind) for kind in fault.kinds}:
            assert any(lift in library[drill].lifts for drill in fault.drills), (fault.id, lift)


def test_every_fault_is_in_the_cause_graph_and_no_link_runs_against_time() -> None:
    order = list(CATALOGUE.faults)
    for cause, effect in edges(CATALOGUE):
        assert order.index(cause) < order.index(effect) or {cause, effect} == EITHER_WAY, (cause, effect)
    assert {one for link in edges(CATALOGUE) for one in link} == set(order)


# -- a coach's own --------------------------------------------------------------------------------------------------------

OWN = {
    "id": "own_chin_down", "name": "Chin down", "phase": "set_up", "kinds": ["snatch"], "view": "side", "coach": "Chin drops to the chest",
    "athlete": "Look straight ahead before you lift.", "cue": "Eyes ahead.", "why": "The back follows the head.",
    "good": "You looked ahead.",
    "drills": ["lift_pause_off_floor"], "causes": ["rushed_setup"], "effects": ["hips_rise_first"],
}  # fmt: skip


def test_a_coachs_own_fault_takes_part_in_the_chain() -> None:
    catalogue = taught({}, [own_fault(OWN)])
    found = explain(catalogue, Present(frozenset({"own_chin_down", "hips_rise_first", "rushed_setup"})))
    assert found.roots == ("rushed_setup",)
    assert found.chain(catalogue, "rushed_setup") == ["rushed_setup", "own_chin_down", "hips_rise_first"]
    assert list(catalogue.faults).index("own_chin_down") < list(catalogue.faults).index("hips_rise_first")


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"athlete": "Rise 12 % slower."}, "without"), ({"cue": ""}, "too short"), ({"effects": ["sneezed"]}, "no fault called sneezed"),
        ({"causes": ["bar_crashed"]}, "later in the lift"), ({"phase": "catch", "effects": ["hips_rise_first"]}, "earlier in the lift"),
        ({"kinds": []}, "at least one"), ({"kinds": ["cartwheel"]}, "no lift called"), ({"view": "above"}, "one of the choices"),
        ({"name": "x" * 61}, "too long"),
    ],
)  # fmt: skip
def test_an_own_fault_that_cannot_be_is_refused_with_what_to_change(change: dict, words: str) -> None:
    with pytest.raises(ValueError, match=words):
        own_fault(OWN | change)


def test_a_missing_field_of_an_own_fault_is_named() -> None:
    with pytest.raises(ValueError, match="sentence for the athlete is missing"):
        own_fault({name: value for name, value in OWN.items() if name != "athlete"})


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (lambda held: held["fault"][0].pop("name"), "schema"),
        (lambda held: held["fault"].append(copy.deepcopy(held["fault"][0])), "share an id"),
        (lambda held: held["leads"][0]["causes"].append("sneezed"), "do not exist"),
        (lambda held: held["leads"].append({"causes": ["bar_crashed"], "effects": ["bar_looped"]}), "against time"),
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
