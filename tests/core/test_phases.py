"""Where a bar hangs, is turned over and lies on the shoulders, told by its height and speed alone."""

from __future__ import annotations

import numpy as np
import pytest

from atleta.motion.body.model import POINT, POINTS
from atleta.motion.body.residuals import hip_behind
from atleta.motion.body.sight import QUICK_ABOUT_S, quick_frames, trunk_turns
from atleta.motion.body.start import (
    JUMP_S,
    LANDS_AFTER_S,
    SLACK_OUT_S,
    bears,
    caught,
    flies,
    hangs,
    jumped,
    just_met,
    rests_high,
    thrown,
    turns,
)

S = 1.70
RATE = 60.0


def path(*legs: tuple[float, float]) -> tuple[np.ndarray, np.ndarray]:
    """Times and heights of a bar that goes evenly to each height (m) in so many seconds."""
    height = [np.array([0.225])]
    for to, took in legs:
        height.append(np.linspace(height[-1][-1], to, max(round(took * RATE), 2))[1:])
    h = np.concatenate(height)
    return np.arange(len(h)) / RATE, h


def phases(*legs: tuple[float, float]) -> dict[str, np.ndarray]:
    time, height = path(*legs)
    speed = np.abs(np.gradient(height, time))
    quick = thrown(height, time)
    hanging = hangs(height, time, S, quick)
    return {
        "time": time, "height": height, "quick": quick, "hanging": hanging, "turning": turns(time, hanging, quick),
        "high": rests_high(height, time, speed, hanging, S, quick, np.zeros(len(time))), "jumped": jumped(time, hanging, quick),
    }  # fmt: skip


# Set, first pull, second pull at 1.5 m/s to 1.0 m, down into the squat, up, held.
CLEAN = ((0.225, 0.5), (0.50, 0.5), (1.0, 0.33), (0.78, 0.4), (0.78, 0.5), (1.40, 1.2), (1.40, 0.6))


def test_a_clean_hangs_then_turns_then_rests_and_does_all_three_nowhere_at_once() -> None:
    got = phases(*CLEAN)
    at = {name: got[name] > 0 for name in ("hanging", "turning", "high")}
    assert at["hanging"][got["time"] < 1.0].all()
    # 0.79 m is below the hips of somebody of 1.70 m who stands; caught that deep, it lies on the shoulders all the same.
    bottom = (got["time"] > 1.9) & (got["time"] < 2.2)
    assert (got["height"][bottom] < 0.48 * S).all()
    assert at["high"][bottom].all()
    assert not at["hanging"][bottom].any()
    assert at["high"][-20:].all()
    assert at["turning"].any()
    assert not (at["turning"] & at["hanging"]).any()
    assert not (at["turning"] & at["high"]).any()


def test_a_bar_that_fell_far_into_the_squat_was_not_stood_up_with() -> None:
    # From 1.40 m, caught in the air: as high as it is stood up with later, and then it lies on the shoulders all the same.
    got = phases((0.225, 0.5), (0.50, 0.5), (1.40, 0.6), (1.40, 0.4), (0.78, 0.7), (0.78, 0.5), (1.40, 1.2), (1.40, 0.6))
    bottom = (got["height"] < 0.79) & (got["time"] > 2.5)
    assert bottom.any()
    assert (got["hanging"][bottom] == 0).all()
    assert (got["high"][bottom] == 1).all()


def test_a_slow_bar_that_is_known_to_be_met_was_thrown() -> None:
    time, height = path((0.225, 0.5), (0.50, 0.5), (0.95, 0.5), (0.70, 0.9), (0.70, 0.5), (1.40, 1.2), (1.40, 0.6))
    bottom, hung = (time > 2.5) & (time < 2.8), time < 1.2
    for met_s, low in (((), 1), ((1.6,), 0)):
        quick = thrown(height, time, met_s)
        hanging = hangs(height, time, S, quick)
        assert (hanging[hung] == 1).all()
        assert (hanging[bottom] == low).all()
        assert (jumped(time, hanging, quick)[bottom] == 1 - low).all()


def test_a_bar_that_is_met_lies_on_the_shoulders_however_fast_it_still_is() -> None:
    time, height = path((0.225, 0.5), (0.50, 0.5), (1.0, 0.33), (0.83, 0.12), (0.83, 0.5))
    quick, speed = thrown(height, time), np.abs(np.gradient(height, time))
    hanging, meet = hangs(height, time, S, quick), 1.40
    calm, met = (rests_high(height, time, speed, hanging, S, quick, just_met(time, at)) > 0 for at in ((), (meet,)))
    assert not calm[(time > meet) & (time < meet + 0.05)].any()
    assert met[(time > meet) & (time < meet + 0.05)].all()
    assert not met[time < meet].any()
    assert (just_met(time, ()) == 0).all()


def test_a_bar_that_is_driven_lies_on_the_shoulders_until_it_is_fastest() -> None:
    # Rest at 1.40 m, a dip of 0.17 m, a drive that gains speed to 1.9 m/s and loses it again, held overhead.
    rest, dip = np.full(30, 1.40), 1.40 - 0.17 * np.sin(np.linspace(0, np.pi / 2, 15))
    drive = dip[-1] + np.cumsum(np.concatenate([np.linspace(0, 1.9, 12), np.linspace(1.9, 0, 18)]) / RATE)
    height = np.concatenate([rest, dip, drive, np.full(30, drive[-1])])
    time = np.arange(len(height)) / RATE
    speed = np.gradient(height, time)
    high = rests_high(height, time, np.abs(speed), np.zeros(len(time)), S, thrown(height, time), np.zeros(len(time))) > 0
    fastest = int(np.argmax(speed))
    assert speed[fastest] > 1.5
    assert high[: fastest + 1].all()
    assert not high[fastest + 2 :].any()


def test_a_bar_is_borne_off_the_floor_and_for_a_moment_before() -> None:
    time, height = path((0.225, 1.0), (0.85, 1.0), (0.225, 0.5), (0.225, 1.0))
    borne = bears(height, time, 0.225)
    off = height > 0.235
    assert (borne[off] == 1).all()
    left, lies = time[off][0], time[off][-1]
    assert (borne[(time > left - SLACK_OUT_S + 0.01) & (time < left)] == 1).all()
    assert np.isnan(borne[time < left - SLACK_OUT_S - 0.01]).all()
    assert np.isnan(borne[time > lies]).all()
    assert np.isnan(bears(np.full(20, 0.225), np.arange(20) / RATE, 0.225)).all()


def test_feet_go_to_where_they_receive_once_the_bar_is_thrown_and_stay() -> None:
    got = phases(*CLEAN)
    thrown = got["time"][np.flatnonzero(got["hanging"])[-1]]
    assert (got["jumped"][got["time"] <= thrown] == 0).all()
    assert (got["jumped"][got["time"] >= thrown + JUMP_S + 1 / RATE] == 1).all()
    assert (np.diff(got["jumped"]) >= 0).all()
    # Who only pulls a bar slowly to the hips, and past them, has not jumped.
    assert (phases((0.225, 0.5), (0.85, 1.5), (1.1, 1.5))["jumped"] == 0).all()


def test_lowered_from_the_shoulders_to_the_thighs_it_hangs_again() -> None:
    got = phases(*CLEAN, (0.74, 1.0), (0.74, 0.5))
    assert (got["hanging"][-20:] == 1).all()
    assert (got["high"][-20:] == 0).all()


def test_a_slow_pull_is_never_caught() -> None:
    time, height = path((0.225, 0.5), (0.85, 1.5), (0.225, 1.5))
    quick = thrown(height, time)
    assert not caught(time, quick).any()
    assert (hangs(height, time, S, quick)[height < 0.8] == 1).all()


def test_hips_are_asked_to_stay_behind_less_the_higher_the_bar_hangs() -> None:
    # 0.10 of 1.70 m to the knee's height, 0.04 at the hip's; unknown heights give a number, since one that is none ends every fit.
    assert hip_behind(np.array([0.2, 0.90, np.nan]), S) == pytest.approx([0.17, 0.068, 0.17], abs=1e-3)


def test_feet_may_be_in_the_air_from_where_a_pulled_bar_is_fastest_until_shortly_after_it_rises_no_more() -> None:
    time, height = path(*CLEAN)
    got = phases(*CLEAN)
    high = got["high"]
    assert not flies(height, time, got["hanging"], high, got["quick"], off_arms=False).any()
    air = flies(height, time, got["hanging"], high, got["quick"], off_arms=True) > 0
    thrown = int(np.argmax(np.gradient(height, time)))
    apex = int(np.argmax(height[: thrown + int(0.6 * RATE)]))
    assert time[air][0] == pytest.approx(time[thrown], abs=2 / RATE)
    assert time[air][-1] == pytest.approx(time[apex] + LANDS_AFTER_S, abs=2 / RATE)
    # Nor before, nor while the lifter stands up with it, more slowly.
    assert np.diff(np.flatnonzero(air)).max() == 1


def test_who_gets_under_a_bar_that_hangs_in_the_air_is_quick_until_it_is_met() -> None:
    time, height = path((0.225, 0.5), (1.2, 0.6), (1.25, 0.6), (1.1, 0.5), (1.1, 0.5))
    disc = np.column_stack([np.zeros(len(time)), height, np.full(len(time), 0.225)])
    meet = 1.6
    by_bar, known = quick_frames(time, disc, 1.0), quick_frames(time, disc, 1.0, (meet,))
    hangs_in_air = (time > 1.3) & (time < meet)
    assert not by_bar[hangs_in_air].any()
    assert known[hangs_in_air].all()
    before = time < 1.2
    assert (known[before] == by_bar[before]).all()
    assert not known[time > meet + QUICK_ABOUT_S + 1 / RATE].any()
    # Nothing is thrown before it moves.
    assert (quick_frames(time, disc, 1.0, (0.3,)) == by_bar).all()


def test_a_trunk_that_whips_open_is_quick_however_slow_the_bar_is_and_one_strange_look_makes_none() -> None:
    time = np.arange(60) / 30

    def seen(trunk_deg: np.ndarray) -> np.ndarray:
        points = np.full((60, len(POINTS), 2), 5.0)
        for side in ("near", "far"):
            points[:, POINT[f"{side}_shoulder"]] += 150 * np.stack([np.cos(np.radians(trunk_deg)), np.sin(np.radians(trunk_deg))], axis=1)
        return points

    plain, whips = np.ones((60, len(POINTS))), np.interp(time, [1.0, 1.2], [30.0, 80.0])
    quick = trunk_turns(time, seen(whips), plain)
    assert quick[31:36].all()
    assert not quick[:27].any()
    assert not quick[40:].any()
    strange = np.full(60, 30.0)
    strange[30] = 170.0
    for trunk, sd in ((np.interp(time, [1.0, 2.0], [30.0, 80.0]), plain), (strange, plain), (whips, 5 * plain)):
        assert not trunk_turns(time, seen(trunk), sd).any()
    assert not trunk_turns(time[:3], seen(whips)[:3], plain[:3]).any()
