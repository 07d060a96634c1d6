"""The findings in words: the chain of causes, the outcome, what is good, what a referee might refuse."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from atleta.analysis import build_document, judged_again
from atleta.analysis.findings import _judged, good_points, spoken, target
from atleta.faults import Threshold, Wording, judge, load_catalogue
from atleta.faults.engine import Measured
from atleta.simulation import Build, Camera, Wanted, asked_set, play

from .world import INFO, analysed, lift, settings_for, true_tracks

CATALOGUE = load_catalogue()


def missed(kind: str, how: str, seed: int) -> dict:
    build = Build(float(np.random.default_rng(seed).uniform(1.55, 1.9)))
    camera = Camera(cover_m=3.0, aim_height_m=1.25) if "jerk" in kind else None
    return analysed(play(asked_set(Wanted(kind, build, 80.0, 80.0, None, {}, how, seed))), camera, body=True)[0]


# -- the chain ------------------------------------------------------------------------------------------------------------


def test_a_fault_is_said_with_its_number_and_its_target() -> None:
    told, _ = analysed(lift("snatch", forward_off_floor_m=0.04), body=True)
    swing = told["measures"]["bar_forward_before_knee"]["value"]
    first = told["findings"][0]
    assert first["says"] == f"Bar swings forward off the floor · {swing:.1f} cm · aim under 1 cm"
    assert told["verdict"]["headline"] == first["says"]
    assert first["athlete"] == CATALOGUE.faults["bar_forward_off_floor"].athlete


@pytest.mark.parametrize(("limit", "unit", "words"), [(1.0, "cm", "1 cm"), (-4.0, "°", "4°"), (40, "ms", "0.04 s"), (0.45, "m/s",
"0.45 m/s"),
                                                      (0.95, "–", "0.95"), (80, "%", "80 %"), (1.50, "–", "1.5"), (18.9, "cm", "19 cm"),
                                                      (0.5, "s", "0.5 s"), (120, "°", "120°")])  # fmt: skip
def test_a_target_has_no_sign_and_no_digits_that_say_nothing(limit: float, unit: str, words: str) -> None:
    assert target(limit, unit) == words


@pytest.mark.parametrize(("bump", "said"), [(0.42, "0.42 m/s"), (0.353, "0.353 m/s")])
def test_a_number_that_reads_like_its_target_is_said_finer_and_what_was_heard_joins_the_sentence(bump: float, said: str) -> None:
    known = {"bump_speed": Measured(bump, 0.001, "m/s", 10, "hidden"), "contact_click": Measured(30.0, 1.0, "dB", 10, "hidden")}
    told = next(one for one in judge(CATALOGUE, "snatch", known) if one.fault.id == "banged_away")
    row = _judged(told, known, added=False)
    assert row["says"] == f"Bar bounces off the thighs · {said} forward · aim under 0.35 m/s · you can hear it"


def test_a_share_is_said_in_the_athletes_own_centimetres() -> None:
    done = play(asked_set(Wanted("split_jerk", Build(1.72), 80.0, 80.0, None, {"dip_too_deep": 1.0}, "", 3)))
    told, _ = analysed(done, Camera(cover_m=3.0, aim_height_m=1.25), body=True)
    deep = next(row for row in told["findings"] if row["fault"] == "dip_too_deep")
    depth, stature_cm = told["measures"]["dip_depth"]["value"], 172
    assert deep["says"] == f"Dip is too deep · {depth:.0f} cm · aim under {0.11 * stature_cm:.0f} cm"


def test_a_lift_without_a_fault_says_so_and_how_many_checks_could_not_be_made() -> None:
    plain, _ = analysed(lift("snatch"), body=True)
    bar_alone, _ = analysed(lift("snatch"))
    assert plain["story"] is None
    assert plain["verdict"]["headline"].startswith("No fault found")
    told = bar_alone["verdict"]
    assert told["headline"] == f"No fault found · {told['not_possible']} of {told['checks']} checks not possible from this film"
    assert sum(row["checks"] for row in told["why"]) == told["not_possible"] > 10
    assert told["why"][0]["reason"] == "the lifter's joints were not seen"


def test_a_lift_that_is_judged_again_is_as_if_analysed_with_those_settings() -> None:
    done = lift("snatch", forward_off_floor_m=0.04, loop_forward_m=0.14)
    raw, truth = true_tracks(done, Camera())
    said = settings_for(truth)
    before = build_document(raw, INFO, "0" * 64, said)
    for change in (
        {"dismissed": frozenset({(0, "bar_forward_off_floor")})}, {"added": frozenset({(0, "no_shrug")})},
        {"thresholds": {("bar_looped", "loop_out"): Threshold(20.0, 25.0)}}, {"schools": {"first_pull_path": "vertical"}},
        {"wordings": {"bar_looped": Wording(cue="Closer!")}},
    ):  # fmt: skip
        anew = build_document(raw, INFO, "0" * 64, replace(said, **change))
        assert judged_again(before, replace(said, **change)) == anew
        assert anew != before


def test_the_chain_is_one_sentence_from_the_first_cause_on_with_the_numbers() -> None:
    seen = frozenset({(0, "bar_left_in_front"), (0, "banged_away")})
    told, _ = analysed(lift("snatch", forward_off_floor_m=0.04, loop_forward_m=0.14), body=True, added=seen)
    story = told["story"]
    swing, loop = (told["measures"][name]["value"] for name in ("bar_forward_before_knee", "loop_out"))
    assert story["faults"] == ["bar_forward_off_floor", "bar_left_in_front", "banged_away", "bar_looped"]
    assert story["says"] == (
        f"Bar swings {swing:.1f} cm forward off the floor → bar left in front of the thigh → bar struck away → bar loops {loop:.0f} cm out."
    )
    first = told["findings"][0]
    assert first["fault"] == story["faults"][0]
    assert first["root"]


def test_a_lift_in_which_nothing_was_found_has_no_chain() -> None:
    told, _ = analysed(lift("snatch"), dismissed=frozenset((0, fault) for fault in CATALOGUE.faults))
    assert told["story"] is None


@pytest.mark.parametrize(
    ("value", "unit", "plain", "without_sign"),
    [(-9.04, "°", "−9°", "9°"), (3.25, "cm", "3.2 cm", "3.2 cm"), (13.2, "cm", "13 cm", "13 cm"), (9.97, "cm", "10 cm", "10 cm"),
     (-83.4, "ms", "−0.08 s", "0.08 s"), (1.213, "–", "1.21", "1.21"),
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
            "praise": CATALOGUE.faults[fault].praise,
            "evidence": [{"measure": measure or fault, "value": value, "watch": 4.0, "fault": 8.0}]}  # fmt: skip


def test_of_a_newcomer_what_is_plainly_good_and_takes_work_is_said_one_of_each_part_of_the_lift() -> None:
    rows = [row("bar_looped", -4.0), row("banged_away", -8.0), row("caught_forward", 0.0), row("shins_vertical_early", -30.0),
            row("opened_early", None), row("hips_rise_first", -30.0, "cannot_tell")]  # fmt: skip
    assert good_points(rows, (), known=False) == ["banged_away", "caught_forward"]
    assert good_points(rows, ()) == []


def test_praise_is_for_what_was_worked_on_or_is_better_than_usual_and_for_two_things_at_most() -> None:
    rows = [row("bar_looped", 2.0), row("banged_away", -8.0), row("caught_forward", 0.0), row("hips_rise_first", -30.0)]
    assert good_points(rows, {"bar_looped"}) == ["bar_looped"]
    assert good_points(rows, {"bar_looped"}, better={"caught_forward", "hips_rise_first"}) == ["bar_looped", "hips_rise_first"]


def test_what_another_finding_speaks_against_is_not_praised() -> None:
    low = row("hips_low_at_start", -6.0, measure="hip_height_against_start")
    both = {"hips_low_at_start", "hips_high_at_start"}
    assert good_points([low, row("hips_high_at_start", -6.0, "fine", "hip_height_against_start")], both) != []
    for level in ("watch", "fault"):
        assert good_points([low, row("hips_high_at_start", 6.0, level, "hip_height_against_start")], both) == []


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
