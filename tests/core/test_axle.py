"""By way of the belt to the shoulders, and pressed from there: events and measures against truth, and what the two rules find."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from atleta.analysis import build_document
from atleta.events.families import EVENTS
from atleta.events.joints import press_joint_events
from atleta.measures import declarations
from atleta.motion import BarMotion, BodyMotion, body_motion
from atleta.simulation import Build, Camera, Wanted, asked_set, play, truths, verdicts
from atleta.simulation.perfect import PerfectBody

from .test_measures import at, bar, eased, lift, pulled, ramp, told, with_joints
from .world import INFO, analysed, settings_for, true_tracks, value

HIGH = Camera(cover_m=3.0, aim_height_m=1.25)
FRAME_S = 1 / 60


def done(lifts: str, stature_m: float, faults: dict[str, float] | None = None, seed: int = 7):  # type: ignore[no-untyped-def]
    return play(asked_set(Wanted(lifts, Build(stature_m), 90.0, 85.0, None, faults or {}, "", seed)))


@pytest.mark.parametrize(("kind", "fault"), [("continental_clean", "curled_to_shoulder"), ("press", "pressed_forward")])
@pytest.mark.parametrize("stature_m", [1.54, 1.72, 1.92])
@pytest.mark.parametrize("strength", [0.0, 0.8])
def test_events_measures_and_the_rule_are_as_they_truly_are(kind: str, fault: str, stature_m: float, strength: float) -> None:
    performed = done(kind, stature_m, {fault: strength} if strength else {})
    here, truth = analysed(performed, HIGH, body=True)
    assert (here["kind"], here["outcome"]) == (kind, {"made": True, "how": None})
    assert set(here["events"]) <= set(EVENTS["continental" if kind == "continental_clean" else "press"])
    for name, when in truth["events"].items():
        # Slow at both ends: the bar is at rest where it moves by no more than noise lets it seem to.
        slow = name in ("belt", "lift_off", "press_start", "recovered")
        assert here["events"][name]["time_s"] == pytest.approx(when, abs=(3.5 if slow else 2.0) * FRAME_S), name
    for name, known in truths(performed)[0].measures.items():
        if name in here["measures"] and here["measures"][name]["value"] is not None:
            # Discs alone tell a bar's height to a hundredth; where legs and arms are quick, a frame is many degrees.
            if name.endswith(("@extension", "@shoulder")):
                continue
            close = {"s": 0.08, "m/s": 0.03, "cm": max(1.0, 0.01 * known), "°": 2.5}[here["measures"][name]["unit"]]
            assert value(here, name) == pytest.approx(known, abs=close), name
    level = {row["fault"]: row["level"] for row in here["findings"]}[fault]
    assert level == ("fault" if strength else "fine")
    assert (verdicts(truths(performed)[0], stature_m)[fault] == "fault") is bool(strength)


def test_a_set_of_both_is_cut_in_two_and_known_for_what_it_is() -> None:
    performed = done("continental_clean+press", 1.70)
    raw, truth = true_tracks(performed, HIGH)
    said = settings_for(truth, lift="continental_clean_and_press", plumb_deg=0.0)
    document = build_document(raw, INFO, "0" * 64, said, PerfectBody(performed, HIGH))
    assert [one["kind"] for one in document["lifts"]] == ["continental_clean", "press"]
    assert not [one for one in document["warnings"] if one["code"] == "another_kind"]
    first, then = (one["events"] for one in document["lifts"])
    assert first["shoulder"]["time_s"] < then["press_start"]["time_s"] < then["recovered"]["time_s"] < then["release"]["time_s"]


@pytest.mark.parametrize("kind", ["clean", "power_clean", "clean_pull_pause_knee", "split_jerk"])
def test_a_bar_that_never_lay_on_the_belt_is_not_said_to_have(kind: str) -> None:
    raw, truth = true_tracks(done(kind, 1.70), HIGH)
    document = build_document(raw, INFO, "0" * 64, settings_for(truth, lift="continental_clean", plumb_deg=0.0))
    assert all("belt" not in one["events"] and "shoulder" not in one["events"] for one in document["lifts"])
    assert all("belt" in one["measures"]["belt_rest"]["reason"] for one in document["lifts"])


def test_a_lift_without_a_press_has_none() -> None:
    raw, truth = true_tracks(done("front_squat", 1.70), HIGH)
    assert build_document(raw, INFO, "0" * 64, settings_for(truth, lift="press", plumb_deg=0.0))["lifts"] == []


BY_THE_BELT = {"lift_off": 0.2, "belt": 1.0, "regrip": 2.0, "extension": 2.5, "peak_speed": 2.6, "shoulder": 3.0}
MEASURED = {
    "belt_rest": 1.0, "belt_height": 80.0, "peak_velocity_from_belt": 0.6, "elbow_close_before_shrug": 25.0,
    "press_time": 2.0, "press_peak_speed": 0.45, "press_bar_forward": 6.0,
}  # fmt: skip


def test_no_measure_of_either_is_without_a_formula() -> None:
    declared = {one.id for family in ("continental", "press") for one in declarations(family) if "front" not in one.requires}
    # What is told at any event is what a pull or a jerk is told by, and has its formula there.
    shared = {one.id for family in ("pull", "jerk") for one in declarations(family)}
    elsewhere = {one for one in declared if {f"{one.partition('@')[0]}@{event}" for event in ("knee", "lockout")} & shared or one in shared}
    assert declared == {*MEASURED, *elsewhere}
    assert not MEASURED.keys() & elsewhere


def raised(by_m: float, motion: BarMotion) -> BarMotion:
    return replace(motion, y_m=motion.y_m + by_m, raw_y_m=motion.raw_y_m + by_m)


def holding(motion: BarMotion) -> BodyMotion:
    return replace(pulled().lifter, bar=np.stack([motion.x_m, motion.y_m], axis=1))


@pytest.mark.parametrize("name", MEASURED)
def test_both_are_measured_as_their_formulas_say(name: str) -> None:
    if name.startswith("press"):
        # From 1.2 m to 1.8 m in two seconds; six centimetres ahead of the hips from the top of the head on, twenty below it.
        motion = raised(1.2, bar(((0.0, (0.0,)), (1.0, eased(0.6, 2.0)), (3.0, (0.0,)))))
        here = lift("press", motion, {"press_start": 1.0, "recovered": 3.0}, holding(motion))
        top = 1.3 + 0.075 * here.lifter.stature_m
        ahead = np.where(motion.y_m > top, 0.06, 0.20)
        here = with_joints(here, ear=at(0.0, 1.3), hip=at(motion.x_m - ahead, 0.9))
    else:
        motion = raised(0.225, bar(((0.0, (0.0,)), (0.2, eased(0.575, 0.8)), (1.0, (0.0,)), (2.0, eased(0.4, 1.0)), (3.0, (0.0,)))))
        here = lift("continental_clean", motion, BY_THE_BELT, holding(motion))
        # An elbow that closes evenly, from 90 to 65 degrees at the extension and further after it.
        half = np.radians(ramp(2.0, 2.5, 90.0, 65.0) - ramp(2.5, 3.0, 0.0, 40.0)) / 2
        up, fore = 0.28, 0.28
        here = with_joints(
            here, shoulder=at(0.0, 1.4), elbow=at(-up * np.cos(half), 1.4 - up * np.sin(half)),
            wrist=at(0.0, 1.4 - (up + fore) * np.sin(half)),
        )  # fmt: skip
    assert told(here, name) == pytest.approx(MEASURED[name], rel=0.02, abs=0.03)


def test_elbows_known_to_some_degrees_are_locked_when_the_bar_is_at_rest_overhead() -> None:
    performed = done("press", 1.72)
    known = PerfectBody(performed, HIGH).tracks
    raw, truth = true_tracks(performed, HIGH)
    times = np.asarray(raw.frame_time_s)
    body = body_motion(known, times, 0.0, float(times[-1]), 1.72)
    assert body is not None
    events = {name: truth["events"][name] for name in ("press_start", "recovered")}
    assert press_joint_events(body, events)["lockout"] == pytest.approx(truth["events"]["lockout"], abs=FRAME_S)
    unsure = replace(body)
    unsure.__dict__["doubt_deg"] = lambda joint, when: 25.0
    assert press_joint_events(unsure, events)["lockout"] == events["recovered"]
    assert "lockout" not in press_joint_events(unsure, {**events, "recovered": events["press_start"] + 0.4})
