"""The bar and the lifter as a camera sees them that stands in front of the lifter or behind: how high and how level the bar is, and where
knees, feet and hands are to either side."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter

from ..tracking import DiscTrack, FrontTrack, RawTracks
from ..tracking.network import AT, pair
from .body import JOINTS
from .calibration import Calibration, Scale

Floats = NDArray[np.float64]

# From the middle of the shoulders to the middle of the ankles of one who stands, as the model sees them, as a share of stature, and how
# well that is known; and the stature of a lifter whose own was not given, with its spread. Measured on simulated clips.
SHOULDERS_TO_ANKLES, SHARE_SD = 0.762, 0.02
STATURE_M, STATURE_SD = 1.70, 0.06
# How well the line is known (°, measured on simulated clips); how far off square such a camera stands (°), so that a level bar that is
# higher or lower than it slopes in the picture; and what a bar that waits slopes by besides, since how far up the picture the camera's eye
# is is not known either.
LINE_SD_DEG, SQUARE_SD_DEG, WAITING_SD_DEG = 0.6, 7.0, 0.35
USUAL_DISTANCE_M = 5.0
WAITS_M = 0.03
# How far inside the joints' the model's knees lie against its hips and ankles, how well that is known, and how well it tells how far apart
# hands and feet are (cm). Measured on simulated clips.
KNEES_IN_CM, KNEES_SD_CM, APART_SD_CM = 1.1, 1.5, 2.0
BAR_SD_PX = 2.0
# Looks so few at a time that the middle one of them is taken: a single look may be off.
TOGETHER = 3
LEFT, RIGHT = 0, 1


@dataclass(frozen=True)
class FrontMotion:
    """A lifter from the front on the clip's clock, `(frames,)` each; NaN before the first look and after the last, and where the bar was
    not made out. `tilt_deg` is the bar against the level, to either side alike; `knees_in_cm` how far the knees are inside the lines from
    hips to ankles, the mean of both, since a camera that does not stand square moves one in and the other out."""

    time_s: Floats
    tilt_deg: Floats
    knees_in_cm: Floats
    feet_apart_cm: Floats
    hands_apart_cm: Floats
    from_behind: bool
    """Then the back hides hands, and the model errs by a foot's breadth where feet and knees are."""
    bar_slope: Floats
    """Down to the right in the picture, px per px."""
    tilt_sd_deg: float

    def at(self, series: Floats, time_s: float) -> float:
        """A series' value at a time, linear between frames."""
        return float(np.interp(time_s, self.time_s, series))

    def drawn(self, count: int) -> Iterator[FrontMotion]:
        """The same as well might have been, so many times."""
        rng = np.random.default_rng(40_000 + len(self.time_s))
        for tilt, knees, feet, hands in rng.normal(0, 1, (count, 4)):
            yield replace(
                self, tilt_deg=np.abs(self.tilt_deg + self.tilt_sd_deg * tilt), knees_in_cm=self.knees_in_cm + KNEES_SD_CM * knees,
                feet_apart_cm=self.feet_apart_cm + APART_SD_CM * feet, hands_apart_cm=self.hands_apart_cm + APART_SD_CM * hands,
            )  # fmt: skip


def scale_from_front(front: FrontTrack, stature_m: float | None, disc_diameter_m: float) -> Scale:
    """Metres a pixel in the lifter's plane, by how tall the lifter stands in the picture."""
    shoulders, ankles = (front.points[:, list(pair(name)), 1].mean(1) for name in ("shoulder", "ankle"))
    tall_px = float(np.percentile(ankles - shoulders, 95))
    m_per_px = SHOULDERS_TO_ANKLES * (stature_m or STATURE_M) / max(tall_px, 1.0)
    share = SHARE_SD if stature_m else float(np.hypot(SHARE_SD, STATURE_SD))
    return Scale(m_per_px, share * m_per_px, "stature", disc_diameter_m)


def bar_from_front(raw: RawTracks, front: FrontTrack, scale: Scale) -> DiscTrack:
    """The bar's middle as a disc's track would have it: how high it is, look by look and between them. To the side it does not move: which
    way it goes forward or back does not show."""
    track = DiscTrack.empty(len(raw.frame_time_s))
    seen = np.isfinite(front.bar[:, 1])
    if seen.sum() < 2:
        return track
    at, frames = raw.frame_time_s[front.frame[seen]], np.arange(front.frame[seen][0], front.frame[seen][-1] + 1)
    track.x_px[frames] = float(np.median(front.bar[seen, 0]))
    track.y_px[frames] = np.interp(raw.frame_time_s[frames], at, front.bar[seen, 1])
    track.radius_px[frames] = scale.disc_diameter_m / 2 / scale.m_per_px
    track.squeeze[frames], track.confidence[frames], track.sd_px[frames] = 1.0, 1.0, BAR_SD_PX
    return track


def front_motion(raw: RawTracks, front: FrontTrack, calibration: Calibration, trusted: NDArray[np.bool_]) -> FrontMotion:
    """What a clip from the front shows of bar and lifter, in degrees and centimetres.

    Args:
        trusted: frames `(frames,)` whose pictures tell anything.
    """
    time, cm = raw.frame_time_s, 100 * calibration.scale.m_per_px
    at = time[front.frame]
    hips, knees, ankles = (front.points[:, list(pair(name))] for name in ("hip", "knee", "ankle"))
    middle = hips[..., 0].mean(axis=1, keepdims=True)
    outward = np.sign(hips[..., 0] - middle)
    # Where the line from hip to ankle is, as high as the knee is.
    drop = np.maximum(ankles[..., 1] - hips[..., 1], 5 / cm)
    share = np.clip((ankles[..., 1] - knees[..., 1]) / drop, 0, 1)
    inside = cm * (outward * (ankles[..., 0] + share * (hips[..., 0] - ankles[..., 0]) - knees[..., 0])).mean(axis=1) - KNEES_IN_CM
    hands = front.hands
    tilt, tilt_sd = _tilt(front, calibration, raw.height_px)

    def over_frames(values: Floats) -> Floats:
        known = np.isfinite(values)
        if not known.any():
            return np.full(len(time), np.nan)
        calm = median_filter(values[known], TOGETHER, mode="nearest")
        return np.where(trusted, np.interp(time, at[known], calm, left=np.nan, right=np.nan), np.nan)

    return FrontMotion(
        time, np.abs(over_frames(tilt)), over_frames(inside), over_frames(cm * np.abs(ankles[:, LEFT, 0] - ankles[:, RIGHT, 0])),
        over_frames(cm * np.linalg.norm(hands[:, LEFT] - hands[:, RIGHT], axis=1)), front.side == "back",
        over_frames(front.bar[:, 2]), tilt_sd,
    )  # fmt: skip


def _tilt(front: FrontTrack, calibration: Calibration, height_px: int) -> tuple[Floats, float]:
    """The bar against the level in every look, ° down to the right, and its deviation."""
    slope = np.degrees(np.arctan(front.bar[:, 2])) - calibration.plumb_deg
    high_m = calibration.scale.m_per_px * (height_px / 2 - front.bar[:, 1])
    known = np.isfinite(slope)
    if not known.any():
        return slope, LINE_SD_DEG
    # A bar that waits, on the floor or with who stands ready, is level: what it slopes by grows with its height over the camera's eye, and
    # tells how far off square that stands, the better the further from it the bar waits.
    rests = known & (np.cumsum(known & (np.abs(high_m - high_m[known][0]) > WAITS_M)) == 0)
    waits_m, waits_deg = float(np.median(high_m[rests])), float(np.median(slope[rests]))
    sure, usual = (waits_m / WAITING_SD_DEG) ** 2, (USUAL_DISTANCE_M / np.degrees(np.tan(np.radians(SQUARE_SD_DEG)))) ** 2
    by_height = waits_m * waits_deg / WAITING_SD_DEG**2 / (sure + usual)
    spread = float(np.nanmax(np.abs(high_m))) / np.sqrt(sure + usual)
    return slope - by_height * high_m, float(np.hypot(LINE_SD_DEG, spread))


def joints_from_front(raw: RawTracks, front: FrontTrack, m_per_px: float) -> tuple[Floats, Floats]:
    """Joints over the clip's frames as the network sees them `(frames, JOINTS, 2)`, px, and how well each is known `(frames, JOINTS)`, m;
    NaN outside its looks."""
    time, at = raw.frame_time_s, raw.frame_time_s[front.frame]
    places, sd = np.full((len(time), len(JOINTS), 2), np.nan), np.full((len(time), len(JOINTS)), np.nan)
    for k, name in enumerate(JOINTS):
        for axis in (0, 1):
            places[:, k, axis] = np.interp(time, at, front.points[:, AT[name], axis], left=np.nan, right=np.nan)
        sd[:, k] = m_per_px * np.interp(time, at, front.sd[:, AT[name]], left=np.nan, right=np.nan)
    return places, sd
