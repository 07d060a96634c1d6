"""The bar's motion in metres and seconds: the one table that events and measures read."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..tracking import DiscTrack
from .calibration import Calibration
from .filters import chosen_cutoff_hz, derivatives, even_clock, fill_short_gaps, noise_size, quiet_cutoff_hz, runs

Floats = NDArray[np.float64]

LONGEST_GAP_S = 0.30
FEWEST_FRAMES = 12
# How far off the middle of the longest gap that is bridged may be, shares of the disc's radius; of a shorter one by as much less.
LONGEST_GAP_SD = 0.1
# And by such a share of how far its bridge swings out forward or back.
SWING_UNSURE = 0.5
# Noise let through to speed and acceleration: about 1 % of a pull's peak speed, and a thirtieth of g; and a fifteenth where an acceleration
# only tells when something happens, and must be quick.
QUIET_SPEED_M_S = 0.02
QUIET_ACCELERATION_M_S2, QUICK_ACCELERATION_M_S2 = 0.3, 0.65
# A disc's errors in neighbouring frames go together. In acceleration that leaves so many times what independent ones of the size seen from
# frame to frame would; measured on simulated clips.
GO_TOGETHER = 2.2


@dataclass(frozen=True)
class BarTrack:
    """The bar in metres as seen, unfiltered, over one unbroken stretch of frames.

    `x_m` forward, `y_m` up from the picture's own zero; `first_frame` is the clip's frame of index 0 here.
    """

    first_frame: int
    time_s: Floats
    x_m: Floats
    y_m: Floats
    sd_m: Floats
    filled: NDArray[np.bool_]
    rate_hz: float
    cutoff_hz: float
    acceleration_cutoff_hz: float
    quick_cutoff_hz: float
    """For the accelerations that tell when the bar is met, and what a short push does."""

    def drawn_off(self, rng: np.random.Generator, draws: int) -> Floats:
        """How far off x or y may as well be (m), `(frames, draws)`: frame by frame where the disc was seen, all of a bridged gap to one
        side."""
        off = rng.standard_normal((len(self.sd_m), draws))
        for first, stop in runs(self.filled):
            off[first:stop] = off[first]
        return self.sd_m[:, None] * off

    @cached_property
    def motion(self) -> BarMotion:
        """The track filtered and differentiated."""
        return bar_motions(self, self.x_m[:, None], self.y_m[:, None])[0]


@dataclass(frozen=True)
class BarMotion:
    """Filtered bar motion, `(frames,)` each. NaN nowhere: a stretch with gaps is cut before.

    x forward and y up (m) are counted from a zero that the caller sets; derivatives in m/s and m/s². `quick_…` are the
    same accelerations, noisier and quicker: for instants and short pushes, not for sizes; `slower_…` is filtered at half the cut-off of
    those, and shows by how much filtering moves an instant.
    """

    first_frame: int
    time_s: Floats
    x_m: Floats
    y_m: Floats
    vx_m_s: Floats
    vy_m_s: Floats
    ay_m_s2: Floats
    quick_ax_m_s2: Floats
    quick_ay_m_s2: Floats
    slower_ay_m_s2: Floats
    raw_y_m: Floats
    noise_m: float

    def frame_at(self, time_s: float) -> int:
        """The clip's frame nearest to a time."""
        return self.first_frame + int(np.argmin(np.abs(self.time_s - time_s)))

    def at(self, name: str, time_s: float) -> float:
        """A column's value at any time inside the stretch, linear between frames."""
        return float(np.interp(time_s, self.time_s, getattr(self, name)))


def bar_tracks(frame_time_s: Floats, track: DiscTrack, calibration: Calibration) -> list[BarTrack]:
    """The stretches of the disc's track without long gaps, turned upright and scaled, in order; empty when there is too little.

    Gaps up to 0.3 s are bridged and flagged; the standard deviation is raised there. A longer one ends a stretch: what the bar did in
    it nobody saw.
    """
    x_px, filled = fill_short_gaps(frame_time_s, track.x_px, longest_s=LONGEST_GAP_S)
    y_px, _ = fill_short_gaps(frame_time_s, track.y_px, longest_s=LONGEST_GAP_S)
    return [
        _bar_track(frame_time_s, x_px, y_px, filled, track, calibration, slice(first, last))
        for first, last in runs(np.isfinite(x_px) & np.isfinite(y_px))
        if last - first >= FEWEST_FRAMES
    ]


def _bar_track(
    frame_time_s: Floats, x_px: Floats, y_px: Floats, filled: NDArray[np.bool_], track: DiscTrack, calibration: Calibration, here: slice
) -> BarTrack:
    time = frame_time_s[here]
    m = calibration.scale.m_per_px
    x, y = calibration.bar_m(x_px[here], y_px[here])
    sd = m * np.nan_to_num(track.sd_px[here], nan=1.0)
    for first, stop in runs(filled[here]):
        gap_s = time[stop] - time[first - 1]
        within = (time[first:stop] - time[first - 1]) / gap_s
        sd[first:stop] = LONGEST_GAP_SD * m * np.nanmedian(track.radius_px) * gap_s / LONGEST_GAP_S * np.sin(np.pi * within)
        # Nothing bends a bar's way forward or back as weight bends it down: a bridge that swings out there is a guess.
        swings = np.abs(x[first:stop] - np.interp(within, (0, 1), (x[first - 1], x[stop])))
        sd[first:stop] = np.hypot(sd[first:stop], SWING_UNSURE * swings)
    rate = 1 / float(np.median(np.diff(time)))
    _, even = even_clock(time, np.stack([x, y], axis=1), rate)
    noise = float(noise_size(even).max())
    cutoff = min(chosen_cutoff_hz(even, rate), quiet_cutoff_hz(noise, rate, order=1, most=QUIET_SPEED_M_S))
    calm = min(cutoff, quiet_cutoff_hz(GO_TOGETHER * noise, rate, order=2, most=QUIET_ACCELERATION_M_S2))
    quick = min(cutoff, quiet_cutoff_hz(noise, rate, order=2, most=QUICK_ACCELERATION_M_S2))
    return BarTrack(here.start, time, x, y, np.asarray(sd), filled[here], rate, cutoff, calm, quick)


def bar_motions(bar: BarTrack, x_m: Floats, y_m: Floats) -> list[BarMotion]:
    """Several tracks of the same frames, `(frames, tracks)` each, filtered and differentiated at once, on the bar's clock and with its
    cut-offs."""
    both = np.concatenate([x_m, y_m], axis=1)
    place, speed, acceleration = derivatives(
        bar.time_s, both, cutoff_hz=bar.cutoff_hz, rate_hz=bar.rate_hz, acceleration_cutoff_hz=bar.acceleration_cutoff_hz
    )
    _, _, quick = derivatives(bar.time_s, both, cutoff_hz=bar.quick_cutoff_hz, rate_hz=bar.rate_hz)
    _, _, slower = derivatives(bar.time_s, y_m, cutoff_hz=bar.quick_cutoff_hz / 2, rate_hz=bar.rate_hz)
    count = x_m.shape[1]
    return [
        BarMotion(
            bar.first_frame, bar.time_s, place[:, i], place[:, count + i], speed[:, i], speed[:, count + i], acceleration[:, count + i],
            quick[:, i], quick[:, count + i], slower[:, i], y_m[:, i], float(np.std(y_m[:, i] - place[:, count + i])),
        )
        for i in range(count)
    ]  # fmt: skip
