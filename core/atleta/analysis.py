"""The front door: a clip, or tracks already taken from one, in; the analysis document out.

`track_clip` decodes and follows discs once. `build_document` derives everything else and is what runs again after a correction:
it never opens the video.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from . import __version__
from .document import SCHEMA_ID, Document, rounded, series
from .events import EVENTS, FAMILY_OF_KIND, BodyHeights, Lift, Recognised, find_lifts, heights_from_stature, recognise, resolve_kind
from .events.families import SNATCHES
from .events.jerk import jerk_events
from .events.joints import jerk_joint_events, pull_joint_events, squat_joint_events
from .events.lifts import STANDS_IN_FROM_STATURE
from .events.pull import hold_events, pull_events
from .events.squat import squat_reps
from .faults import Threshold, explain, judge, load_catalogue
from .faults.engine import Finding, Measured
from .footage import ClipInfo, content_hash, probe, read_frames
from .measures import LiftData, Value, declarations, measure_lift
from .motion import (
    JOINTS,
    BarMotion,
    BarTrack,
    BodyMotion,
    Calibration,
    Carried,
    JointPoint,
    JointTracks,
    Scale,
    bar_motion,
    bar_motions,
    bar_tracks,
    body_motion,
    facing_from_motion,
    facing_from_people,
    joint_tracks,
    lean_of_fall,
    scale_from_disc,
    slowed_by,
)
from .motion.body.model import MODEL_POINT
from .motion.body.scene import near_face_m
from .motion.calibration import PLUMB_SD_SET_BY_COACH_DEG, PLUMB_SD_WITHOUT_REFERENCE_DEG, SCALE_SD_SET_BY_COACH
from .tracking import (
    Box,
    DiscTrack,
    DiscTracker,
    PointCorrection,
    RawTracks,
    Shake,
    ShakeWatch,
    View,
    apply_corrections,
    choose_lifted,
    edges,
    find_uprights,
    follow_lifter,
    near_face,
    without,
)

DRAWS = 48
# A coach is told of another lift than was said only when it is as sure as this.
SURE_OF_KIND = 0.9
# How many of the first looks tell where the bar is against the shoulders.
SHOULDER_LOOKS = 9
# What part of tracking's time goes into the discs.
DISCS_SHARE = 0.4
# Where in a clip upright edges are looked for.
EDGES_AT = (0.02, 0.5, 0.9)
# The lifter is fitted from so long before a lift to so long after it.
BODY_BEFORE_S, BODY_AFTER_S = 0.3, 0.3
# What is left about the lifts when a clip is cut to them, and how much must lie outside before that is offered.
LEFT_ABOUT_S, MUCH_OUTSIDE_S = 1.5, 6.0
SIDE_WITHIN_DEG = 15.0
# The fit takes yaw into account; beyond this a body seen from the side is no longer what it assumes.
SAGITTAL_WITHIN_DEG = 20.0
# A mark between two frames is known no better than this share of their distance (a uniform spread over one frame).
FRAME_SD = 12**-0.5
# How well the bar's way back tells when the thigh meets it.
CONTACT_SD_S = 0.008


@dataclass(frozen=True)
class EventPoint:
    """An event set by hand: of the lift in which the frame lies."""

    name: str
    frame: int


@dataclass(frozen=True)
class Settings:
    """What people said about a clip. None means: work it out, or do without."""

    lift: str = "other"
    load_kg: float | None = None
    stature_m: float | None = None
    made: bool | None = None
    facing: str | None = None
    plumb_deg: float | None = None
    disc_diameter_m: float = 0.45
    capture_rate_hz: float | None = None
    corrections: tuple[PointCorrection, ...] = ()
    joint_points: tuple[JointPoint, ...] = ()
    events: tuple[EventPoint, ...] = ()
    m_per_px: float | None = None
    """Scale in the disc's plane, from two points of known distance; without it the disc tells."""
    distrusted: tuple[tuple[int, int], ...] = ()
    """Stretches of frames, first and last, in which the disc's track is not to be believed."""
    trim: tuple[int, int] | None = None
    """First and last frame that belong to the lift; what lies outside is left alone."""
    dismissed: frozenset[str] = frozenset()
    """Faults that the coach has ruled out on this lift."""
    added: frozenset[str] = frozenset()
    """Faults that the coach has seen on this lift."""
    thresholds: dict[tuple[str, str], Threshold] = field(default_factory=dict)

    def __post_init__(self) -> None:
        resolve_kind(self.lift)
        for name, low, high, unit in (
            ("load_kg", 0.5, 600, "kg"), ("stature_m", 1.0, 2.4, "m"), ("disc_diameter_m", 0.1, 1.0, "m"),
            ("capture_rate_hz", 5, 2000, "Hz"),
            ("plumb_deg", -45, 45, "°"), ("m_per_px", 1e-5, 0.1, "m"),
        ):  # fmt: skip
            value = getattr(self, name)
            if value is not None and not low <= value <= high:
                raise ValueError(
                    f"{name.rsplit('_', 1)[0].replace('_', ' ').capitalize()} {value:g} {unit} is outside {low:g} to {high:g} {unit}."
                )
        if self.facing not in (None, "left", "right"):
            raise ValueError("Facing is 'left' or 'right'.")


def analyse(path: Path, settings: Settings, on_progress: Callable[[float], None] | None = None) -> Document:
    """Analyse a clip file from beginning to end.

    Raises:
        FootageError: the file cannot be used; the message says why.
        ValueError: the settings do not make sense.
    """
    info = probe(path)
    raw = track_clip(path, info, on_progress)
    return build_document(raw, info, content_hash(path), settings)


def track_clip(path: Path, info: ClipInfo, on_progress: Callable[[float], None] | None = None, lifter: Box | None = None) -> RawTracks:
    """Decode a clip, follow its discs, and look at the lifter where one is lifted; `on_progress` gets the share done, 0 to 1."""
    tracker, shake, upright = DiscTracker(), ShakeWatch(), []
    stills = {round(share * info.packet_count) for share in EDGES_AT}
    for frame in read_frames(path):
        luma = frame.luma()
        tracker.feed(frame.index, frame.time_s, luma, frame.chroma)
        shake.feed(frame.time_s, luma)
        if frame.index in stills:
            upright.append(edges(luma))
        if on_progress and frame.index % 10 == 0:
            on_progress(DISCS_SHARE * min((frame.index + 1) / max(info.packet_count, 1), 1.0))
    raw = replace(tracker.finish(), shake=shake.finish(), uprights=find_uprights(upright))

    def looked(share: float) -> None:
        if on_progress:
            on_progress(DISCS_SHARE + (1 - DISCS_SHARE) * share)

    return look_at_lifter(path, raw, lifter, looked)


def look_at_lifter(path: Path, raw: RawTracks, lifter: Box | None = None, on_progress: Callable[[float], None] | None = None) -> RawTracks:
    """The same tracks with the lifter looked at anew: whoever is at the bar, or in the box that the coach drew. The camera's place stays
    as it was found first, and with it the bar's figures."""
    people = follow_lifter(read_frames(path), raw.frame_time_s, choose_lifted(raw), on_progress, lifter)
    return replace(raw, people=replace(people, camera=raw.people.camera or people.camera))


class BodyStore(Protocol):
    """Where fitted bodies are kept, so that what does not touch the body need not fit it again."""

    def recall(self, key: str) -> tuple[bool, JointTracks | None]:
        """Whether a fit is kept under this key, and the fit (None where nobody was seen)."""

    def latest(self) -> JointTracks | None:
        """The fit kept last, to start the next one from."""

    def keep(self, key: str, tracks: JointTracks | None) -> None: ...


def build_document(raw: RawTracks, info: ClipInfo, sha256: str, settings: Settings, bodies: BodyStore | None = None) -> Document:
    """Everything derived, from raw tracks and what people said; the same input gives the same document.

    Args:
        bodies: where fits are kept from one time to the next.
    """
    kind, jerk_follows = resolve_kind(settings.lift)
    warnings: list[dict[str, Any]] = []
    raw, capture_rate = _on_true_clock(raw, settings.capture_rate_hz)
    track, view = choose_lifted(raw), None
    if raw.people.camera is not None:
        near_m, radius_m = near_face_m(settings.load_kg), settings.disc_diameter_m / 2
        track, view = near_face(track, raw.people.camera, near_m, raw.width_px, raw.height_px, radius_m)
    track = apply_corrections(raw, track, settings.corrections)
    track = without(track, settings.distrusted, settings.trim, keep=[point.frame for point in settings.corrections])
    shown = track
    raw, track = raw.steadied(track)
    body: JointTracks | None = None
    seen: Recognised | None = None
    calibration = _calibrate(raw, track, view, settings, warnings)
    lifts: list[dict[str, Any]] = []
    bars = bar_tracks(raw.frame_time_s, track, calibration) if calibration else []
    if calibration is None:
        warnings.append(
            _warning(
                "no_disc",
                "No disc was seen going up or down. Film from the side with the near disc in the picture, or mark the disc by hand.",
            )
        )
    elif not bars:
        warnings.append(
            _warning(
                "track_too_short",
                "The disc was in sight too briefly to measure a lift. Mark it by hand, or film again.",
            )
        )
    else:
        longest = max(bars, key=lambda bar: len(bar.time_s))
        slower = slowed_by(longest)
        if slower is not None and slower > 1:
            warnings.append(_slow_clock(slower, capture_rate))
        heights = heights_from_stature(settings.stature_m) if settings.stature_m else None
        radius_m = calibration.scale.disc_diameter_m / 2
        found = [
            (bar, lift)
            for bar in bars
            for lift in find_lifts(bar_motion(bar), kind, jerk_follows=jerk_follows, heights=heights, disc_radius_m=radius_m)
        ]
        seen = _recognised(raw, track, bars, calibration, settings)
        if not found:
            warnings.append(_no_lift(kind, longest))
        # What a missed lift was meant to be does not show in where the bar ended.
        if seen and seen.probability > SURE_OF_KIND and settings.made is not False and not _same_kind(seen.kind, settings.lift):
            warnings.append(
                _warning(
                    "another_kind",
                    f"This looks like a {seen.kind.replace('_', ' ')} rather than a {settings.lift.replace('_', ' ')} "
                    f"({100 * seen.probability:.0f} % sure). Check which lift this is.",
                    lift=seen.kind,
                )
            )
        body = _body(raw, track, bars, [lift for _, lift in found], calibration, kind, settings, bodies)
        lifts = [_lift_part(bar, lift, calibration, heights, body, settings) for bar, lift in found]
        warnings.extend(_long_clip(raw, lifts, settings.trim))
        warnings.extend(_out_of_sight(raw, track, bars))

    # A pixel array is null where unknown; it has one entry for every decoded frame.
    return {
        "schema": SCHEMA_ID,
        "made_by": {"atleta": __version__},
        "clip": {
            "sha256": sha256,
            "frame_count": len(raw.frame_time_s),
            "width": raw.width_px or info.width_px,
            "height": raw.height_px or info.height_px,
            "duration_s": rounded(float(raw.frame_time_s[-1]) + 1 / capture_rate if len(raw.frame_time_s) else 0.0, 4),
            "capture_rate_hz": rounded(capture_rate, 3),
            "frame_time_s": series(raw.frame_time_s, 5),
            "rotation_deg": info.rotation_deg,
            "view": _view(track, body),
            "facing": calibration.facing if calibration else None,
            "facing_source": calibration.facing_source if calibration else None,
            "recognised": {"kind": seen.kind, "probability": rounded(seen.probability, 3)} if seen else None,
        },
        "scale": {
            "m_per_px": rounded(calibration.scale.m_per_px, 8),
            "sd": rounded(calibration.scale.sd, 8),
            "source": calibration.scale.source,
            "disc_diameter_m": calibration.scale.disc_diameter_m,
            "plumb_deg": rounded(calibration.plumb_deg, 3),
            "plumb_sd_deg": calibration.plumb_sd_deg,
            "plumb_source": calibration.plumb_source,
            "body_m_per_px": rounded(body.m_per_px, 8) if body else None,
            "body_sd": rounded(body.m_per_px_sd, 8) if body else None,
            "camera_distance_m": rounded(body.distance_m, 2) if body else None,
        }
        if calibration
        else None,
        "disc": {
            "confidence": series(shown.confidence, 3),
            "x_px": series(shown.x_px, 3),
            "y_px": series(shown.y_px, 3),
            "radius_px": series(shown.radius_px, 3),
        },
        "joints": _joints(body, raw.shake),
        "lifts": lifts,
        "warnings": warnings,
    }  # fmt: skip


def _recognised(
    raw: RawTracks, track: DiscTrack, bars: Sequence[BarTrack], calibration: Calibration, settings: Settings
) -> Recognised | None:
    """Which lift the bar's way shows; None where its beginning or a part of it was not seen."""
    if len(bars) > 1 or bars[0].first_frame > 0:
        return None
    return recognise(
        bar_motion(bars[0]),
        disc_radius_m=calibration.scale.disc_diameter_m / 2,
        stature_m=settings.stature_m,
        bar_against_shoulder_m=_bar_against_shoulder(raw, track, calibration),
    )


def _out_of_sight(raw: RawTracks, track: DiscTrack, bars: Sequence[BarTrack]) -> list[dict[str, Any]]:
    """What was bridged, and what was not because the bar was gone for too long."""
    told = []
    hidden = sum(int((~np.isfinite(track.x_px[bar.first_frame : bar.first_frame + len(bar.time_s)])).sum()) for bar in bars)
    if hidden:
        told.append(_warning("disc_hidden", f"The disc was out of sight for {hidden} frames; the path there is bridged."))
    if len(bars) > 1:
        ends = [bar.first_frame + len(bar.time_s) - 1 for bar in bars[:-1]]
        gone = sum(raw.frame_time_s[bar.first_frame] - raw.frame_time_s[end] for bar, end in zip(bars[1:], ends, strict=True))
        between = ", ".join(f"{end} and {bar.first_frame}" for bar, end in zip(bars[1:], ends, strict=True))
        told.append(
            _warning(
                "disc_gone",
                f"The disc was out of sight for {gone:.1f} s (between frames {between}): no path is drawn there, and a lift that falls "
                "into it is not measured. Set the disc by hand in a few of those frames, or film again.",
            )
        )
    return told


def _on_true_clock(raw: RawTracks, capture_rate_hz: float | None) -> tuple[RawTracks, float]:
    """Tracks on the clock of the real world: a slow-motion file's frames are as far apart as they were taken, not as they play."""
    steps = np.diff(raw.frame_time_s)
    played_hz = 1 / float(np.median(steps)) if len(steps) else 30.0
    if capture_rate_hz is None:
        return raw, played_hz
    return replace(raw, frame_time_s=raw.frame_time_s * played_hz / capture_rate_hz), capture_rate_hz


def _calibrate(
    raw: RawTracks, track: DiscTrack, view: View | None, settings: Settings, warnings: list[dict[str, Any]]
) -> Calibration | None:
    scale = scale_from_disc(track, disc_diameter_m=settings.disc_diameter_m, faced=view is not None)
    if scale is None:
        return None
    said = 1.0
    if settings.m_per_px is not None:
        said = settings.m_per_px / scale.m_per_px
        scale = Scale(settings.m_per_px, settings.m_per_px * SCALE_SD_SET_BY_COACH, "coach", settings.disc_diameter_m)
    facing, sure, source = _facing(raw, track, settings)
    if not sure:
        warnings.append(
            _warning(
                "facing_unsure",
                f"Which way the lifter faces is not clear; taken as {facing}. Flip it if that is wrong.",
                facing="left" if facing == "right" else "right",
            )
        )
    middle = (raw.width_px / 2 - 0.5, raw.height_px / 2 - 0.5)
    level = Calibration(scale, 0.0, PLUMB_SD_WITHOUT_REFERENCE_DEG, "picture", facing, source, sure, view, middle, said)
    return _upright(raw, track, level, settings, warnings)


def _upright(raw: RawTracks, track: DiscTrack, level: Calibration, settings: Settings, warnings: list[dict[str, Any]]) -> Calibration:
    """Gravity's direction: the coach's word, else what stands upright in the room, else what falls, else the picture's own edge."""
    if settings.plumb_deg is not None:
        return replace(level, plumb_deg=settings.plumb_deg, plumb_sd_deg=PLUMB_SD_SET_BY_COACH_DEG, plumb_source="coach")
    if raw.uprights is not None:
        lean = raw.uprights.lean_at(float(np.nanmedian(track.x_px)), raw.width_px, raw.height_px)
        return replace(level, plumb_deg=lean, plumb_sd_deg=raw.uprights.sd_deg, plumb_source="footage")
    told = [found for bar in bar_tracks(raw.frame_time_s, track, level) if (found := lean_of_fall(bar)) is not None]
    if told:
        lean, sd = min(told, key=lambda one: one[1])
        return replace(level, plumb_deg=-lean if level.facing == "right" else lean, plumb_sd_deg=sd, plumb_source="fall")
    warnings.append(
        _warning(
            "plumb_unmeasured",
            "Nothing upright was made out in the room: the picture's edge stands for the plumb line, give or take 1°. Set it by hand.",
        )
    )
    return level


def _facing(raw: RawTracks, track: DiscTrack, settings: Settings) -> tuple[str, bool, str]:
    if settings.facing:
        return settings.facing, True, "coach"
    seen = facing_from_people(raw.people)
    if seen is not None and seen[1]:
        return *seen, "body"
    return *facing_from_motion(raw, track), "motion"


def _lift_part(
    bar: BarTrack, lift: Lift, calibration: Calibration, heights: BodyHeights | None, joints: JointTracks | None, settings: Settings
) -> dict[str, Any]:
    """One lift of the document: events, bar, measures and findings, each with its uncertainty."""
    family = FAMILY_OF_KIND[lift.kind]
    radius_m = calibration.scale.disc_diameter_m / 2
    motion = bar_motion(bar)
    body, no_body = _lifter(joints, bar, lift, settings)
    told = _told_by_joints(body, lift.kind, lift.events_s)
    said = _set_events(bar, lift, settings)
    lift = replace(lift, events_s=lift.events_s | told | said)
    events = lift.events_s

    def data_of(motion: BarMotion, at: Lift, events: dict[str, float], body: BodyMotion | None) -> LiftData:
        return LiftData(
            _on_floor(motion, at, radius_m), events, lift.height_known, radius_m, settings.load_kg, settings.stature_m, lift.kind, body,
            no_body,
        )  # fmt: skip

    data = data_of(motion, lift, events, body)
    values = measure_lift(family, data)
    event_draws, measure_draws = _spread(bar, lift, calibration, heights, body, family, data_of, said)

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

    seen = np.arange(start - bar.first_frame, stop - bar.first_frame + 1)
    return {
        "kind": lift.kind,
        "from": "floor" if lift.height_known else "rack",
        "implement": "barbell",
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
            **{name: series(getattr(data.motion, name)[seen], 5) for name in ("x_m", "y_m", "vx_m_s", "vy_m_s", "ay_m_s2")},
        },
        "measures": measures,
        "findings": _findings(lift.kind, measures, settings),
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
    return jerk_joint_events(body, events) if family == "jerk" else squat_joint_events(body, events) if family == "squat" else {}


def _spread(
    bar: BarTrack, lift: Lift, calibration: Calibration, heights: BodyHeights | None, lifter: BodyMotion | None, family: str,
    data_of: Callable[[BarMotion, Lift, dict[str, float], BodyMotion | None], LiftData], said: Mapping[str, float],
) -> tuple[dict[str, list[float]], dict[str, list[float]]]:  # fmt: skip
    """Events and measures of the lift as they might as well have come out: pixel noise, scale, plumb, stature, joints and frame interval
    drawn anew `DRAWS` times, and the whole chain from filter to measure run on each draw."""
    rng = np.random.default_rng(20_000 + len(bar.time_s))
    # What a coach set must not change what everything else draws.
    own = np.random.default_rng(30_000 + len(bar.time_s))
    radius_m = calibration.scale.disc_diameter_m / 2
    event_draws: dict[str, list[float]] = {}
    measure_draws: dict[str, list[float]] = {}
    stretch = 1 + rng.normal(0, calibration.scale.sd / calibration.scale.m_per_px, DRAWS)
    lean = np.radians(rng.normal(0, calibration.plumb_sd_deg, DRAWS))
    x, y, sd = bar.x_m[:, None], bar.y_m[:, None], np.repeat(bar.sd_m[:, None], DRAWS, axis=1)
    drawn_x = stretch * (x * np.cos(lean) - y * np.sin(lean)) + rng.normal(0, sd)
    drawn_y = stretch * (y * np.cos(lean) + x * np.sin(lean)) + rng.normal(0, sd)
    lifters = lifter.drawn(DRAWS) if lifter else iter([None] * DRAWS)
    for motion, drawn in zip(bar_motions(bar, drawn_x, drawn_y), lifters, strict=True):
        body = heights.shifted(float(rng.normal())) if heights else None
        events = _same_events(motion, lift, body, radius_m)
        events |= _told_by_joints(drawn, lift.kind, events)
        if not lift.events_s.keys() - events.keys():
            jitter = FRAME_SD / bar.rate_hz
            late = {"meet": jitter, "contact": CONTACT_SD_S}
            events = {name: at + (rng.normal(0, late[name]) if name in late else 0.0) for name, at in events.items()}
        events |= {name: at + own.normal(0, FRAME_SD / bar.rate_hz) for name, at in said.items()}
        for name, at in events.items():
            event_draws.setdefault(name, []).append(at)
        first = next(iter(sorted(events.values())), lift.start_s)
        rest = replace(lift, rest_x_m=motion.at("x_m", first), rest_y_m=_rest_height(motion, lift))
        for name, value in measure_lift(family, data_of(motion, rest, events, drawn)).items():
            if isinstance(value, Value):
                measure_draws.setdefault(name, []).append(value.value)
    return event_draws, measure_draws


def _same_events(motion: BarMotion, lift: Lift, heights: BodyHeights | None, disc_radius_m: float) -> dict[str, float]:
    if FAMILY_OF_KIND[lift.kind] == "jerk":
        return jerk_events(motion, lift.start_s, lift.stop_s)
    if FAMILY_OF_KIND[lift.kind] == "squat":
        bottom = lift.events_s["bottom"]
        return min(squat_reps(motion), key=lambda rep: abs(rep["bottom"] - bottom), default={})
    rest = _rest_height(motion, lift)
    events = pull_events(motion, lift.kind, heights, lift.start_s, lift.stop_s, rest, disc_radius_m)
    if "hold_start" in lift.events_s and "lift_off" in events:
        events |= hold_events(motion, events["lift_off"], events.get("peak_speed", lift.stop_s), rest)
    return events


def _rest_height(motion: BarMotion, lift: Lift) -> float:
    begin = lift.events_s.get("lift_off", lift.events_s.get("dip_start", lift.events_s.get("descent_start", lift.start_s)))
    rest: NDArray[np.bool_] = (motion.time_s >= lift.start_s) & (motion.time_s < begin - 0.05)
    return float(np.median(motion.raw_y_m[rest])) if rest.sum() >= 3 else motion.at("raw_y_m", begin)


def _findings(kind: str, measures: dict[str, Any], settings: Settings) -> list[dict[str, Any]]:
    catalogue = load_catalogue()
    known = {name: Measured(m["value"], m.get("sd", 0.0), m["unit"], m.get("frame"), m.get("reason", "")) for name, m in measures.items()}
    verdicts = judge(catalogue, kind, known, thresholds=settings.thresholds, stature_m=settings.stature_m)
    # What is only watched is nobody's first cause while a fault stands.
    strong = {v.fault.id for v in verdicts if v.level == "fault"} - settings.dismissed | settings.added
    found = strong or {v.fault.id for v in verdicts if v.level == "watch"} - settings.dismissed
    fine = {v.fault.id for v in verdicts if v.level == "fine"} | settings.dismissed
    chain = explain(catalogue, found, fine - settings.added)
    rows = [_finding_row(verdict, chain, verdict.fault.id in settings.added) for verdict in verdicts]
    judged = {row["fault"] for row in rows}
    for fault in sorted(settings.added - judged):
        root, explains = chain[fault]
        rows.append(
            {"fault": fault, "name": catalogue.faults[fault].name, "phase": catalogue.faults[fault].phase, "level": "seen",
             "probability": None,
             "root": root, "explains": explains, "says": "", "cue": catalogue.faults[fault].cue, "evidence": []}
        )  # fmt: skip
    order = {"seen": 0, "fault": 0, "watch": 1, "cannot_tell": 2, "fine": 3}
    phases = list(catalogue.faults)
    return sorted(rows, key=lambda row: (order[row["level"]], not row["root"], phases.index(row["fault"])))


def _finding_row(verdict: Finding, chain: dict[str, tuple[bool, list[str]]], added: bool) -> dict[str, Any]:
    """A measured fault's row; what the coach has seen stands as seen, whatever the number says beside it."""
    fault = verdict.fault
    seen = added and verdict.level not in ("fault", "watch")
    root, explains = chain.get(fault.id, (False, []))
    told = {e.measure: spoken(e.value, e.unit) for e in verdict.evidence}
    template = fault.good if verdict.level == "fine" else fault.says
    says = template.format(**told) if verdict.level != "cannot_tell" else f"Cannot tell: {verdict.reason}."
    return {
        "fault": fault.id,
        "name": fault.name,
        "phase": fault.phase,
        "level": "seen" if seen else verdict.level,
        "probability": None if seen else rounded(verdict.probability, 4),
        "watch_probability": rounded(verdict.watch_probability, 4),
        "root": root,
        "explains": explains,
        "says": "" if seen else says,
        "cue": fault.cue,
        "evidence": [
            {
                "measure": e.measure, "value": rounded(e.value, 4) if e.value is not None else None, "sd": rounded(e.sd, 4), "unit": e.unit,
                "frame": e.frame, "watch": e.threshold.watch, "fault": e.threshold.fault, "side": "above" if e.above else "below",
            }
            for e in verdict.evidence
        ],
    }  # fmt: skip


def spoken(value: float | None, unit: str) -> str:
    """A measure inside a sentence: the digits that its unit deserves, and the unit."""
    if value is None:
        return "unknown"
    digits = {"cm": 1, "m/s": 2, "m": 2, "s": 2, "–": 2, "%": 0, "W": 0, "count": 0}.get(unit, 1)
    return f"{value:.{digits}f}".replace("-", "−") + ("" if unit in ("–", "count") else f" {unit}")


def _body(
    raw: RawTracks, track: DiscTrack, bars: Sequence[BarTrack], lifts: Sequence[Lift], calibration: Calibration, kind: str,
    settings: Settings, bodies: BodyStore | None,
) -> JointTracks | None:  # fmt: skip
    """The lifter's joints over every lift (squats: over the whole track); as kept, if nothing that they rest on has changed."""
    if not lifts and FAMILY_OF_KIND[kind] != "squat":
        # Who holds the bar, and when, is not known.
        return None
    spans = [(lift.start_s - BODY_BEFORE_S, lift.stop_s + BODY_AFTER_S) for lift in lifts] or [
        (float(bar.time_s[0]), float(bar.time_s[-1])) for bar in bars
    ]
    carried = Carried(
        from_floor=FAMILY_OF_KIND[kind] == "pull",
        wide_grip=kind in SNATCHES or kind == "overhead_squat",
        behind=kind == "back_squat",
    )
    points = tuple(_steady_point(point, raw.shake) for point in settings.joint_points)
    rests_on = (__version__, spans, carried, calibration, settings.stature_m, settings.load_kg, points)
    at = hashlib.sha256(repr(rests_on).encode())
    for series_px in (track.x_px, track.y_px, track.radius_px, raw.frame_time_s, raw.people.frame, raw.people.points):
        at.update(series_px.tobytes())
    key = at.hexdigest()
    known, tracks = bodies.recall(key) if bodies else (False, None)
    if known:
        return tracks
    tracks = joint_tracks(
        raw, track, calibration, spans, carried, stature_m=settings.stature_m, load_kg=settings.load_kg, points=points,
        earlier=bodies.latest() if bodies else None,
    )  # fmt: skip
    if bodies:
        bodies.keep(key, tracks)
    return tracks


def _steady_point(point: JointPoint, shake: Shake) -> JointPoint:
    if not shake:
        return point
    ((x, y),) = shake.taken_out(np.array([point.frame]), np.array([[point.x_px, point.y_px]]))
    return replace(point, x_px=float(x), y_px=float(y))


def _joints(body: JointTracks | None, shake: Shake) -> dict[str, dict[str, list[float | None]]]:
    """Joints as the picture shows them: what was taken out of a shaken one is put in again."""
    if body is None:
        return {}
    sure = body.confidence
    places = shake.put_in(np.arange(len(body.x_px)), np.stack([body.x_px, body.y_px], axis=-1))
    return {
        name: {
            "x_px": series(places[:, k, 0], 2),
            "y_px": series(places[:, k, 1], 2),
            "confidence": series(np.where(np.isfinite(body.x_px[:, k]), sure[:, k], 0.0), 3),
            "sd_cm": series(100 * body.sd_m[:, k], 2),
        }
        for k, name in enumerate(JOINTS)
    }


def _view(track: DiscTrack, body: JointTracks | None) -> dict[str, Any]:
    """How the camera stands: by body and both discs, or by the near disc's squeeze alone, which does not tell the side."""
    if body is not None:
        yaw, sd = body.yaw_deg, body.yaw_sd_deg
        return {"kind": "side" if abs(yaw) <= SIDE_WITHIN_DEG else "oblique", "yaw_deg": rounded(yaw, 1), "yaw_sd_deg": rounded(sd, 2)}
    if not np.isfinite(track.squeeze).any():
        return {"kind": "unknown", "yaw_deg": None}
    yaw = float(np.degrees(np.arccos(np.clip(np.nanmedian(track.squeeze), 0, 1))))
    return {"kind": "side" if yaw <= SIDE_WITHIN_DEG else "oblique", "yaw_deg": rounded(yaw, 1)}


def _same_kind(seen: str, said: str) -> bool:
    """Whether what was recognised is what was said; what a bar alone cannot tell apart counts as the same."""
    pulls = {"snatch_pull", "clean_pull", "high_pull", "deadlift"}
    jerks = {"jerk", "split_jerk", "power_jerk", "squat_jerk", "push_press", "press"}
    return said == seen or said == "other" or any({seen, said} <= group for group in (pulls, jerks))


def _bar_against_shoulder(raw: RawTracks, track: DiscTrack, calibration: Calibration) -> tuple[float, float] | None:
    """How far the bar is ahead of and above the shoulders in the first sure looks, m, or None where nobody was seen."""
    sure = np.flatnonzero(raw.people.score > 0.5)[:SHOULDER_LOOKS]
    frames = raw.people.frame[sure]
    off = np.column_stack([track.x_px[frames], track.y_px[frames]]) - raw.people.points[sure][:, list(MODEL_POINT["shoulder"])].mean(1)
    off = off[np.isfinite(off).all(1)]
    if len(off) < 3:
        return None
    ahead, below = np.median(off, axis=0) * calibration.scale.m_per_px
    return float(ahead if calibration.facing == "right" else -ahead), float(-below)


def _no_lift(kind: str, bar: BarTrack) -> dict[str, Any]:
    name = kind.replace("_", " ")
    if bar.first_frame > 0:
        return _warning(
            "start_not_seen",
            f"The disc was followed from {bar.time_s[0]:.1f} s on, and no {name} begins after that. Set the disc by hand where the lift "
            "begins, or film again with the disc plain against what is behind it.",
        )
    return _warning("no_lift", f"No {name} was found in the bar's path. Check which lift this is.")


def _slow_clock(slower: float, rate_hz: float) -> dict[str, Any]:
    return _warning(
        "slow_motion",
        f"The bar falls {slower:g} times slower than anything falls: this looks like a slow-motion file. If it was taken at "
        f"{slower * rate_hz:.0f} frames a second, set that; speeds and forces are wrong until then.",
        capture_rate_hz=rounded(slower * rate_hz, 3),
    )


def _warning(code: str, message: str, **offer: Any) -> dict[str, Any]:
    """What the coach should know of this analysis; and, ready to be taken up, what would mend it."""
    return {"code": code, "message": message} | ({"offer": offer} if offer else {})


def _long_clip(raw: RawTracks, lifts: Sequence[dict[str, Any]], trim: tuple[int, int] | None) -> list[dict[str, Any]]:
    """An offer to leave out what lies before and after the lifts, where that is much."""
    if not lifts or trim is not None:
        return []
    first, last = lifts[0]["start_frame"], lifts[-1]["end_frame"]
    time = raw.frame_time_s
    begin, end = (int(np.argmin(np.abs(time - at))) for at in (time[first] - LEFT_ABOUT_S, time[last] + LEFT_ABOUT_S))
    if time[-1] - (time[end] - time[begin]) < MUCH_OUTSIDE_S:
        return []
    said = "The lift takes" if len(lifts) == 1 else f"The {len(lifts)} lifts take"
    message = f"{said} {time[end] - time[begin]:.0f} of the clip's {time[-1]:.0f} s."
    return [_warning("much_outside", message, trim=[begin, end])]


__all__: Sequence[str] = ["BodyStore", "EventPoint", "Settings", "analyse", "build_document", "look_at_lifter", "track_clip"]
