"""Where coaches disagree: every position changes a verdict, a cue, a drill or a model, and only what it says it changes."""

from __future__ import annotations

import pytest

from atleta.analysis import Settings
from atleta.coaching import candidates, load_library
from atleta.faults import Catalogue, Fault, Measured, judge, load_catalogue, load_schools, taught

from .world import analysed, lift

OTHERS = [(school.id, position.id) for school in load_schools().values() for position in school.positions[1:]]
ASKED = {
    "start_judged_by", "start_shoulders", "start_bar", "start_weight", "knees_off_floor", "first_pull_path", "first_pull_speed",
    "hang_torso", "finish_feet", "early_heels_cure", "contact", "finish_upper", "keep_close", "pull_height", "receive", "hook_catch",
    "clean_grip", "rack_hand", "wrist_overhead", "landing_feet", "jerk_dip", "jerk_arms", "jerk_elbows", "split_landing", "head_through",
    "squat_bar", "squat_start", "teaching_order", "model",
}  # fmt: skip


def levels(catalogue: Catalogue, fault: str, kind: str, tried: list[dict[str, float]]) -> list[str | None]:
    """What the catalogue says of a fault at each of these values of its measures; None where it is not judged."""
    told = []
    for values in tried:
        known = {name: Measured(value, 1e-6, "", 0) for name, value in values.items()}
        told.append(next((row.level for row in judge(catalogue, kind, known) if row.fault.id == fault), None))
    return told


def about_every_limit(kind: str, *faults: Fault) -> list[dict[str, float]]:
    """Each measure of these readings of a fault alone, just on either side of every limit of it."""
    conditions = [condition for fault in faults for condition in fault.conditions]
    return [{one.measure: limit + by} for one in conditions for limit in (one.threshold(kind).watch, one.threshold(kind).fault)
            for by in (-0.001, 0.001)]  # fmt: skip


def test_every_question_is_there_with_a_reason_for_its_usual_answer() -> None:
    assert set(load_schools()) == ASKED
    assert all(len(school.why) > 20 for school in load_schools().values())


@pytest.mark.parametrize(("question", "position"), OTHERS)
def test_every_position_changes_a_verdict_a_cue_a_drill_or_a_model(question: str, position: str) -> None:
    usual, other = load_catalogue(), taught({question: position})
    changes = load_schools()[question].position(position).changes
    changed = []
    for fault in load_schools()[question].position(position).faults:
        before, after = usual.faults[fault], other.faults[fault]
        assert after.schools == (question,)
        if (before.conditions, before.off, before.remark) == (after.conditions, after.off, after.remark):
            changed.append((before.cue, before.drills) != (after.cue, after.drills))
            continue
        kind = next((one for row in changes.get("limits", ()) for one in row.get("kinds", ())), before.kinds[0])
        # Where every condition must hold, values beyond all of them are wanted.
        tried = about_every_limit(kind, before, after) + [{c.measure: c.usual.fault + (1 if c.above else -1) for c in before.conditions}]
        changed.append(levels(usual, fault, kind, tried) != levels(other, fault, kind, tried))
    if "order" in changes:
        first, then = ([one.exercise.id for one in candidates(["leaned_back", "slow_turnover"], [], "snatch", catalogue=c)[0]]
                       for c in (usual, other))  # fmt: skip
        changed.append(first != then and sorted(first) == sorted(then))
    if "model" in changes:
        changed.append((usual.model, other.model) == ("reference", position))
    assert changed
    assert all(changed)
    untouched = set(usual.faults) - load_schools()[question].position(position).faults
    assert all(usual.faults[fault] == other.faults[fault] for fault in untouched)


def test_the_usual_answers_change_nothing() -> None:
    assert taught({school.id: school.usual.id for school in load_schools().values()}) == load_catalogue()


def test_a_school_s_own_list_of_drills_leads() -> None:
    taught_so = taught({"receive": "drop_fast"})
    assert candidates(["bar_crashed"], [], "clean")[0][0].exercise.id == "meet_high_power"
    offered = [one.exercise.id for one in candidates(["bar_crashed"], [], "clean", catalogue=taught_so)[0]]
    assert offered == ["tall_lift", "front_squat_tempo"]
    assert all(drill in load_library() for fault in taught_so.faults.values() for drill in fault.drills)


@pytest.mark.parametrize("chosen", [{"no_such": "thing"}, {"contact": "no_such"}])
def test_what_is_no_question_or_no_position_is_refused(chosen: dict[str, str]) -> None:
    with pytest.raises(ValueError, match="no_such"):
        taught(chosen)
    with pytest.raises(ValueError, match="no_such"):
        Settings(schools=chosen)


def test_a_school_changes_the_verdict_on_a_lift_and_is_named_beside_it() -> None:
    done = lift("snatch", back_at_knee_m=0.035)
    usual, _ = analysed(done)
    other, _ = analysed(done, schools={"first_pull_path": "vertical"})

    def row(told: dict) -> dict:
        return next(one for one in told["findings"] if one["fault"] == "bar_not_brought_back")

    assert row(usual)["level"] == "fine"
    assert row(usual)["schools"] == []
    assert row(other)["level"] == "fault"
    assert row(other)["name"] == "Bar not pulled straight off the floor"
    assert [one["question"] for one in row(other)["schools"]] == ["first_pull_path"]
    assert usual["measures"] == other["measures"]
