"""Pulls with a hold, from perfect tracks: how long it really was, and whether it passes its rule."""

from __future__ import annotations

import pytest

from atleta.coaching import Followed, follow_up, load_library
from atleta.simulation import Build, Wanted, asked_set, play, truths

from .world import analysed

EXERCISE = {"halting_snatch_pull": "halting_pull_mid_thigh", "halting_clean_pull": "halting_pull_mid_thigh",
            "snatch_pull_pause_knee": "pull_pause_knee", "clean_pull_pause_knee": "pull_pause_knee",
            **{name: name for name in ("overhead_squat_pause", "front_squat_pause", "back_squat_pause")}}  # fmt: skip


def measured(lifts: str, faults: dict[str, float], body: bool = False) -> tuple[dict, float]:
    """The analysed lift and how long it was truly held."""
    done = play(asked_set(Wanted(lifts, Build(1.68), 60.0, 66.0, None, faults, "", 4)))
    return analysed(done, body=body)[0], truths(done)[0].measures["hold_time"]


def followed(lifts: str, faults: dict[str, float]) -> Followed:
    told, _ = measured(lifts, faults, body=True)
    numbers = {name: (row["value"], row["sd"]) for name, row in told["measures"].items() if row["value"] is not None}
    return follow_up(load_library()[EXERCISE[lifts]].passes, numbers)


@pytest.mark.parametrize("lifts", EXERCISE)
@pytest.mark.parametrize("short", [0.0, 1.0])
def test_a_hold_is_as_long_as_it_was(lifts: str, short: float) -> None:
    told, held = measured(lifts, {"hold_too_short": short} if short else {})
    assert told["measures"]["hold_time"]["value"] == pytest.approx(held, abs=0.08)
    assert (held < 2.5) == bool(short)


@pytest.mark.parametrize("lifts", ["overhead_squat_pause", "front_squat_pause", "back_squat_pause"])
def test_a_squat_held_in_the_bottom_steps_up_when_it_is_deep_and_long_enough(lifts: str) -> None:
    told, _ = measured(lifts, {}, body=True)
    assert told["events"]["descent_start"]["time_s"] < told["events"]["bottom"]["time_s"] == told["events"]["hold_start"]["time_s"]
    assert followed(lifts, {}).step == "up"
    assert followed(lifts, {"hold_too_short": 1.0}).step == "back"
    high = followed(lifts, {"shallow": 1.0})
    assert high.step == "back"
    assert next(rule for rule in high.rules if rule.measure == "depth").probability < 0.2  # type: ignore[operator]


def test_a_squat_that_turns_round_is_not_held() -> None:
    done = play(asked_set(Wanted("front_squat", Build(1.68), 60.0, 66.0, None, {}, "", 4)))
    assert "hold_start" not in analysed(done)[0]["events"]


@pytest.mark.parametrize("lifts", ["halting_snatch_pull", "halting_clean_pull"])
def test_a_pull_that_ends_in_a_hold_has_neither_contact_nor_flight(lifts: str) -> None:
    told, _ = measured(lifts, {})
    assert {"lift_off", "hold_start", "hold_end"} <= told["events"].keys()
    assert not {"contact", "extension", "peak_speed", "apex"} & told["events"].keys()


def test_a_pull_without_a_stop_has_no_hold() -> None:
    done = play(asked_set(Wanted("snatch_pull", Build(1.68), 60.0, 66.0, None, {}, "", 4)))
    assert analysed(done)[0]["measures"]["hold_time"]["value"] is None


def test_a_kept_pause_steps_up_a_short_one_and_a_lost_shape_step_back() -> None:
    assert followed("halting_snatch_pull", {}).step == "up"
    assert followed("halting_snatch_pull", {"hold_too_short": 1.0}).step == "back"
    lost = followed("halting_snatch_pull", {"shape_lost_in_hold": 1.0})
    assert lost.step == "back"
    assert next(rule for rule in lost.rules if rule.measure == "hold_drift_trunk").probability < 0.2  # type: ignore[operator]


@pytest.mark.parametrize("lifts", ["halting_snatch_pull", "clean_pull_pause_knee"])
@pytest.mark.parametrize("lost", [0.0, 1.0])
def test_a_shape_that_is_lost_in_the_hold_is_seen_and_a_kept_one_is_fine(lifts: str, lost: float) -> None:
    told, _ = measured(lifts, {"shape_lost_in_hold": lost} if lost else {}, body=True)
    finding = next(row for row in told["findings"] if row["fault"] == "shape_lost_in_hold")
    # In a pause on the way up the end of the hold is less sure, and with it how much of the tipping belongs to it.
    assert finding["level"] in (("fault", "watch") if lost else ("fine",))


def test_of_a_lift_without_a_hold_nothing_is_said_about_one() -> None:
    done = play(asked_set(Wanted("clean", Build(1.68), 60.0, 80.0, None, {}, "", 4)))
    assert not [row for row in analysed(done)[0]["findings"] if row["phase"] == "hold"]
