"""Lifts of the thick bar: to the belt, regripped there, on to the shoulders; and from the shoulders pressed overhead."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .build import DISC_RADIUS_M, Build
from .jerks import PRESS_ELBOW, RACK_OVER_MIDFOOT_M, racked
from .pulls import (
    LOCKED_ELBOW,
    RAISED_ELBOW,
    STANCE_M,
    STRAIGHT_ELBOW,
    TOE_OUT_DEG,
    hang_m,
    overhead_m,
    rack_m,
    solved_start,
    standing_shoulder_m,
)
from .script import Script

# The belt lies between the hip joint and the lowest rib: so far up the trunk.
BELT_SHARE = 0.24
# A trunk that carries a bar on the belt leans back so far, degrees.
BELT_TRUNK_DEG = 95.0
BELT_ELBOW = (-0.75, -0.2, 0.6)
RACK_ELBOW_DEG = 52.0
# How long the legs and hips take from the dip to straight; arms that wait for them close after it.
DRIVE_S = 0.26


@dataclass(frozen=True)
class ContinentalPlan:
    """What the lifter sets out to do. Lengths in m, times in s, angles in degrees; forward and up positive."""

    rest_before_s: float = 1.0
    first_s: float = 1.9
    """From the floor to hanging arms."""
    to_belt_s: float = 0.7
    on_belt_s: float = 1.1
    dip_m: float = 0.09
    dip_s: float = 0.45
    to_shoulder_s: float = 0.62
    """From the dip to the shoulders."""
    curl_s: float = 0.0
    """How long the arms are ahead of legs and hips."""
    stand_s: float = 1.1


def belt_m(build: Build) -> float:
    """Height of the bar when it rests on the belt of a lifter who stands."""
    return build.hip_height_m - 0.012 + BELT_SHARE * build.trunk_m


def continental_clean(script: Script, plan: ContinentalPlan) -> dict[str, float]:
    """Write one into the script, from the floor to the shoulders; the meant times of its events."""
    build = script.build
    part = script.begin_part("continental_clean", "floor")
    grip = build.clean_grip_m
    origin, _ = script.hold(plan.rest_before_s, DISC_RADIUS_M)
    off = script.now_s
    belt_y, rack_y = belt_m(build), rack_m(build)
    _, hung = script.move(hang_m(build, grip), plan.first_s, lean=4.0)
    _, belt = script.move(belt_y, plan.to_belt_s)
    rising = np.arange(off, hung, 0.01)
    knee = float(rising[np.argmax([script.bar_y(at) >= build.knee_height_m for at in rising])])
    _, regrip = script.hold(plan.on_belt_s)
    _, low = script.move(belt_y - plan.dip_m, plan.dip_s)
    _, shoulder = script.move(rack_y, plan.to_shoulder_s, lean=2.0)
    _, end = script.hold(plan.stand_s)
    straight = low + DRIVE_S + plan.curl_s
    script.quick.append((regrip, shoulder + 0.2))

    start = solved_start(build, grip, bar_y=DISC_RADIUS_M)
    tall = build.hip_height_m - 0.012
    script.both("ball", [(origin, 0.0), (end, 0.0)])
    script.both("stance", [(origin, STANCE_M)])
    script.both("toe_out", [(origin, TOE_OUT_DEG)])
    script.set("grip", [(origin, grip), (end, grip)])
    script.set("rack", [(origin, 0.0), (straight, 0.0), (max(shoulder, straight + 0.1), 1.0), (end, 1.0)])
    script.set("wrist", [(origin, 0.0), (straight, 0.0), (max(shoulder, straight + 0.1), 20.0), (end, 20.0)])
    # Overhand until the bar hangs at the hips, then the elbows go back to lay it on the belt.
    elbow = np.radians(RACK_ELBOW_DEG)
    for axis, long, laid, high, rack in zip(
        "xyz", STRAIGHT_ELBOW, BELT_ELBOW, RAISED_ELBOW, (np.cos(elbow), np.sin(elbow), 0.25), strict=True
    ):
        turned = [(shoulder - 0.22, high), (shoulder, rack), (end, rack)]
        script.set(f"pole_{axis}", [(origin, long), (hung, long), (belt, laid), (low, laid), *turned])
    script.wish("arm_slack", [(origin, 0.0006), (hung, 0.0006)], 0.0008, 0.0008)
    script.wish("bar_x", [(origin, 0.0), (off, 0.0), (knee, -0.02)], 0.002, 0.006)
    script.wish("shoulder_over_bar", [(off, 0.03), (knee, 0.085)], 0.006, 0.02)
    tilt = start.trunk_deg
    lifted = [(origin, tilt), (off, tilt), (knee, tilt + 1), (hung, 88.0), (belt, BELT_TRUNK_DEG), (regrip, BELT_TRUNK_DEG)]
    script.wish("trunk", [*lifted, (low, BELT_TRUNK_DEG - 2), (straight, 98.0), (shoulder + 0.15, 90.0), (end, 89.0)], 0.8, 2.0)
    script.wish("gap", [(knee + 0.05, 0.012), (hung - 0.1, 0.012)], 0.01, 0.02)
    script.wish("trunk_gap", [(belt, 0.004), (regrip, 0.004), (low, 0.004)], 0.004, 0.006)
    for begin, stop in ((hung, belt), (low, shoulder)):
        script.wish("trunk_gap", [(begin, 0.008), (stop, 0.008)], 0.004, 0.004, 1)
    script.wish("shoulder_over_bar", [(straight + 0.06, -0.10), (shoulder - 0.08, -0.08)], 0.02, 0.03)
    script.wish("knee", [(hung, 174.0), (belt, 174.0), (regrip, 174.0)], 1.0, 3.0)
    script.wish("knee", [(straight, 176.0)], 1.0)
    script.wish(
        "hip_y",
        [
            (origin, start.hip_y), (knee, start.hip_y + 0.25), (hung, tall), (belt, tall), (regrip, tall), (low, tall - plan.dip_m),
            (straight, tall + 0.02), (shoulder, tall - 0.02), (shoulder + 0.3, tall), (end, tall),
        ],
        0.02,
        0.03,
    )  # fmt: skip
    heel = 0.03 * build.stature_m
    script.both("heel", [(origin, 0.0), (straight - 0.14, 0.0), (straight, heel), (straight + 0.16, 0.0), (end, 0.0)])
    script.wish("girdle", [(straight - 0.12, 0.0), (straight + 0.05, 0.035), (shoulder + 0.1, 0.0), (end, 0.0)], 0.006, 0.01)
    script.wish("hip_x", [(origin, start.hip_x), (knee, start.hip_x), (belt, -0.06), (end, -0.1)], 0.5, 0.8)
    script.wish("balance", [(origin, 0.0), (end, 0.0)], 0.03, 0.04)
    racked(script, shoulder, end)
    script.wish("knee", [(shoulder + 0.35, 176.0), (end, 176.0)], 0.8, 3.0)
    script.wish("bar_over_midfoot", [(end - 0.3, RACK_OVER_MIDFOOT_M), (end, RACK_OVER_MIDFOOT_M)], 0.003, 0.004)
    part.stop_s = end
    part.meant_s = {"lift_off": off, "knee": knee, "belt": belt, "regrip": regrip, "extension": straight, "shoulder": shoulder}
    return part.meant_s


def press(script: Script, *, overhead_s: float = 1.5, forward_m: float = 0.0, locked_s: float = 1.2) -> dict[str, float]:
    """One press from the shoulders to overhead without the legs' help; the script must stand with the bar on the shoulders.

    Args:
        forward_m: how far ahead of the hips the bar goes up and is held, against one that is pressed over them.
    """
    build = script.build
    part = script.begin_part("press", "rack")
    begin, _ = script.hold(0.5)
    start = script.now_s
    grip, wrist = build.clean_grip_m, 24.0
    _, up = script.move(standing_shoulder_m(build) - 0.002 + overhead_m(build, grip, wrist), overhead_s)
    _, end = script.hold(locked_s)
    passed = start + 0.45 * overhead_s
    script.quick.append((up - 0.4, up + 0.2))
    racked(script, begin, start)
    # The trunk leans back while the bar passes the face; then hips and head come under it.
    script.wish("trunk", [(begin, 89.0), (start, 89.0), (start + 0.25 * overhead_s, 95.0), (up, 90.0), (end, 89.5)], 0.8, 1.5)
    script.wish("knee", [(begin, 176.0), (end, 176.0)], 0.8, 2.0)
    script.wish("bar_over_midfoot", [(begin, RACK_OVER_MIDFOOT_M), (start, RACK_OVER_MIDFOOT_M)], 0.003, 0.004)
    script.wish("bar_over_hip", [(passed, 0.035 + forward_m), (up, forward_m), (end, 0.8 * forward_m)], 0.003, 0.006)
    script.wish("balance", [(start, 0.0), (end, 0.0)], 0.03, 0.04)
    script.wish("arm_slack", [(up, 0.0012), (end, 0.0012)], 0.002, 0.002)
    script.wish("girdle", [(start, 0.0), (up, 0.012), (end, 0.012)], 0.006, 0.008)
    script.set("rack", [(start, 1.0), (start + 0.25 * overhead_s, 0.0), (end, 0.0)])
    script.set("wrist", [(begin, 20.0), (up, wrist), (end, wrist)])
    elbow = np.radians(RACK_ELBOW_DEG)
    for axis, rack, pressed, locked in zip("xyz", (np.cos(elbow), np.sin(elbow), 0.25), PRESS_ELBOW, LOCKED_ELBOW, strict=True):
        script.set(f"pole_{axis}", [(begin, rack), (start, rack), (start + 0.3 * overhead_s, pressed), (up, locked), (end, locked)])
    part.stop_s, part.meant_s = end, {"press_start": start, "lockout": up, "recovered": up}
    return part.meant_s
