"""Scale, upright and facing: from pixels to metres in front of and above the bar's start."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from ..motion import (
    Calibration,
    Scale,
    bar_from_front,
    bar_tracks,
    facing_from_motion,
    facing_from_people,
    lean_of_fall,
    scale_from_disc,
    scale_from_front,
)
from ..motion.calibration import PLUMB_SD_SET_BY_COACH_DEG, PLUMB_SD_WITHOUT_REFERENCE_DEG, SCALE_SD_SET_BY_COACH
from ..tracking import DiscTrack, FrontTrack, RawTracks, View
from .settings import Settings
from .told import warning


def calibrate(
    raw: RawTracks, track: DiscTrack, view: View | None, settings: Settings, warnings: list[dict[str, Any]]
) -> Calibration | None:
    scale = scale_from_disc(track, disc_diameter_m=settings.disc_diameter_m, faced=view is not None)
    if scale is None:
        return None
    scale, said = _said(scale, settings)
    facing, sure, source = _facing(raw, track, settings)
    if not sure:
        warnings.append(
            warning(
                "facing_unsure",
                f"Which way the lifter faces is not clear; taken as {facing}. Flip it if that is wrong.",
                facing="left" if facing == "right" else "right",
            )
        )
    level = Calibration(scale, 0.0, PLUMB_SD_WITHOUT_REFERENCE_DEG, "picture", facing, source, sure, view, _middle(raw), said)
    return _upright(raw, track, level, settings, warnings)


def calibrate_front(
    raw: RawTracks, front: FrontTrack, settings: Settings, warnings: list[dict[str, Any]]
) -> tuple[Calibration, DiscTrack]:  # fmt: skip
    """The same of a clip from the front, and the bar's middle as a track: scaled by the lifter, who has no facing there."""
    scale = scale_from_front(front, settings.stature_m, settings.disc_diameter_m)
    scale, said = _said(scale, settings)
    track = bar_from_front(raw, front, scale)
    level = Calibration(scale, 0.0, PLUMB_SD_WITHOUT_REFERENCE_DEG, "picture", "right", "motion", False, None, _middle(raw), said)
    return _upright(raw, track, level, settings, warnings), track


def _said(scale: Scale, settings: Settings) -> tuple[Scale, float]:
    """The coach's scale, where there is one, and how much larger it is than what was found."""
    if settings.m_per_px is None:
        return scale, 1.0
    own = Scale(settings.m_per_px, settings.m_per_px * SCALE_SD_SET_BY_COACH, "coach", settings.disc_diameter_m)
    return own, settings.m_per_px / scale.m_per_px


def _middle(raw: RawTracks) -> tuple[float, float]:
    return raw.width_px / 2 - 0.5, raw.height_px / 2 - 0.5


def _upright(raw: RawTracks, track: DiscTrack, level: Calibration, settings: Settings, warnings: list[dict[str, Any]]) -> Calibration:
    """Gravity's direction: the coach's word, else what stands upright in the room, else what falls, else the picture's own edge."""
    if settings.plumb_deg is not None:
        return replace(level, plumb_deg=settings.plumb_deg, plumb_sd_deg=PLUMB_SD_SET_BY_COACH_DEG, plumb_source="coach")
    if raw.uprights is not None:
        lean = raw.uprights.lean_at(float(np.nanmedian(track.x_px)), raw.width_px, raw.height_px)
        return replace(level, plumb_deg=lean, plumb_sd_deg=raw.uprights.sd_deg, plumb_source="footage")
    told = [found for bar in bar_tracks(raw.frame_time_s, track, level) if (found := lean_of_fall(bar)) is not None]
    # A fall that tells less than the picture's edge is no reason to leave that.
    told = [(lean, sd) for lean, sd in told if sd < PLUMB_SD_WITHOUT_REFERENCE_DEG]
    if told:
        lean, sd = min(told, key=lambda one: one[1])
        return replace(level, plumb_deg=-lean if level.facing == "right" else lean, plumb_sd_deg=sd, plumb_source="fall")
    warnings.append(
        warning(
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
