"""Which lift a clip shows, from where the bar starts, how high it is stood up with, and how deep it is received."""

from __future__ import annotations

from dataclasses import dataclass
from math import erf, sqrt

import numpy as np

from ..motion import BarMotion
from ..motion.body.sight import UNKNOWN_STATURE_M
from .axle import LEAST_FROM_BELT, MOST_FROM_BELT, continental_events
from .body import heights_from_stature
from .lifts import raised
from .pull import pull_events
from .squat import squat_reps

# Shares of stature: a bar stood up with in hanging arms, on the shoulders or overhead, and how far below that a full catch is at least.
HUNG, RACKED, OVERHEAD_AT, FULL_CATCH = 0.46, 0.83, 1.20, 0.27
# A bar pulled higher than this was pulled to snatch it.
SNATCHED_TO = 0.76
# How much people, and grips, differ from those; and how much further an unknown stature leaves it open.
SHARE_SD, UNKNOWN_STATURE_SD = 0.05, 0.05
# A deadlift never gets as fast as a pull.
PULLED_M_S = 1.0
JERKED_UP, CALM_M_S = 0.12, 0.1
ABOVE_SHOULDER_M = 0.25
# The near disc's middle is not the bar's as soon as the camera stands a little to the front or back.
BAR_AGAINST_SHOULDER_SD_M = 0.12


@dataclass(frozen=True)
class Recognised:
    """What a clip seems to show: a kind as a coach would say it, and how likely it is that."""

    kind: str
    probability: float


def recognise(
    motion: BarMotion, *, disc_radius_m: float, stature_m: float | None, bar_against_shoulder_m: tuple[float, float] | None
) -> Recognised | None:
    """The kind of the clip's first lift, or None where the bar does nothing that a lift does.

    Args:
        bar_against_shoulder_m: how far the bar is ahead of and above the shoulder joints when the clip begins, where somebody was seen.
    """
    stature = stature_m or UNKNOWN_STATURE_M
    sd = SHARE_SD if stature_m else float(np.hypot(SHARE_SD, UNKNOWN_STATURE_SD))
    span = float(np.ptp(motion.y_m))
    first = float(np.median(motion.y_m[:10]))
    if float(np.abs(motion.vy_m_s[:10]).mean()) > CALM_M_S:
        # The bar was already under way when it was first seen.
        return None
    from_floor = raised(motion) if first < float(motion.y_m.min()) + 0.25 * span else []
    if from_floor:
        start_s, stop_s, rest = from_floor[0]
        by_belt = continental_events(motion, heights_from_stature(stature), start_s, stop_s, rest, disc_radius_m)
        if "shoulder" in by_belt:
            middle, half = (LEAST_FROM_BELT + MOST_FROM_BELT) / 2, (MOST_FROM_BELT - LEAST_FROM_BELT) / 2
            rise = (motion.at("y_m", by_belt["shoulder"]) - motion.at("y_m", by_belt["belt"])) / stature
            after = motion.y_m[(motion.time_s > by_belt["shoulder"]) & (motion.time_s <= stop_s)]
            top = (float(after.max(initial=-np.inf)) - rest + disc_radius_m) / stature
            kind = "continental_clean" if top < (RACKED + OVERHEAD_AT) / 2 else "continental_clean_and_press"
            return Recognised(kind, _sure(half - abs(rise - middle), sd))
        events = pull_events(motion, "snatch", None, start_s, stop_s, rest, disc_radius_m)
        if "peak_speed" not in events:
            return None
        tall = (motion.at("y_m", events["stand"]) - rest + disc_radius_m) / stature if "stand" in events else 0.0
        if tall < (HUNG + RACKED) / 2:
            quick = motion.at("vy_m_s", events["peak_speed"]) - PULLED_M_S
            top = (motion.at("y_m", events.get("apex", events["peak_speed"])) - rest + disc_radius_m) / stature - SNATCHED_TO
            if "release" in events or top > 0:
                return Recognised("snatch" if top > 0 else "clean", _sure(abs(top), sd))
            return Recognised("clean_pull" if quick > 0 else "deadlift", _sure(abs(quick), 0.15))
        middle = (RACKED + OVERHEAD_AT) / 2
        lift, height = ("snatch" if tall > middle else "clean"), _sure(abs(tall - middle), sd)
        deep = (motion.at("y_m", events["stand"]) - motion.at("y_m", events["bottom"])) / stature - FULL_CATCH
        depth = _sure(abs(deep), sd)
        kind = lift if deep > 0 else f"power_{lift}"
        top = (float(motion.y_m[(motion.time_s > events["stand"]) & (motion.time_s <= stop_s)].max(initial=-np.inf)) - rest) / stature
        if lift == "clean" and top + disc_radius_m / stature > middle:
            return Recognised("clean_and_jerk", height)
        return Recognised(kind, height * depth)
    reps = squat_reps(motion)
    risen = (float(np.percentile(motion.y_m, 90)) - first) / stature
    if risen > JERKED_UP:
        return Recognised("split_jerk", _sure(risen - JERKED_UP, sd))
    if not reps:
        return None
    if bar_against_shoulder_m is None:
        return Recognised("front_squat", 0.4)
    ahead, above = bar_against_shoulder_m
    if above > ABOVE_SHOULDER_M:
        return Recognised("overhead_squat", _sure(above - ABOVE_SHOULDER_M, 0.1))
    return Recognised("front_squat" if ahead > 0 else "back_squat", _sure(abs(ahead), BAR_AGAINST_SHOULDER_SD_M))


def _sure(margin: float, sd: float) -> float:
    """The chance that a difference has the sign it was measured with."""
    return 0.5 * (1 + erf(margin / sd / sqrt(2)))
