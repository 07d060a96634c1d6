"""The analysis document from raw tracks and what people said; it never opens the video."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from itertools import islice
from typing import Any, Protocol

import numpy as np

from .. import __version__
from ..document import SCHEMA_ID, Document, rounded, series
from ..events import COMPLEXES, FAMILY_OF_KIND, Lift, Outcome, Recognised, find_lifts, heights_from_stature, recognise, sequence_of
from ..events.families import FROM_FLOOR, RECEIVED, Grasp
from ..footage import Clicks, ClipInfo
from ..motion import (
    JOINTS,
    BarTrack,
    Calibration,
    Carried,
    JointPoint,
    JointTracks,
    bar_tracks,
    begins_above_m,
    front_motion,
    joint_tracks,
    joints_from_front,
    slowed_by,
)
from ..motion.body import confidence
from ..motion.body.scene import near_face_m
from ..tracking import DiscTrack, FrontTrack, RawTracks, Shake, apply_corrections, as_taken, choose_lifted, near_face, without
from ..tracking.network import pair
from .calibrate import calibrate, calibrate_front
from .drawing import lines_of
from .findings import findings_of
from .lift import BODY_AFTER_S, BODY_BEFORE_S, bar_as_well, lift_part
from .settings import Settings
from .told import from_front, long_clip, no_lift, on_blocks, out_of_sight, repeats, seen_late, slow_clock, warning, zoomed

# A coach is told of another lift than was said only when it is as sure as this.
SURE_OF_KIND = 0.9
# How many of the first looks tell where the bar is against the shoulders.
SHOULDER_LOOKS = 9
SIDE_WITHIN_DEG = 15.0
# Feet tell the floor to some centimetres; blocks are higher.
LEAST_BLOCKS_M = 0.15
# So many earlier fits of the same lift, and of others, are tried at most, each for whether it covers what is to be fitted now.
EARLIER = 4


class BodyStore(Protocol):
    """Where fitted bodies are kept, so that what does not touch the body need not fit it again."""

    def recall(self, key: str) -> tuple[bool, JointTracks | None]:
        """Whether a fit is kept under this key, and the fit (None where nobody was seen)."""

    def kept(self, like: str, unlike: str | None = None) -> Iterator[JointTracks]:
        """The fits kept under keys that begin like the one and not like the other, the last one first, to start the next one from."""

    def keep(self, key: str, tracks: JointTracks | None) -> None: ...


# Is told how far something is, 0 to 1.
Progress = Callable[[float], None]
# Of the time that a document takes, about so much goes into the fit of the body.
FIT_SHARE = 0.8


def nothing_told(share: float) -> None:
    """Nobody asks how far it is."""


def build_document(
    raw: RawTracks, info: ClipInfo, sha256: str, settings: Settings, bodies: BodyStore | None = None, far: Progress = nothing_told
) -> Document:  # fmt: skip
    """Everything derived, from raw tracks and what people said; the same input gives the same document.

    Args:
        bodies: where fits are kept from one time to the next.
        far: is told how far it is, and ends it by raising something.
    """
    kinds = sequence_of(settings.lift)
    kind = kinds[0]
    warnings: list[dict[str, Any]] = []
    raw, capture_rate = _on_true_clock(raw, settings.capture_rate_hz)
    # Who says which way the lifter faces says that it was filmed from the side.
    if settings.facing is not None:
        raw = replace(raw, front=None)
    raw, shown, track, calibration = (_from_front if raw.front else _from_side)(raw, settings, warnings)
    body: JointTracks | None = None
    seen: Recognised | None = None
    front = front_motion(raw, raw.front, calibration, np.isfinite(track.y_px)) if raw.front and calibration else None
    lifts: list[dict[str, Any]] = []
    bars = bar_tracks(raw.frame_time_s, track, calibration) if calibration else []
    if calibration is None:
        warnings.append(
            warning(
                "no_disc",
                "No disc was seen going up or down. Film from the side with the near disc in the picture, or mark the disc by hand.",
            )
        )
    elif not bars:
        warnings.append(
            warning(
                "track_too_short",
                "The disc was in sight too briefly to measure a lift. Mark it by hand, or film again.",
            )
        )
    else:
        longest = max(bars, key=lambda bar: len(bar.time_s))
        slower = slowed_by(longest)
        if slower is not None and slower > 1:
            warnings.append(slow_clock(slower, capture_rate))
        heights = heights_from_stature(settings.stature_m) if settings.stature_m else None
        radius_m = calibration.scale.disc_diameter_m / 2
        found = [(bar, lift) for bar in bars for lift in find_lifts(bar.motion, kinds, heights=heights, disc_radius_m=radius_m)]
        high_m = None if front else _on_blocks(raw, track, found, calibration, kind, settings)
        if high_m:
            warnings.append(on_blocks(high_m))
            heights, found = None, [(bar, _from_blocks(lift)) for bar, lift in found]
        seen = None if front else _recognised(raw, track, bars, calibration, settings)
        if not found:
            warnings.append(no_lift(kind, longest))
        warnings.extend(told for bar, lift in found for told in seen_late(lift, bar))
        # What a missed lift was meant to be does not show in where the bar ended.
        if seen and seen.probability > SURE_OF_KIND and settings.made is not False and not _same_kind(seen.kind, settings.lift):
            warnings.append(
                warning(
                    "another_kind",
                    f"This looks like a {seen.kind.replace('_', ' ')} rather than a {settings.lift.replace('_', ' ')} "
                    f"({100 * seen.probability:.0f} % sure). Check which lift this is.",
                    lift=seen.kind,
                )
            )
        if not front:
            body = fitted_body(
                raw, track, bars, [lift for _, lift in found], calibration, kind, settings, bodies, lambda share: far(FIT_SHARE * share)
            )  # fmt: skip
        found = [(bar, replace(lift, place=place)) for place, (bar, lift) in enumerate(found)]
        as_well = {bar.first_frame: bar_as_well(bar, calibration) for bar, _ in found}
        for bar, one in found:
            far(FIT_SHARE + (1 - FIT_SHARE) * one.place / len(found))
            lifts.append(lift_part(bar, as_well[bar.first_frame], one, calibration, heights, body, front, raw.clicks, settings))
        warnings.extend(long_clip(raw, lifts, settings.trim))
        warnings.extend(out_of_sight(raw, track, bars))
        warnings.extend(repeats(raw, bars))
        warnings.extend(zoomed(raw))

    # A pixel array is null where unknown; it has one entry for every decoded frame.
    document: Document = {
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
            "view": {"kind": raw.front.side, "yaw_deg": None} if raw.front else _view(track, body),
            "facing": calibration.facing if calibration and not front else None,
            "facing_source": calibration.facing_source if calibration and not front else None,
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
        "joints": _joints_from_front(raw, raw.front, calibration.scale.m_per_px) if raw.front and calibration else _joints(body, raw.shake),
        "front": {
            "bar_slope": series(front.bar_slope, 5), "tilt_deg": series(front.tilt_deg, 3), "knees_in_cm": series(front.knees_in_cm, 3),
        } if front else None,
        "lengths_m": _lengths(body),
        "lifts": lifts,
        "warnings": warnings,
    }  # fmt: skip
    for lift in lifts:
        _draw(document, lift)
    return document


def judged_again(document: Document, settings: Settings) -> Document:
    """A document whose lifts are judged by these settings: verdicts, limits, preferences, the coach's own faults and words. Its measures
    stand as they are, so nothing else of the settings may have changed."""
    lifts = []
    for place, lift in enumerate(document["lifts"]):
        seen = lift["outcome"]
        outcome = Outcome(seen["made"], seen["how"] or "") if seen else None
        lifts.append(lift | findings_of(lift["kind"], place, lift["measures"], settings, outcome, lift["seen_from"]))
        _draw(document, lifts[-1])
    return document | {"lifts": lifts}


def _draw(document: Document, lift: dict[str, Any]) -> None:
    """What each finding rests on, as lines in its frame."""
    for piece in (piece for finding in lift["findings"] for piece in finding["evidence"] if piece["frame"] is not None):
        piece["lines"] = [[rounded(x, 1), rounded(y, 1)] for x, y in lines_of(piece["measure"], document, lift, piece["frame"])]


def _from_side(
    raw: RawTracks, settings: Settings, warnings: list[dict[str, Any]]
) -> tuple[RawTracks, DiscTrack, DiscTrack, Calibration | None]:
    """Tracks as a camera that stands still would have seen them, the lifted disc as the picture shows it and so, and what places it."""
    track, view = choose_lifted(raw), None
    if raw.people.camera is not None:
        near_m, radius_m = near_face_m(settings.load_kg), settings.disc_diameter_m / 2
        track, view = near_face(track, raw.people.camera, near_m, raw.width_px, raw.height_px, radius_m, by_face=raw.face is not None)
    shown = _corrected(raw, track, settings)
    raw, track = as_taken(*raw.steadied(shown))
    return raw, shown, track, calibrate(raw, track, view, settings, warnings)


def _from_front(
    raw: RawTracks, settings: Settings, warnings: list[dict[str, Any]]
) -> tuple[RawTracks, DiscTrack, DiscTrack, Calibration | None]:
    """The same of a clip from the front, where the bar's middle stands in for a disc."""
    raw, _ = raw.steadied(DiscTrack.empty(len(raw.frame_time_s)))
    assert raw.front is not None
    warnings.append(from_front(raw.front.side))
    calibration, track = calibrate_front(raw, raw.front, settings, warnings)
    track = _corrected(replace(raw, tracklets=[]), track, settings)
    places = raw.shake.put_in(np.arange(len(track.x_px)), np.column_stack([track.x_px, track.y_px])) if raw.shake else None
    shown = track if places is None else replace(track, x_px=places[:, 0], y_px=places[:, 1])
    raw, track = as_taken(raw, track)
    return raw, shown, track, calibration


def _corrected(raw: RawTracks, track: DiscTrack, settings: Settings) -> DiscTrack:
    track = apply_corrections(raw, track, settings.corrections)
    return without(track, settings.distrusted, settings.trim, keep=[point.frame for point in settings.corrections])


def _recognised(
    raw: RawTracks, track: DiscTrack, bars: Sequence[BarTrack], calibration: Calibration, settings: Settings
) -> Recognised | None:
    """Which lift the bar's way shows; None where its beginning or a part of it was not seen."""
    if len(bars) > 1 or bars[0].first_frame > 0:
        return None
    return recognise(
        bars[0].motion,
        disc_radius_m=calibration.scale.disc_diameter_m / 2,
        stature_m=settings.stature_m,
        bar_against_shoulder_m=_bar_against_shoulder(raw, track, calibration),
    )


def _on_true_clock(raw: RawTracks, capture_rate_hz: float | None) -> tuple[RawTracks, float]:
    """Tracks on the clock of the real world: a slow-motion file's frames are as far apart as they were taken, not as they play."""
    steps = np.diff(raw.frame_time_s)
    played_hz = 1 / float(np.median(steps)) if len(steps) else 30.0
    if capture_rate_hz is None:
        return raw, played_hz
    # What is heard of a file that plays more slowly than it was taken, if anything, is not on the pictures' clock.
    true_s = raw.frame_time_s * played_hz / capture_rate_hz
    return replace(raw, frame_time_s=true_s, clicks=Clicks(np.empty(0))), capture_rate_hz


def fitted_body(
    raw: RawTracks, track: DiscTrack, bars: Sequence[BarTrack], lifts: Sequence[Lift], calibration: Calibration, kind: str,
    settings: Settings, bodies: BodyStore | None, far: Progress = nothing_told,
) -> JointTracks | None:  # fmt: skip
    """The lifter's joints over every lift (squats: over the whole track); as kept, if nothing that they rest on has changed."""
    if not lifts and FAMILY_OF_KIND[kind] != "squat":
        # Who holds the bar, and when, is not known.
        return None
    spans = _spans(lifts) or [(float(bar.time_s[0]), float(bar.time_s[-1])) for bar in bars]
    carried = _carried(kind, lifts)
    points = tuple(_steady_point(point, raw.shake) for point in settings.joint_points)
    rests_on = (__version__, spans, carried, calibration, settings.stature_m, settings.load_kg, points)
    at = hashlib.sha256(repr(rests_on).encode())
    seen = raw.people
    for series_px in (track.x_px, track.y_px, track.radius_px, raw.frame_time_s, seen.frame, seen.points, seen.sd):
        at.update(series_px.tobytes())
    looks, told = _scene(raw, carried, calibration, settings)
    key = f"{looks}{told}-{at.hexdigest()}"
    known, tracks = bodies.recall(key) if bodies else (False, None)
    if known:
        return tracks

    def earlier() -> Iterator[tuple[JointTracks, bool]]:
        if bodies:
            yield from ((tracks, True) for tracks in islice(bodies.kept(looks + told), EARLIER))
            yield from ((tracks, False) for tracks in islice(bodies.kept(looks, unlike=looks + told), EARLIER))

    tracks = joint_tracks(
        raw, track, calibration, spans, carried, stature_m=settings.stature_m, load_kg=settings.load_kg, points=points,
        earlier=earlier, far=far,
    )  # fmt: skip
    if bodies:
        bodies.keep(key, tracks)
    return tracks


def _scene(raw: RawTracks, carried: Carried, calibration: Calibration, settings: Settings) -> tuple[str, str]:
    """What two fits have in common when one may begin where the other ended: the same looks, facing the same way, at a bar that is held the
    same way; and when it then is near to its end at once: in the same lift, on the same clock. From a fit of somebody who faces the other
    way, or whose arms are elsewhere, a new one ends in a wrong shape."""
    grasp = carried.wide_grip, carried.behind, carried.racked
    looks = repr((__version__, calibration.facing, grasp)).encode() + raw.people.points.tobytes()
    told = repr((replace(carried, met_s=()), settings.capture_rate_hz)).encode()
    return hashlib.sha256(looks).hexdigest()[:16], hashlib.sha256(told).hexdigest()[:8]


def _spans(lifts: Sequence[Lift]) -> list[tuple[float, float]]:
    """From a little before each lift to a little after it, s."""
    return [(lift.start_s - BODY_BEFORE_S, lift.stop_s + BODY_AFTER_S) for lift in lifts]


def _carried(kind: str, lifts: Sequence[Lift]) -> Carried:
    kinds = {kind, *(lift.kind for lift in lifts)}
    grasp = Grasp.of(kind, *kinds)
    blocks = any(lift.on_blocks for lift in lifts)
    # The lowest that a bar was seen is not the floor if it was on its way before.
    late = any(lift.seen_late for lift in lifts)
    return Carried(
        from_floor=FAMILY_OF_KIND[kind] in FROM_FLOOR and not (blocks or late),
        wide_grip=grasp.wide_grip,
        behind=grasp.behind,
        racked=grasp.racked,
        received=bool(RECEIVED & kinds),
        squats=FAMILY_OF_KIND[kind] == "squat",
        splits="split_jerk" in kinds,
        squatted=FAMILY_OF_KIND[kind] in FROM_FLOOR and any(FAMILY_OF_KIND[lift.kind] == "squat" for lift in lifts),
        on_blocks=blocks,
        met_s=tuple(lift.events_s["meet"] for lift in lifts if "meet" in lift.events_s),
    )


def _on_blocks(
    raw: RawTracks, track: DiscTrack, found: Sequence[tuple[BarTrack, Lift]], calibration: Calibration, kind: str, settings: Settings
) -> float | None:
    """How high the discs lie above the feet before a pull, m; None where they lie on the floor, or nothing else shows."""
    # A bar that was first seen on its way is no bar on blocks.
    lifts = [lift for _, lift in found if not lift.seen_late]
    if FAMILY_OF_KIND[kind] not in FROM_FLOOR or not lifts:
        return None
    high_m = begins_above_m(
        raw, track, calibration, _spans(lifts), _carried(kind, lifts), stature_m=settings.stature_m, load_kg=settings.load_kg
    )
    return high_m if high_m is not None and high_m > LEAST_BLOCKS_M else None


def _from_blocks(lift: Lift) -> Lift:
    """A lift from the floor that was none: how high the bar is above the floor, and where its knee is, is not known."""
    if not lift.height_known:
        return lift
    return replace(lift, height_known=False, on_blocks=True, events_s={name: at for name, at in lift.events_s.items() if name != "knee"})


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


def _joints_from_front(raw: RawTracks, front: FrontTrack, m_per_px: float) -> dict[str, dict[str, list[float | None]]]:
    """Joints as the network sees them from the front."""
    places, sd_m = joints_from_front(raw, front, m_per_px)
    places = raw.shake.put_in(np.arange(len(places)), places) if raw.shake else places
    return {
        name: {
            "x_px": series(places[:, k, 0], 2),
            "y_px": series(places[:, k, 1], 2),
            "confidence": series(confidence(sd_m[:, k]), 3),
            "sd_cm": series(100 * sd_m[:, k], 2),
        }
        for k, name in enumerate(JOINTS)
    }


def _lengths(body: JointTracks | None) -> dict[str, float]:
    """The lifter's segments as fitted, m."""
    lengths = body.lengths_m if body is not None else {}
    return {name: round(length, 4) for name, length in lengths.items()}


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
    if said in COMPLEXES and (seen in COMPLEXES[said] or set(COMPLEXES.get(seen, (""))) <= set(COMPLEXES[said])):
        return said != "clean_and_jerk" or seen == said
    return said == seen or said == "other" or any({seen, said} <= group for group in (pulls, jerks))


def _bar_against_shoulder(raw: RawTracks, track: DiscTrack, calibration: Calibration) -> tuple[float, float] | None:
    """How far the bar is ahead of and above the shoulders in the first sure looks, m, or None where nobody was seen."""
    sure = np.flatnonzero(raw.people.score > 0.5)[:SHOULDER_LOOKS]
    frames = raw.people.frame[sure]
    off = np.column_stack([track.x_px[frames], track.y_px[frames]]) - raw.people.points[sure][:, list(pair("shoulder"))].mean(1)
    off = off[np.isfinite(off).all(1)]
    if len(off) < 3:
        return None
    ahead, below = np.median(off, axis=0) * calibration.scale.m_per_px
    return float(ahead if calibration.facing == "right" else -ahead), float(-below)
