"""Which of the discs that were followed is the lifted one: the one that travels up and down."""

from __future__ import annotations

import math

import numpy as np

from .track import DiscTrack, RawTracks, Tracklet

# A bar moves at least this many of its radii in any lift worth the name (0.12 m: a jerk's dip).
MIN_TRAVEL_RADII = 0.5
MOST_TRAVEL_RADII = 9.0
MAX_GAP_S = 1.5
SAME_SIZE = 0.07
# A piece may begin while the one before it is being lost.
OVERLAP_FRAMES = 15


def choose_lifted(raw: RawTracks) -> DiscTrack:
    """The lifted disc's track, put together from its pieces; empty (all NaN) when no disc was lifted.

    The piece that travelled far and was seen well is the core. Pieces of the same size that continue it, before and after, without
    overlapping it and without a jump further than the gap allows, are joined on.
    """
    track = DiscTrack.empty(len(raw.frame_time_s))
    moving = [piece for piece in raw.tracklets if _travel(piece) >= MIN_TRAVEL_RADII]
    if not moving:
        return track
    core = max(moving, key=_worth)
    chain = [core]
    others = [piece for piece in raw.tracklets if piece is not core]
    for forward in (True, False):
        here = core
        while (nearest := _continuation(raw, here, others, forward)) is not None:
            chain.append(nearest)
            others.remove(nearest)
            here = nearest
    for piece in sorted(chain, key=lambda one: one is core):
        track.write(piece)
    return track


def _continuation(raw: RawTracks, here: Tracklet, others: list[Tracklet], forward: bool) -> Tracklet | None:
    best: tuple[float, Tracklet] | None = None
    for piece in others:
        edge, start = (here.last_frame, piece.first_frame) if forward else (piece.last_frame, here.first_frame)
        if start <= edge - OVERLAP_FRAMES:
            continue
        gap = abs(float(raw.frame_time_s[start] - raw.frame_time_s[edge]))
        a, b = (-1, 0) if forward else (0, -1)
        size = _size(here)
        jump = float(np.hypot(here.x_px[a] - piece.x_px[b], here.y_px[a] - piece.y_px[b])) / size
        # In radii: 5 m/s is 22 radii a second, but a bar out of sight for long has usually come to rest nearby.
        allowed = min(22 * gap + 0.3, 6.0)
        if gap <= MAX_GAP_S and jump <= allowed and abs(_size(piece) / size - 1) <= SAME_SIZE and (best is None or gap < best[0]):
            best = (gap, piece)
    return best[1] if best else None


def _worth(piece: Tracklet) -> float:
    """Far travelled, large, and well seen for long. Travel beyond what a lift takes counts no further."""
    return min(_travel(piece), MOST_TRAVEL_RADII) * _size(piece) * math.sqrt(np.sum(piece.confidence))


def _travel(piece: Tracklet) -> float:
    """Vertical travel in radii, ends of the range taken as the 2nd and 98th percentile."""
    y = np.asarray(piece.y_px)
    if np.isfinite(y).sum() < 5:
        return 0.0
    low, high = np.nanpercentile(y, [2, 98])
    return float((high - low) / _size(piece))


def _size(piece: Tracklet) -> float:
    return float(np.nanmedian(piece.radius_px))
