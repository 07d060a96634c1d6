"""The findings in words: the chain of causes, the outcome, what is good, what a referee might refuse."""

from __future__ import annotations

import numpy as np
import pytest

from atleta.analysis.findings import good_points, spoken
from atleta.faults import load_catalogue
from atleta.simulation import Build, Camera, Wanted, asked_set, play

from .world import analysed, lift

CATALOGUE = load_catalogue()


def missed(kind: str, how: str, seed: int) -> dict:
    build = Build(float(np.random.default_rng(seed).uniform(1.55, 1.9)))
    camera = Camera(cover_m=3.0, aim_height_m=1.25) if "jerk" in kind else None
    return analysed(play(asked_set(Wanted(kind, build, 80.0, 80.0, None, {}, how, seed))), camera, body=True)[0]


# -- the chain ------------------------------------------------------------------------------------------------------------


def test_every_measured_fault_can_be_a_link_of_the_chain() -> None:
    for fault in CATALOGUE.faults.values():
        links = [condition.link for condition in fault.conditions]
        assert not fault.measured or (links[0] and (fault.needs_all or all(links))), fault.id


def test_the_chain_is_one_sentence_from_the_first_cause_on_with_the_numbers() -> None:
    seen = frozenset({(0, "bar_left_in_front"), (0, "banged_away")})
    told, _ = analysed(lift("snatch", forward_off_floor_m=0.04, loop_forward_m=0.14), body=True, added=seen)
    story = told["story"]
    swing, loop = (told["measures"][name]["value"] for name in ("bar_forward_before_knee", "loop_width"))
    assert story["faults"] == ["bar_forward_off_floor", "bar_left_in_front", "banged_away", "bar_looped"]
    assert story["says"] == (
        f"Bar swings {swing:.1f} cm forward off the floor → bar left in front of the thigh → bar struck away → bar loops {loop:.1f} cm."
    )
    first = told["findings"][0]
    assert first["fault"] == story["faults"][0]
    assert first["root"]


def test_a_lift_in_which_nothing_was_found_has_no_chain() -> None:
    told, _ = analysed(lift("snatch"), dismissed=frozenset((0, fault) for fault in CATALOGUE.faults))
    assert told["story"] is None


@pytest.mark.parametrize(
    ("value", "unit", "plain", "without_sign"),
    [(-9.04, "°", "−9.0°", "9.0°"), (3.25, "cm", "3.2 cm", "3.2 cm"), (-83.4, "ms", "−83 ms", "83 ms"), (1.213, "–", "1.21", "1.21"),
     (-0.02, "cm", "0.0 cm", "0.0 cm"), (None, "cm", "unknown", "unknown"),
     (-1.0, "foot", "back foot", "back foot"), (1.0, "foot", "front foot", "front foot")],
)  # fmt: skip
def test_a_number_in_a_sentence_has_its_unit_and_leaves_its_sign_to_the_words_when_asked(
    value: float | None, unit: str, plain: str, without_sign: str
) -> None:
    assert f"{spoken(value, unit)}" == plain
    assert f"{spoken(value, unit):abs}" == without_sign
    way = "" if value is None or unit == "foot" else " back" if plain.startswith("−") else " forward"
    assert f"{spoken(value, unit):forward|back}" == without_sign + way


# -- what became of the lift ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", ["snatch", "power_snatch", "clean", "power_clean", "split_jerk"])
def test_a_lift_that_is_stood_up_with_is_proposed_as_made(kind: str) -> None:
    camera = Camera(cover_m=3.0, aim_height_m=1.25) if "jerk" in kind else None
    told, _ = analysed(lift(kind), camera, body=True)
    assert told["outcome"] == {"made": True, "how": None}
    assert told["measures"]["held_still"]["value"] > 0.5
    assert next(row for row in told["findings"] if row["fault"] == "not_stood_still")["level"] == "fine"


@pytest.mark.parametrize(("kind", "how"), [("snatch", "forward"), ("snatch", "behind"), ("snatch", "short"), ("clean", "forward"),
                                           ("clean", "short"), ("split_jerk", "forward"), ("split_jerk", "behind"),
                                           ("split_jerk", "short"), ("power_jerk", "forward")])  # fmt: skip
@pytest.mark.parametrize("seed", [3, 4, 5])
def test_a_missed_lift_is_proposed_as_missed_and_where(kind: str, how: str, seed: int) -> None:
    told = missed(kind, how, seed)
    assert told["outcome"] == {"made": False, "how": how}
    assert f"missed_{how}" in {row["fault"] for row in told["findings"] if row["level"] == "fault"}


def test_the_coach_knows_better_whether_it_was_made() -> None:
    done = play(asked_set(Wanted("snatch", Build(1.7), 80.0, 80.0, None, {}, "forward", 3)))
    told, _ = analysed(done, made=True)
    assert told["outcome"]["made"] is False
    assert not {row["fault"] for row in told["findings"]} & {"missed_forward", "missed_behind", "missed_short"}


# -- what is good ---------------------------------------------------------------------------------------------------------


def row(fault: str, value: float | None, level: str = "fine", measure: str = "") -> dict:
    return {"fault": fault, "phase": CATALOGUE.faults[fault].phase, "level": level,
            "evidence": [{"measure": measure or fault, "value": value, "watch": 4.0, "fault": 8.0}]}  # fmt: skip


def test_good_is_what_lies_well_inside_its_limits_one_of_each_part_of_the_lift() -> None:
    rows = [row("bar_looped", -4.0), row("leaned_back", -8.0), row("caught_forward", 0.0), row("jumped_forward", 1.0),
            row("opened_early", None), row("hips_rise_first", -30.0, "cannot_tell")]  # fmt: skip
    assert good_points(rows) == ["leaned_back", "caught_forward"]


def test_what_another_finding_speaks_against_is_not_praised() -> None:
    low = row("hips_low_at_start", -6.0, measure="hip_height_against_start")
    assert good_points([low, row("hips_high_at_start", -6.0, "fine", "hip_height_against_start")]) == ["hips_low_at_start"]
    for level in ("watch", "fault"):
        assert good_points([low, row("hips_high_at_start", 6.0, level, "hip_height_against_start")]) == []


def test_what_the_lifter_was_told_of_before_leads() -> None:
    rows = [row("bar_looped", -4.0), row("leaned_back", -8.0), row("caught_forward", 0.0)]
    assert good_points(rows, matters={"bar_looped"}) == ["bar_looped", "caught_forward"]


# -- what is put in is found ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", ["snatch", "clean"])
@pytest.mark.parametrize("fault", ["heels_up_early", "arms_bent_early", "shins_vertical_early"])
def test_what_comes_too_early_is_found_where_joints_are_known_and_not_in_a_sound_lift(kind: str, fault: str) -> None:
    for put_in, levels in (({fault: 1.0}, {"fault"}), ({}, {"fine", "watch"})):
        done = play(asked_set(Wanted(kind, Build(1.72), 80.0, 80.0, None, put_in, "", 11)))
        told, truth = analysed(done, body=True)
        assert (fault in truth["faults"]) == bool(put_in)
        (level,) = [row["level"] for row in told["findings"] if row["fault"] == fault]
        assert level in levels
