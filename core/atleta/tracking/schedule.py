"""Which frames the lifter is looked at in, by what the lifted bar does: often while it moves, more often while it is thrown."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray
from scipy.signal import find_peaks

from .rim import DISC_RADIUS_M
from .track import DiscTrack, bridged

Floats = NDArray[np.float64]

# How often the lifter is looked at while the bar moves, about when it is thrown, while it is carried, and while it rests or has been let
# fall.
LOOKS_HZ, THROWN_LOOKS_HZ, CARRIED_LOOKS_HZ, CALM_LOOKS_HZ = 31.0, 60.0, 15.5, 10.4
# A lifter is looked at from so long before the bar moves to so long after.
BEFORE_S, AFTER_S = 1.5, 0.8
MOVING_RADII_S = 0.35
# Calm is what lies further than this from the bar's movements.
CALM_AFTER_S = 0.15
GRACE_S = 0.001
# A disc is nearer to the camera than the lifter.
DISC_TO_BODY = 0.85
# So high above where it was lowest (m) a bar is raised.
RAISED_M = 0.45
# About when a bar is thrown, from so long before it is quickest to so long after, and as it falls so fast, it is not carried.
QUICK_BEFORE_S, QUICK_AFTER_S, FALLS_RADII_S = 0.5, 0.6, 2.5
# Legs and hips are straight for a few hundredths of a second, about when a bar that is thrown is quickest.
THROWN_RADII_S, THROWN_BEFORE_S, THROWN_AFTER_S = 4.0, 0.20, 0.10
# A bar that is thrown loses this much of its speed (radii/s) in so long; one that is carried up out of a squat a third of it.
LET_GO_RADII_S, LET_GO_S = 2.7, 0.2
# Nobody lowers a bar as fast as that (2.5 m/s); for so long after it, it bounces.
LET_FALL_RADII_S, LET_FALL_S = 11.0, 1.5
# At so many heights of the bar the discs are looked at for where the camera stands.
VIEW_HEIGHTS = 6


def worth_looking(time_s: Floats, track: DiscTrack) -> NDArray[np.bool_]:
    """Which frames the lifter is looked at in, `(frames,)`: from a little before the bar moves to a little after, often while it moves."""
    looks = np.zeros(len(time_s), bool)
    if not np.isfinite(track.x_px).any() or len(time_s) < 5:
        return looks
    x, y = (bridged(time_s, values) for values in (track.x_px, track.y_px))
    radius = float(np.nanmedian(track.radius_px))
    speed = np.hypot(np.gradient(x, time_s), np.gradient(y, time_s)) / radius
    moving = time_s[speed > MOVING_RADII_S]
    if len(moving) == 0:
        return looks
    until_next = np.append(moving, np.inf)[np.searchsorted(moving, time_s)] - time_s
    since_last = _since(time_s, moving)
    near = (until_next <= BEFORE_S) | (since_last <= AFTER_S)
    often_hz = np.where(carried_frames(time_s, track), CARRIED_LOOKS_HZ, LOOKS_HZ)
    often_hz[np.minimum(until_next, since_last) > CALM_AFTER_S] = CALM_LOOKS_HZ
    often_hz[_thrown(time_s, y, radius, THROWN_BEFORE_S, THROWN_AFTER_S)] = THROWN_LOOKS_HZ
    # A bar that bounces up is not thrown.
    often_hz[_let_fall(time_s, y, radius)] = CALM_LOOKS_HZ
    looked_s = -np.inf
    for frame in np.flatnonzero(near):
        # A little grace, so that clocks that are not quite even do not halve the rate.
        if time_s[frame] - looked_s > 1 / often_hz[frame] - GRACE_S:
            looks[frame], looked_s = True, time_s[frame]
    return looks


def frames_to_view(time_s: Floats, track: DiscTrack, wanted: NDArray[np.bool_]) -> set[int]:
    """Frames between the first and the last that are looked at in which the bar is slowest, one for each of a few heights: there the discs
    are sharp."""
    frames, looked = np.arange(len(time_s)), np.flatnonzero(wanted)
    known = (frames >= looked[0]) & (frames <= looked[-1]) & np.isfinite(track.y_px) & (track.confidence > 0.5)
    if known.sum() < 3:
        return set()
    x, y = bridged(time_s, track.x_px), bridged(time_s, track.y_px)
    speed = np.hypot(np.gradient(x, time_s), np.gradient(y, time_s)) / float(np.nanmedian(track.radius_px))
    edges = np.linspace(y[known].min(), y[known].max() + 1e-6, VIEW_HEIGHTS + 1)
    chosen = set()
    for low, high in itertools.pairwise(edges):
        here = np.flatnonzero(known & (y >= low) & (y < high) & (speed < 2.0))
        if len(here):
            chosen.add(int(here[np.argmin(speed[here])]))
    return chosen


def raised_frames(time_s: Floats, track: DiscTrack) -> NDArray[np.bool_]:
    """Which frames show the bar well above where it was lowest, `(frames,)`."""
    return np.asarray(np.nanpercentile(track.y_px, 97) - bridged(time_s, track.y_px) > RAISED_M * px_per_m_at(track))


def carried_frames(time_s: Floats, track: DiscTrack) -> NDArray[np.bool_]:
    """Which frames show a bar that is up, and neither thrown nor falling, `(frames,)`."""
    y, radius = bridged(time_s, track.y_px), float(np.nanmedian(track.radius_px))
    falls = np.gradient(y, time_s) / radius > FALLS_RADII_S
    return raised_frames(time_s, track) & ~falls & ~_thrown(time_s, y, radius, QUICK_BEFORE_S, QUICK_AFTER_S)


def px_per_m_at(track: DiscTrack) -> float:
    """How large a metre is at the lifter."""
    return float(np.nanmedian(track.radius_px)) / DISC_RADIUS_M * DISC_TO_BODY


def _since(time_s: Floats, moments_s: Floats) -> Floats:
    """How long ago the last of some moments was, `(frames,)` s; infinite before the first."""
    return np.asarray(time_s - np.append(-np.inf, moments_s)[np.searchsorted(moments_s, time_s, side="right")])


def _thrown(time_s: Floats, y_px: Floats, radius_px: float, before_s: float, after_s: float) -> NDArray[np.bool_]:
    """Which frames are about any moment in which a bar that is thrown is quickest, `(frames,)`."""
    rises = -np.gradient(y_px, time_s) / radius_px
    peaks = find_peaks(rises, height=THROWN_RADII_S, prominence=THROWN_RADII_S / 2)[0]
    slowed = rises[peaks] - np.interp(time_s[peaks] + LET_GO_S, time_s, rises)
    since_s = time_s[:, None] - time_s[peaks[slowed > LET_GO_RADII_S]]
    return np.asarray(((since_s >= -before_s) & (since_s <= after_s)).any(axis=1))


def _let_fall(time_s: Floats, y_px: Floats, radius_px: float) -> NDArray[np.bool_]:
    """Which frames are soon after a bar was let fall: while it bounces, `(frames,)`."""
    return np.asarray(_since(time_s, time_s[np.gradient(y_px, time_s) / radius_px > LET_FALL_RADII_S]) <= LET_FALL_S)
