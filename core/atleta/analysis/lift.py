"""One lift of the document: its events, its bar, its measures and findings, each with its uncertainty."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any
from zlib import crc32

import numpy as np
from numpy.typing import NDArray

from ..document import rounded, series
from ..events import EVENTS, FAMILY_OF_KIND, BodyHeights, Lift, outcome_of
from ..events.axle import press_events
from ..events.jerk import jerk_events
from ..events.joints import (
    continental_joint_events,
    jerk_joint_events,
    press_joint_events,
    pull_joint_events,
    shows_contact,
    squat_joint_events,
)
from ..events.lifts import STANDS_IN_FROM_STATURE, from_floor_events
from ..events.pull import with_hold
from ..events.squat import squat_reps
from ..footage import Clicks
from ..measures import LiftData, Start, Value, declarations, drawn_relations, measure_lift, own_start
from ..motion import BarMotion, BarTrack, BodyMotion, Calibration, FrontMotion, JointTracks, bar_motions, body_motion
from ..motion.front import USUAL_DISTANCE_M
from .findings import findings_of
from .settings import Settings

# So many draws tell a deviation to a sixth of it. A coach waits for them at every correction, and twice in a clip of two lifts.
DRAWS = 18
# The lifter is fitted from so long before a lift to so long after it.
BODY_BEFORE_S, BODY_AFTER_S = 0.3, 0.3
# Where a filter cuts off is a choice too, and what is quick depends on it: draws are made with these shares of the chosen cut-off.
CUTOFFS = (0.75, 1.0, 1.33)
# What ends the bar's rest before a lift.
LEAVES_REST = ("lift_off", "dip_start", "descent_start", "press_start")
# How fast sound comes to the phone.
SOUND_M_S = 343.0
# The fit takes yaw into account; beyond this a body seen from the side is no longer what it assumes.
SAGITTAL_WITHIN_DEG = 20.0
# A mark between two frames is known no better than this share of their distance (a uniform spread over one frame).
FRAME_SD = 12**-0.5
# How well the bar's way back tells when the thigh meets it.
CONTACT_SD_S = 0.008
# What bodies drawn from a fit leave out, measured on simulated clips: how quick hips are for a moment (m/s) and how far they open at the
# end of a drive (°), since bodies are drawn as calm as the fit is; how deep folded hips are against the knees, and how far shoulders go
# down under a bar, which arms that look bent hold up (cm); how long a split is for its leg; how upright a trunk is whose shoulders the
# disc hides, and how far one opens, of which the largest is told (°); how straight legs are at the end of a drive, and arms at the apex,
# for a moment (°); when heels rise, and how long hips are behind knees (ms); and when a knee turns, a foot steps (the fit lets it leap) or
# lands (the one behind slides to where it stays).
FIT_SD = {
    "hip_forward_speed@contact": 0.3, "drive_extension_hip": 6.0, "depth": 1.5, "under_drop": 3.0, "split_length_share": 0.03,
    "trunk_angle@bottom": 2.0, "trunk_opened_early": 2.5, "knee_angle@drive_end": 10.0, "ankle_angle@drive_end": 9.0,
    "shin_angle@drive_end": 5.5, "elbow_angle@apex": 13.0, "heel_rise_lead": 15.0, "knee_hip_extension_lag": 12.0,
}  # fmt: skip
FIT_SD_S = {"first_pull_end": 0.03, "rebend": 0.03, "first_step": 0.1, "front_foot_down": 0.01, "back_foot_down": 0.025}
# And what bars drawn from a track leave out: a click is as loud (dB), and as late (ms), as the millisecond in which it is heard tells; how
# a brake of a few frames came on is guessed (cm); where hips are in a proper split is not agreed (cm); a picture that shakes, or is bent by
# a lens, lets a bar that lies still seem to roll (cm); and what stops a bar within a frame or two is blurred (m/s).
BAR_SD = {
    "contact_click": 1.0, "contact_click_after": 0.5, "brake_distance": 0.5, "bar_surplus": 2.5, "setup_roll": 0.2,
    "bar_approach_speed": 0.04, "meet_speed": 0.035,
}  # fmt: skip
# A bar that was put down lies nearer or farther than it did, and so higher or lower in the picture, m: over 36 simulated lifts.
PUT_DOWN_SD_M = 0.011


def bar_as_well(bar: BarTrack, calibration: Calibration) -> list[BarMotion]:
    """The bar's motion as it might as well have come out, `DRAWS` times: pixel noise, filter, scale and plumb drawn anew."""
    rng = np.random.default_rng(20_000 + len(bar.time_s))
    stretch = 1 + rng.normal(0, calibration.scale.sd / calibration.scale.m_per_px, DRAWS)
    lean = np.radians(rng.normal(0, calibration.plumb_sd_deg, DRAWS))
    x, y = bar.x_m[:, None], bar.y_m[:, None]
    drawn_x = stretch * (x * np.cos(lean) - y * np.sin(lean)) + bar.drawn_off(rng, DRAWS)
    drawn_y = stretch * (y * np.cos(lean) + x * np.sin(lean)) + bar.drawn_off(rng, DRAWS)
    kinds = len(CUTOFFS)
    return [
        motion
        for k, share in enumerate(CUTOFFS)
        for motion in bar_motions(_filtered_at(bar, share), drawn_x[:, k::kinds], drawn_y[:, k::kinds])
    ]


def lift_part(
    bar: BarTrack, as_well: Sequence[BarMotion], lift: Lift, calibration: Calibration, heights: BodyHeights | None,
    joints: JointTracks | None, front: FrontMotion | None, clicks: Clicks, settings: Settings,
) -> dict[str, Any]:  # fmt: skip
    """One lift of the document: events, bar, measures and findings, each with its uncertainty.

    Args:
        as_well: the bar's motion as `bar_as_well` draws it, for all lifts of the same bar.
        front: what is seen of a lifter who was filmed from the front; then there are no joints.
    """
    family = FAMILY_OF_KIND[lift.kind]
    radius_m = calibration.scale.disc_diameter_m / 2
    motion = bar.motion
    body, no_body = _lifter(joints, bar, lift, settings)
    if front:
        # The bar's way back to the thigh shows only from the side.
        lift = replace(lift, events_s={name: at for name, at in lift.events_s.items() if name != "contact"})
    late_s = (joints.distance_m if joints else USUAL_DISTANCE_M) / SOUND_M_S
    told = _told_by_joints(body, lift.kind, lift.events_s)
    said = _set_events(bar, lift, settings)
    lift = replace(lift, events_s=lift.events_s | told | said)
    events = lift.events_s

    def data_of(
        motion: BarMotion, at: Lift, events: dict[str, float], body: BodyMotion | None, front: FrontMotion | None
    ) -> LiftData:  # fmt: skip
        return LiftData(
            _on_floor(motion, at, radius_m), events, lift.height_known, radius_m, settings.load_kg, settings.stature_m, lift.kind, body,
            no_body, settings.usual_speed, clicks, late_s, front,
        )  # fmt: skip

    data = data_of(motion, lift, events, body, front)
    values = measure_lift(family, data)
    event_draws, measure_draws = _spread(bar, as_well, lift, calibration, heights, body, front, family, data_of, said)

    frame_s = 1 / bar.rate_hz
    start, stop = motion.frame_at(lift.start_s), motion.frame_at(lift.stop_s)
    measures: dict[str, Any] = {}
    for declaration in declarations(family, lift.kind):
        value = values[declaration.id]
        if isinstance(value, Value):
            drawn = np.array(measure_draws.get(declaration.id, []))
            # The draws are about the measured value, not about their own mean: what noise adds on average counts as uncertainty too.
            sd = float(np.sqrt(np.mean((drawn - value.value) ** 2))) if len(drawn) >= DRAWS // 2 else np.nan
            if np.isfinite(sd):
                measures[declaration.id] = {
                    "value": rounded(value.value, 4), "unit": declaration.unit, "sd": rounded(sd, 4),
                    "frame": motion.frame_at(value.time_s),
                }  # fmt: skip
                if set(declaration.needs) & STANDS_IN_FROM_STATURE - told.keys() - said.keys():
                    measures[declaration.id]["note"] = "the knee's height stands in from stature"
                continue
            value = "it cannot be told apart from the noise of this clip"
        measures[declaration.id] = {"value": None, "unit": declaration.unit, "reason": value}

    outcome = None if front else outcome_of(motion, lift, arms_seen="low_point" in told)
    found = findings_of(lift.kind, lift.place, measures, settings, outcome, "front" if front else "side")
    seen = np.arange(start - bar.first_frame, stop - bar.first_frame + 1)
    starts_own = measures.get("hip_height_against_start", {}).get("value") is not None
    return {
        "kind": lift.kind,
        "from": lift.begins,
        "implement": "axle" if family == "continental" else "barbell",
        "start_frame": start,
        "end_frame": stop,
        "made": settings.made,
        "events": {
            name: {
                "frame": motion.frame_at(at),
                "time_s": rounded(at, 4),
                "sd_s": rounded(float(np.hypot(np.std(event_draws.get(name, [0.0])), FRAME_SD * frame_s)), 4),
                "source": _source(name, told, said),
            }
            for name, at in sorted(events.items(), key=lambda item: item[1])
        },
        "bar": {
            "first_frame": start,
            "time_s": series(data.motion.time_s[seen], 5),
            # From the front the bar's height shows, and nothing else well enough.
            **{
                name: series(getattr(data.motion, name)[seen] if name == "y_m" or not front else np.full(len(seen), np.nan), 5)
                for name in ("x_m", "y_m", "vx_m_s", "vy_m_s", "ay_m_s2")
            },
        },
        "balance": _balance(body, settings.load_kg, seen) if body else None,
        "relations": _relations(body, seen) if body else None,
        "own_start": _own_start(own_start(data)) if starts_own else None,
        "measures": measures,
        "outcome": {"made": outcome.made, "how": outcome.how or None} if outcome else None,
        "seen_from": "front" if front else "side",
        **found,
    }


def _balance(body: BodyMotion, load_kg: float | None, rows: NDArray[np.intp]) -> dict[str, Any]:
    return {"x_m": series(body.balance(load_kg)[rows], 4), "sd_m": series(body.doubt_of(lambda one: one.balance(load_kg))[rows], 4)}


def _relations(body: BodyMotion, rows: NDArray[np.intp]) -> dict[str, Any]:
    told = drawn_relations(body)
    return {name: {"cm": series(values[rows], 2), "sd_cm": series(sds[rows], 2)} for name, (values, sds) in told.items()}


def _own_start(start: Start) -> dict[str, Any]:
    return {
        "trunk_deg": rounded(start.trunk_deg, 1),
        "points_m": {name: [rounded(x, 4), rounded(y, 4)] for name, (x, y) in start.points_m.items()},
    }


def _set_events(bar: BarTrack, lift: Lift, settings: Settings) -> dict[str, float]:
    """What the coach set of this lift's events (s)."""
    known = EVENTS[FAMILY_OF_KIND[lift.kind]]
    rows = [(point.name, point.frame - bar.first_frame) for point in settings.events if point.name in known]
    times = {name: float(bar.time_s[row]) for name, row in rows if 0 <= row < len(bar.time_s)}
    return {name: at for name, at in times.items() if lift.start_s - BODY_BEFORE_S <= at <= lift.stop_s + BODY_AFTER_S}


def _source(event: str, told: Mapping[str, float], said: Mapping[str, float]) -> str:
    if event in said:
        return "coach"
    return "joints" if event in told else "stature" if event in STANDS_IN_FROM_STATURE else "bar"


def _on_floor(motion: BarMotion, lift: Lift, disc_radius_m: float) -> BarMotion:
    """The motion with x from the bar's place at the start and y above the floor (above the rack for lifts that begin there)."""
    zero = lift.rest_y_m - (disc_radius_m if lift.height_known else 0.0)
    return replace(motion, x_m=motion.x_m - lift.rest_x_m, y_m=motion.y_m - zero, raw_y_m=motion.raw_y_m - zero)


def _lifter(joints: JointTracks | None, bar: BarTrack, lift: Lift, settings: Settings) -> tuple[BodyMotion | None, str]:
    """The lifter over this lift, or None and why."""
    if joints is None:
        return None, "the lifter's joints were not seen"
    if abs(joints.yaw_deg) > SAGITTAL_WITHIN_DEG:
        return None, f"the camera stands {abs(joints.yaw_deg):.0f}° off the side: film this from the side"
    body = body_motion(joints, bar.time_s, lift.start_s, lift.stop_s, settings.stature_m)
    return body, "the lifter's joints were not seen"


def _told_by_joints(body: BodyMotion | None, kind: str, events: dict[str, float]) -> dict[str, float]:
    """Events that joints add, or tell better than the bar and stature alone."""
    if body is None:
        return {}
    family = FAMILY_OF_KIND[kind]
    if family == "pull":
        return pull_joint_events(body, kind, events)
    told = {"jerk": jerk_joint_events, "squat": squat_joint_events, "continental": continental_joint_events, "press": press_joint_events}
    return told[family](body, events) if family in told else {}


def _spread(
    bar: BarTrack, as_well: Sequence[BarMotion], lift: Lift, calibration: Calibration, heights: BodyHeights | None,
    lifter: BodyMotion | None, front: FrontMotion | None, family: str,
    data_of: Callable[[BarMotion, Lift, dict[str, float], BodyMotion | None, FrontMotion | None], LiftData], said: Mapping[str, float],
) -> tuple[dict[str, list[float]], dict[str, list[float]]]:  # fmt: skip
    """Events and measures of the lift as they might as well have come out: for every draw of the bar stature, joints and frame interval
    drawn anew, and the whole chain from filter to measure run on it."""
    rng = np.random.default_rng(20_001 + len(bar.time_s))
    # What a coach set must not change what everything else draws.
    own = np.random.default_rng(30_000 + len(bar.time_s))
    radius_m = calibration.scale.disc_diameter_m / 2
    event_draws: dict[str, list[float]] = {}
    measure_draws: dict[str, list[float]] = {}
    from_fit = lifter is not None and len(lifter.drawn_off) > 0
    # Each from a source of its own, so that what one leaves open does not change what any other draws.
    left_out = {
        name: np.random.default_rng([len(bar.time_s), crc32(name.encode())]).normal(0, sd, DRAWS)
        for name, sd in (BAR_SD | FIT_SD if from_fit else BAR_SD).items()
    }
    lay_m = np.random.default_rng([len(bar.time_s), crc32(b"rest")]).normal(0, PUT_DOWN_SD_M * float(lift.seen_late), DRAWS)
    lifters = lifter.drawn(DRAWS) if lifter else iter([None] * DRAWS)
    fronts = front.drawn(DRAWS) if front else iter([None] * DRAWS)
    for turn, (motion, drawn, drawn_front) in enumerate(zip(as_well, lifters, fronts, strict=True)):
        body = heights.shifted(float(rng.normal())) if heights else None
        events = _same_events(motion, lift, body, radius_m)
        events |= _told_by_joints(drawn, lift.kind, events)
        if not lift.events_s.keys() - events.keys():
            jitter = FRAME_SD / bar.rate_hz
            late = {"meet": jitter, "dip_start": jitter, "dip_bottom": jitter} | (FIT_SD_S if from_fit else {})
            if not (drawn and shows_contact(drawn)):
                late["contact"] = CONTACT_SD_S
            events = _in_order({name: at + (rng.normal(0, late[name]) if name in late else 0.0) for name, at in events.items()}, events)
        events |= {name: at + own.normal(0, FRAME_SD / bar.rate_hz) for name, at in said.items()}
        for name, at in events.items():
            event_draws.setdefault(name, []).append(at)
        first = next(iter(sorted(events.values())), lift.start_s)
        rest = replace(lift, rest_x_m=motion.at("x_m", first), rest_y_m=_rest_height(motion, lift) + lay_m[turn])
        for name, value in measure_lift(family, data_of(motion, rest, events, drawn, drawn_front)).items():
            if isinstance(value, Value):
                off = float(left_out[name][turn]) if name in left_out else 0.0
                measure_draws.setdefault(name, []).append(value.value + off)
    return event_draws, measure_draws


def _in_order(moved: Mapping[str, float], events: Mapping[str, float]) -> dict[str, float]:
    """Events moved a little, none of them past one that it followed."""
    names = sorted(events, key=lambda name: events[name])
    return dict(zip(names, map(float, np.maximum.accumulate([moved[name] for name in names])), strict=True))


def _filtered_at(bar: BarTrack, share: float) -> BarTrack:
    """The same track with its cut-offs this much lower or higher."""
    most = 0.45 * bar.rate_hz
    names = ("cutoff_hz", "acceleration_cutoff_hz", "quick_cutoff_hz")
    return replace(bar, **{name: min(share * getattr(bar, name), most) for name in names})


def _same_events(motion: BarMotion, lift: Lift, heights: BodyHeights | None, disc_radius_m: float) -> dict[str, float]:
    if FAMILY_OF_KIND[lift.kind] == "jerk":
        return jerk_events(motion, lift.start_s, lift.stop_s)
    if FAMILY_OF_KIND[lift.kind] == "press":
        return press_events(motion, heights.stature_m if heights else None, lift.start_s, lift.stop_s)
    if FAMILY_OF_KIND[lift.kind] == "squat":
        bottom = lift.events_s["bottom"]
        return min(squat_reps(motion, lift.start_s, lift.stop_s), key=lambda rep: abs(rep["bottom"] - bottom), default={})
    rest = _rest_height(motion, lift)
    events = from_floor_events(motion, lift.kind, heights, lift.start_s, lift.stop_s, rest, disc_radius_m)
    return with_hold(motion, lift.kind, events, lift.stop_s, rest) if "hold_start" in lift.events_s else events


def _rest_height(motion: BarMotion, lift: Lift) -> float:
    if lift.seen_late:
        return lift.rest_y_m
    begin = next((lift.events_s[name] for name in LEAVES_REST if name in lift.events_s), lift.start_s)
    rest: NDArray[np.bool_] = (motion.time_s >= lift.start_s) & (motion.time_s < begin - 0.05)
    return float(np.median(motion.raw_y_m[rest])) if rest.sum() >= 3 else motion.at("raw_y_m", begin)
