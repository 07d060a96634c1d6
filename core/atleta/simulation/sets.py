"""Whole sets: which lifts there are by name, how one follows the other on the platform, and how a set ends."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from .axle import RACK_ELBOW_DEG, ContinentalPlan, continental_clean, press
from .barpath import dropped
from .build import DISC_RADIUS_M, Build
from .jerks import BEHIND_NECK_ELBOW, dip, feet_in, jerk, press_behind_neck, racked, sound_jerk, stand_in_rack
from .pulls import (
    RAISED_ELBOW,
    STANCE_M,
    STRAIGHT_ELBOW,
    TOE_OUT_DEG,
    hang_m,
    pull,
    rack_m,
    solved_start,
    sound_plan,
    standing_shoulder_m,
)
from .script import Performance, Script, perform
from .squats import BACK_ABOVE_M, BACK_BEHIND_M, sound_squat, squat, stand_ready

Changes = Mapping[str, float | bool | str]
# A step longer than usual takes so much more time.
LONG_STEP_S_PER_M = 0.3


@dataclass(frozen=True)
class Lift:
    """A lift by name: where the bar must be before it, where it is after it, and who writes it into a script."""

    before: str
    after: str
    write: Callable[[Script, Changes], None]


@dataclass(frozen=True)
class Asked:
    """A set as asked for: lifts in order, each with its changes to the sound one, and the lifter."""

    lifts: tuple[str, ...]
    build: Build
    load_kg: float = 80.0
    body_kg: float = 80.0
    changes: tuple[Changes, ...] = ()


def play(asked: Asked) -> Performance:
    """Perform the set.

    Raises:
        ValueError: a lift that is not known, or one that cannot follow the one before it; the message says which.
    """
    script = Script(asked.build, asked.load_kg, asked.body_kg)
    place = ""
    for index, name in enumerate(asked.lifts):
        changes = asked.changes[index] if index < len(asked.changes) else {}
        if name not in LIFTS:
            raise ValueError(f"'{name}' cannot be simulated. Choose from {', '.join(LIFTS)}.")
        lift = LIFTS[name]
        if place == "rack" and lift.before == "floor":
            lower_from_rack(script)
            place = "floor"
        elif place == "rack" and name.endswith(("jerk", "dip", "press")):
            feet_in(script)
        if place and place != lift.before:
            raise ValueError(f"A {name} cannot follow a {asked.lifts[index - 1]}: the bar would have to be {lift.before}.")
        lift.write(script, changes)
        if not script.parts[-1].made:
            miss = str(changes["miss"])
            let_go(script, thrown_m_s={"forward": 0.9, "behind": -0.9}.get(miss, 0.5), step_m=-0.2 if miss != "behind" else 0.35)
            place = "gone"
            break
        place = lift.after
    if place == "overhead":
        let_go(script, thrown_m_s=0.75, step_m=-0.22)
    elif place == "rack" and LIFTS[asked.lifts[0]].before in ("floor", "blocks"):
        let_go(script, thrown_m_s=0.7, step_m=-0.22)
    return perform(script)


# -- between lifts ----------------------------------------------------------------------------------------------------------


def lower_from_rack(script: Script) -> None:
    """From the shoulders to the hang and on to the floor."""
    build = script.build
    begin = script.now_s
    ball = script.last("left_ball")
    grip = script.last("grip")
    hang = hang_m(build, grip)
    script.hold(0.3)
    leave = script.now_s
    script.move(hang, 0.8)
    hung = script.now_s
    script.hold(0.3)
    down = script.now_s
    script.move(build.knee_height_m + 0.02, 0.8)
    passed = script.now_s
    script.move(DISC_RADIUS_M, 0.7)
    end = script.now_s
    script.hold(0.3)
    rest = script.now_s
    start = solved_start(build, grip, bar_y=DISC_RADIUS_M)
    racked(script, begin, leave)
    middle = leave + 0.35
    script.set("rack", [(leave, 1.0), (leave + 0.25, 0.0), (rest, 0.0)])
    script.set("wrist", [(leave, 20.0), (middle, 0.0), (rest, 0.0)])
    for axis, racks, high, straight in zip("xyz", (0.8, 0.5, 0.25), RAISED_ELBOW, STRAIGHT_ELBOW, strict=True):
        script.set(f"pole_{axis}", [(leave, racks), (leave + 0.28, high), (leave + 0.42, high), (hung, straight), (rest, straight)])
    wide, out = script.last("right_stance"), script.last("right_toe_out")
    script.both("stance", [(begin, wide), (hung + 0.03, wide), (hung + 0.27, STANCE_M), (rest, STANCE_M)])
    script.both("toe_out", [(begin, out), (hung + 0.03, out), (hung + 0.27, TOE_OUT_DEG), (rest, TOE_OUT_DEG)])
    script.both("air", [(hung + 0.02, 0.0), (hung + 0.15, 0.012), (hung + 0.28, 0.0)])
    x = ball
    script.wish("arm_slack", [(hung, 0.0006), (rest, 0.0006)], 0.0008, 0.0008)
    script.wish("shoulder_over_bar", [(leave + 0.3, -0.16), (leave + 0.5, -0.14)], 0.02)
    script.wish(
        "trunk",
        [
            (leave, 89.0),
            (middle, 92.0),
            (hung, 88.0),
            (down, 88.0),
            (passed, start.trunk_deg + 3),
            (end, start.trunk_deg),
            (rest, start.trunk_deg),
        ],
        1.0,
        4.0,
    )
    script.wish("knee", [(leave, 175.0), (leave + 0.6, 160.0), (hung, 174.0), (down, 174.0)], 1.5, 3.0)
    script.wish("bar_x", [(hung, x - 0.055), (down, x - 0.055), (passed, x - 0.03), (end, x), (rest, x)], 0.003, 0.01)
    script.wish("shoulder_over_bar", [(passed, 0.085), (end, 0.03), (rest, 0.03)], 0.006, 0.02)
    script.wish("hip_y", [(leave, build.hip_height_m), (down, build.hip_height_m), (end, start.hip_y), (rest, start.hip_y)], 0.5, 0.8)
    script.wish("hip_x", [(leave, ball - 0.12), (down, ball - 0.08), (end, ball + start.hip_x), (rest, ball + start.hip_x)], 0.5, 0.8)


def let_go(script: Script, *, thrown_m_s: float, step_m: float) -> None:
    """Push the bar away and let it fall; the lifter steps clear of it. It falls free from the first moment."""
    build = script.build
    begin = script.now_s
    # The hands move the bar away for a moment before they open.
    away_s = 0.22
    if script.speeds[-1][-1] == 0.0:
        script.hold(away_s)
    else:
        begin -= away_s
    released = script.now_s
    ground = script.ground_m
    y, v, a = dropped(script.height_m, float(script.speeds[-1][-1]), ground)
    script.heights.append(y)
    script.speeds.append(v)
    script.pushes.append(a)
    end = script.now_s
    script.released_s = released
    script.parts[-1].meant_s["release"] = released
    lands = released + float(np.sqrt(2 * (y[0] - ground) / 9.81))
    script.quick.append((begin, lands + 0.2))
    script.set("held", [(begin, 1.0), (released, 1.0), (released + 0.45, 0.0), (end, 0.0)])
    script.set("rack", [(begin, script.last("rack")), (released, 0.0), (end, 0.0)])
    script.set("wrist", [(begin, script.last("wrist")), (released + 0.1, 0.0), (end, 0.0)])
    for axis, value in zip("xyz", STRAIGHT_ELBOW, strict=True):
        script.set(f"pole_{axis}", [(begin, script.last(f"pole_{axis}")), (released + 0.2, value), (end, value)])
    script.lands_s = lands
    script.wish("bar_x'", [(begin, 0.0), (released, thrown_m_s)], 0.03, 0.1)
    # One foot after the other, the one with the longer way first; out of a split both end side by side.
    balls = {side: script.last(f"{side}_ball") for side in ("left", "right")}
    clear = (min if step_m < 0 else max)(balls.values()) + step_m
    first, second = ("right", "left") if step_m > 0 and balls["right"] < balls["left"] else ("left", "right")
    at = released + 0.06
    for side in (first, second):
        way = clear - balls[side]
        takes = 0.26 + LONG_STEP_S_PER_M * max(abs(way) - abs(step_m), 0.0)
        script.set(f"{side}_ball", [(at, balls[side]), (at + takes, clear), (end, clear)])
        script.set(f"{side}_air", [(at, 0.0), (at + takes / 2, 0.05), (at + takes, 0.0), (end, 0.0)])
        script.set(f"{side}_heel", [(at, script.last(f"{side}_heel")), (at + takes - 0.06, 0.0), (end, 0.0)])
        at += takes - 0.04
    tall = build.hip_height_m
    script.wish("hip_over_ankle", [(end - 0.3, 0.03), (end, 0.03)], 0.03, 0.03)
    stepped = max(at + 0.04, released + 0.55)
    script.anchor("hip_x", released - 0.05, [(stepped, clear - sum(balls.values()) / 2)], 0.05, 0.08)
    script.wish("trunk", [(released + 0.5, 88.0), (end, 88.0)], 3.0, 4.0)
    script.wish("hip_y", [(stepped, 0.985 * tall), (end, 0.985 * tall)], 0.01, 0.02)


# -- lifts by name ----------------------------------------------------------------------------------------------------------


def _pulled(kind: str, **fixed: float | bool | str) -> Callable[[Script, Changes], None]:
    def write(script: Script, changes: Changes) -> None:
        plan = sound_plan(kind, script.build, **{"rest_before_s": 1.0, "rest_after_s": 0.9} | fixed | dict(changes))
        pull(script, plan)

    return write


def _from_blocks(kind: str) -> Callable[[Script, Changes], None]:
    def write(script: Script, changes: Changes) -> None:
        height = script.build.knee_height_m + 0.02
        pull(script, sound_plan(kind, script.build, **{"start_height_m": height, "rest_before_s": 1.0} | dict(changes)))

    return write


def _halting(kind: str, *, above_knee_m: float, hold_s: float, go_on: bool) -> Callable[[Script, Changes], None]:
    """From the floor to a height, held there; then on into the pull, or down again."""

    def write(script: Script, changes: Changes) -> None:
        build = script.build
        plan = sound_plan(kind, build, **dict(changes))
        told = {"hold_s": hold_s, "above_knee_m": above_knee_m, "hold_drift_m": 0.0, "hold_tip_deg": 0.0} | dict(changes)
        part = script.begin_part(kind, "floor")
        origin, _ = script.hold(1.0, DISC_RADIUS_M)
        lift_off = script.now_s
        height = build.knee_height_m + float(told["above_knee_m"])
        knee_share = min((build.knee_height_m - DISC_RADIUS_M) / (height - DISC_RADIUS_M), 1.0)
        script.move(height, 1.3)
        begin = script.now_s
        script.hold(float(told["hold_s"]))
        stop = script.now_s
        start = solved_start(build, plan.grip_m, bar_y=DISC_RADIUS_M)
        knee = lift_off + 1.3 * knee_share
        script.both("ball", [(origin, 0.0), (stop, 0.0)])
        script.both("heel", [(origin, 0.0), (stop, 0.0)])
        script.both("stance", [(origin, STANCE_M)])
        script.both("toe_out", [(origin, TOE_OUT_DEG)])
        script.set("grip", [(origin, plan.grip_m)])
        for axis, value in zip("xyz", STRAIGHT_ELBOW, strict=True):
            script.set(f"pole_{axis}", [(origin, value), (stop, value)])
        back, tilt = -plan.bar.back_at_knee_m, start.trunk_deg + (0 if above_knee_m < 0.05 else 14)
        drift, tip = float(told["hold_drift_m"]), float(told["hold_tip_deg"])
        script.wish("arm_slack", [(origin, 0.0006), (stop, 0.0006)], 0.0008, 0.0008)
        script.wish(
            "bar_x",
            [
                (origin, 0.0),
                (lift_off, 0.0),
                (knee, back),
                (begin, back - 0.4 * above_knee_m * 0.3),
                (stop, back - 0.12 * above_knee_m + drift),
            ],
            0.0015,
            0.004,
        )
        script.wish(
            "trunk",
            [
                (origin, start.trunk_deg),
                (lift_off, start.trunk_deg),
                (knee, start.trunk_deg),
                (begin, tilt),
                (begin + (stop - begin) / 3, tilt),
                (stop, tilt - tip),
            ],
            0.6,
            1.5,
        )
        script.wish(
            "shoulder_over_bar", [(lift_off, plan.shoulder_start_m), (knee, plan.shoulder_knee_m), (begin, 0.08), (stop, 0.08)], 0.01, 0.02
        )
        script.wish("shin_gap", [(lift_off + 0.02, 0.004), (knee, 0.004)], 0.006, 0.006, 1)
        script.wish("gap", [(begin, 0.012), (stop, 0.012)], 0.006, 0.008)
        script.wish("balance", [(origin, 0.0), (stop, 0.0)], 0.02, 0.03)
        script.wish("hip_y", [(origin, start.hip_y), (begin, start.hip_y + 0.2)], 0.5, 0.8)
        script.wish("hip_x", [(origin, start.hip_x), (begin, start.hip_x)], 0.5, 0.8)
        held = {"hold_start": begin, "hold_end": stop}
        if go_on:
            x = back - 0.12 * above_knee_m
            fitting = sound_plan(kind, build, start_height_m=height, rest_before_s=0.02, back_at_knee_m=-x)
            pull(script, replace(plan, bar=fitting.bar))
            part.meant_s = script.parts.pop().meant_s
        else:
            script.move(DISC_RADIUS_M, 1.3)
            end = script.now_s
            script.hold(0.5)
            _on_the_floor(script, end)
        part.stop_s = script.now_s
        part.asked |= {"hold_s": hold_s, "hold_height_m": build.knee_height_m + above_knee_m}
        part.meant_s |= held | {"lift_off": lift_off, "knee": knee}

    return write


def _on_the_floor(script: Script, end: float) -> None:
    """The set position again, from when the bar lies on the floor to now."""
    at = solved_start(script.build, script.last("grip"), bar_y=DISC_RADIUS_M)
    rest = script.now_s
    script.wish("trunk", [(end, at.trunk_deg), (rest, at.trunk_deg)], 1.0, 3.0)
    script.wish("bar_x", [(end, 0.0), (rest, 0.0)], 0.003, 0.01)
    script.wish("arm_slack", [(end - 1.3, 0.0006), (rest, 0.0006)], 0.0008, 0.0008)
    script.wish("shoulder_over_bar", [(end, 0.03), (rest, 0.03)], 0.006, 0.02)
    script.wish("hip_y", [(end, at.hip_y), (rest, at.hip_y)], 0.5, 0.8)
    script.wish("hip_x", [(end, at.hip_x), (rest, at.hip_x)], 0.5, 0.8)


def _deadlift(kind: str) -> Callable[[Script, Changes], None]:
    """Slowly from the floor to standing, the bar brushing the thighs all the way up, and down again."""

    def write(script: Script, changes: Changes) -> None:
        build = script.build
        plan = sound_plan(kind, build, **dict(changes))
        part = script.begin_part("deadlift", "floor")
        origin, _ = script.hold(1.0, DISC_RADIUS_M)
        lift_off = script.now_s
        hang = hang_m(build, plan.grip_m)
        script.move(build.knee_height_m, 1.0, lean=3.0)
        knee = script.now_s
        script.move(hang, 1.1)
        stood = script.now_s
        script.hold(0.7)
        down = script.now_s
        script.move(build.knee_height_m, 1.0)
        passed = script.now_s
        script.move(DISC_RADIUS_M, 0.8)
        end = script.now_s
        script.hold(0.5)
        rest = script.now_s
        start = solved_start(build, plan.grip_m, bar_y=DISC_RADIUS_M)
        script.both("ball", [(origin, 0.0), (rest, 0.0)])
        script.both("stance", [(origin, STANCE_M)])
        script.both("toe_out", [(origin, TOE_OUT_DEG)])
        script.set("grip", [(origin, plan.grip_m)])
        for axis, value in zip("xyz", STRAIGHT_ELBOW, strict=True):
            script.set(f"pole_{axis}", [(origin, value), (rest, value)])
        x = -plan.bar.back_at_knee_m
        script.wish("arm_slack", [(origin, 0.0006), (rest, 0.0006)], 0.0008, 0.0008)
        script.wish("bar_x", [(origin, 0.0), (lift_off, 0.0), (knee, x), (stood, -0.055), (down, -0.055), (passed, x)], 0.002, 0.006)
        script.wish(
            "trunk",
            [
                (origin, start.trunk_deg),
                (lift_off, start.trunk_deg),
                (knee, start.trunk_deg + 1),
                (stood, 88.0),
                (down, 88.0),
                (passed, start.trunk_deg + 2),
            ],
            0.8,
            4.0,
        )
        script.wish("shoulder_over_bar", [(lift_off, 0.03), (knee, 0.085)], 0.006, 0.02)
        script.wish("shoulder_over_bar", [(down, -0.02), (passed, 0.085)], 0.02)
        script.wish("gap", [(knee + 0.05, 0.008), (stood - 0.2, 0.008)], 0.006, 0.008)
        script.wish("knee", [(stood, 175.0), (down, 175.0)], 1.0, 3.0)
        script.wish("balance", [(origin, 0.0), (rest, 0.0)], 0.02, 0.03)
        script.wish(
            "hip_y",
            [
                (origin, start.hip_y),
                (knee, start.hip_y + 0.25),
                (stood, build.hip_height_m),
                (down, build.hip_height_m),
                (passed, start.hip_y + 0.25),
            ],
            0.5,
            0.8,
        )
        script.wish("hip_x", [(origin, start.hip_x), (knee, start.hip_x), (stood, -0.06), (down, -0.06), (passed, start.hip_x)], 0.5, 0.8)
        _on_the_floor(script, end)
        part.stop_s, part.meant_s = rest, {"lift_off": lift_off, "knee": knee, "stand": stood}

    return write


def _jerked(kind: str) -> Callable[[Script, Changes], None]:
    def write(script: Script, changes: Changes) -> None:
        plan = sound_jerk(kind, script.build, **dict(changes))  # type: ignore[arg-type]
        if not script.parts:
            stand_in_rack(script, 1.0, rack_height_m=plan.bar.rack_height_m, grip_m=plan.grip_m, elbow_deg=plan.rack_elbow_deg)
        jerk(script, plan)

    return write


def _squatted(kind: str, *, paused: bool = False) -> Callable[[Script, Changes], None]:
    def write(script: Script, changes: Changes) -> None:
        plan = sound_squat(kind, paused=paused, **dict(changes))  # type: ignore[arg-type]
        if not script.parts:
            stand_ready(script, plan, 1.0)
        squat(script, plan)

    return write


def _dipped(script: Script, changes: Changes) -> None:
    told = {"depth_m": 0.086 * script.build.stature_m, "down_s": 0.55} | dict(changes)
    if not script.parts:
        plan = sound_jerk("split_jerk", script.build)
        stand_in_rack(script, 1.0, rack_height_m=plan.bar.rack_height_m, grip_m=plan.grip_m)
    dip(script, **told)  # type: ignore[arg-type]


def _pressed(script: Script, changes: Changes) -> None:
    build, grip = script.build, script.build.snatch_grip_m
    if not script.parts:
        begin, end = script.hold(1.0, standing_shoulder_m(build) - 0.001 + BACK_ABOVE_M)
        script.both("ball", [(begin, 0.0)])
        script.both("stance", [(begin, STANCE_M)])
        script.set("grip", [(begin, grip)])
        for axis, value in zip("xyz", BEHIND_NECK_ELBOW, strict=True):
            script.set(f"pole_{axis}", [(begin, value), (end, value)])
        script.wish("shoulder_over_bar", [(begin, BACK_BEHIND_M), (end, BACK_BEHIND_M)], 0.004, 0.004)
        script.wish("trunk", [(begin, 89.0), (end, 89.0)], 0.6, 2.0)
        script.wish("hip_y", [(begin, build.hip_height_m), (end, build.hip_height_m)], 0.5, 0.8)
        script.wish("hip_x", [(begin, -0.12), (end, -0.12)], 0.5, 0.8)
        script.wish("balance", [(begin, 0.0), (end, 0.0)], 0.008, 0.012)
    press_behind_neck(script, grip_m=grip, **dict(changes))  # type: ignore[arg-type]


def _to_the_belt(script: Script, changes: Changes) -> None:
    continental_clean(script, ContinentalPlan(**dict(changes)))  # type: ignore[arg-type]


def _pressed_from_front(script: Script, changes: Changes) -> None:
    build = script.build
    if not script.parts:
        stand_in_rack(script, 1.0, rack_height_m=rack_m(build), grip_m=build.clean_grip_m, elbow_deg=RACK_ELBOW_DEG)
    press(script, **dict(changes))  # type: ignore[arg-type]


LIFTS: dict[str, Lift] = {
    "snatch": Lift("floor", "overhead", _pulled("snatch")),
    "power_snatch": Lift("floor", "overhead", _pulled("power_snatch")),
    "clean": Lift("floor", "rack", _pulled("clean")),
    "power_clean": Lift("floor", "rack", _pulled("power_clean")),
    "snatch_from_blocks": Lift("blocks", "overhead", _from_blocks("snatch")),
    "clean_from_blocks": Lift("blocks", "rack", _from_blocks("clean")),
    "split_jerk": Lift("rack", "overhead", _jerked("split_jerk")),
    "power_jerk": Lift("rack", "overhead", _jerked("power_jerk")),
    "snatch_pull": Lift("floor", "floor", _pulled("snatch_pull")),
    "clean_pull": Lift("floor", "floor", _pulled("clean_pull")),
    "snatch_high_pull": Lift("floor", "floor", _pulled("snatch_high_pull")),
    "clean_high_pull": Lift("floor", "floor", _pulled("clean_high_pull")),
    "snatch_pull_from_blocks": Lift("blocks", "blocks", _from_blocks("snatch_pull")),
    "clean_pull_from_blocks": Lift("blocks", "blocks", _from_blocks("clean_pull")),
    "snatch_pull_pause_knee": Lift("floor", "floor", _halting("snatch_pull", above_knee_m=0.0, hold_s=3.0, go_on=True)),
    "clean_pull_pause_knee": Lift("floor", "floor", _halting("clean_pull", above_knee_m=0.0, hold_s=3.0, go_on=True)),
    "halting_snatch_pull": Lift("floor", "floor", _halting("snatch_pull", above_knee_m=0.12, hold_s=3.0, go_on=False)),
    "halting_clean_pull": Lift("floor", "floor", _halting("clean_pull", above_knee_m=0.12, hold_s=3.0, go_on=False)),
    "brush_deadlift_snatch": Lift("floor", "floor", _deadlift("snatch_pull")),
    "brush_deadlift_clean": Lift("floor", "floor", _deadlift("clean_pull")),
    "overhead_squat": Lift("overhead", "overhead", _squatted("overhead_squat")),
    "front_squat": Lift("rack", "rack", _squatted("front_squat")),
    "back_squat": Lift("back", "back", _squatted("back_squat")),
    "overhead_squat_pause": Lift("overhead", "overhead", _squatted("overhead_squat", paused=True)),
    "front_squat_pause": Lift("rack", "rack", _squatted("front_squat", paused=True)),
    "back_squat_pause": Lift("back", "back", _squatted("back_squat", paused=True)),
    "jerk_dip": Lift("rack", "rack", _dipped),
    "press_behind_neck": Lift("back", "back", _pressed),
    "continental_clean": Lift("floor", "rack", _to_the_belt),
    "press": Lift("rack", "overhead", _pressed_from_front),
}
SHORTHAND = {"jerk": ("split_jerk",), "clean_and_jerk": ("clean", "split_jerk")}


def named(words: str) -> tuple[str, ...]:
    """Lifts in order from words such as `snatch`, `clean_and_jerk` or `clean+clean+jerk`."""
    made: list[str] = []
    for word in words.replace("-", "_").split("+"):
        made += SHORTHAND.get(word.strip(), (word.strip(),))
    return tuple(made)
