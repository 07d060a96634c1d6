"""Which of the discs that were followed is the lifted one: the one that travels up and down."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .rim import UNSEEN
from .track import SERIES, DiscTrack, RawTracks, Tracklet

# A bar moves at least this many of its radii in any lift worth the name (0.12 m: a jerk's dip).
MIN_TRAVEL_RADII = 0.5
MOST_TRAVEL_RADII = 9.0
MAX_GAP_S = 1.5
SAME_SIZE = 0.07
# A disc's own ring is followed over so long a gap (s), to so many of the disc's radii; its speed is that of so many frames.
LONGEST_RING_GAP_S, RING_MEETS_RADII, SPEED_FRAMES = 0.4, 0.3, 6
# Of a disc known by a ring alone: how much less sure it is, and how much worse its centre is known.
RING_SURE, RING_WORSE = 0.5, 3.0
# A ring lies no further than this from its disc's middle (radii), where both are seen in so many frames.
RINGS_APART, FEWEST_TOGETHER = 0.1, 8
# A piece may begin while the one before it is being lost.
OVERLAP_FRAMES = 15
# Sights so many times less sure than a piece mostly is, at one of its ends, may be of what has come before the disc.
BEING_LOST = 3.0


def choose_lifted(raw: RawTracks) -> DiscTrack:
    """The lifted disc's track, put together from its pieces; empty (all NaN) when no disc was lifted.

    The piece that travelled far and was seen well is the core, or what goes with it about the same middle and is larger. Pieces of the
    same size that continue it, before and after, without overlapping it and without a jump further than the gap allows, are joined on,
    if need be without the last sights of a disc that something has come before; where there is none, a ring inside the disc, whose rim a
    floor as dark as it hides. Once its face was laid together over the whole clip, that is what stands.
    """
    if raw.face is not None:
        return raw.face.copied()
    track = DiscTrack.empty(len(raw.frame_time_s))
    moving = [piece for piece in raw.tracklets if _travel(piece) >= MIN_TRAVEL_RADII]
    if not moving:
        return track
    core = _whole(max(moving, key=_worth), moving)
    chain = [core]
    others = [piece for piece in raw.tracklets if piece is not core]
    for forward in (True, False):
        here = core
        while (found := _continued(raw, here, others, forward)) is not None:
            kept, nearest, whole = found
            chain[chain.index(here)] = kept
            chain.append(nearest)
            others.remove(whole)
            core, here = kept if here is core else core, nearest
        if (ring := _ring_inside(raw, here, others, forward)) is not None:
            chain.append(_as_disc(ring, here))
            others.remove(ring)
    for piece in sorted(chain, key=lambda one: one is core):
        track.write(piece)
    return track


def _whole(core: Tracklet, others: list[Tracklet]) -> Tracklet:
    """The disc of which this is a ring, the largest of those that go with it; or itself."""
    return max([core, *(piece for piece in others if _is_ring_of(core, piece))], key=_size)


def _is_ring_of(ring: Tracklet, disc: Tracklet) -> bool:
    first, stop = max(ring.first_frame, disc.first_frame), min(ring.last_frame, disc.last_frame) + 1
    if stop - first < FEWEST_TOGETHER or _size(ring) > (1 - SAME_SIZE) * _size(disc):
        return False
    a, b = (np.array([one.x_px, one.y_px])[:, first - one.first_frame : stop - one.first_frame] for one in (ring, disc))
    off = np.hypot(*(a - b))
    together = np.isfinite(off)
    return bool(together.sum() >= FEWEST_TOGETHER and np.median(off[together]) < RINGS_APART * _size(disc))


def _continued(raw: RawTracks, here: Tracklet, others: list[Tracklet], forward: bool) -> tuple[Tracklet, Tracklet, Tracklet] | None:
    """The piece as it stands, what continues it, and the whole of which that is: as they were followed; else where both were plain."""
    if (nearest := _continuation(raw, here, others, forward)) is not None:
        return here, nearest, nearest
    plain = [_plain(piece, not forward) for piece in others]
    for kept in (here, _plain(here, forward)):
        if (nearest := _continuation(raw, kept, plain, forward)) is not None:
            return kept, nearest, others[next(place for place, piece in enumerate(plain) if piece is nearest)]
    return None


def _plain(piece: Tracklet, forward: bool) -> Tracklet:
    """A piece without the sights at its end (`forward`) or beginning in which it was being lost."""
    sds = np.asarray(piece.sd_px)
    sure = np.flatnonzero(sds <= BEING_LOST * np.nanmedian(sds)) if np.isfinite(sds).any() else np.empty(0, int)
    if not len(sure):
        return piece
    kept = slice(0, int(sure[-1]) + 1) if forward else slice(int(sure[0]), None)
    series = {name: getattr(piece, name)[kept] for name in SERIES}
    return replace(piece, first_frame=piece.first_frame + (kept.start or 0), **series)


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


def _ring_inside(raw: RawTracks, disc: Tracklet, others: list[Tracklet], forward: bool) -> Tracklet | None:
    """A ring that is where the disc was before it was seen, or went when it was lost: both move on, and meet between."""
    for piece in others:
        edge, start = (disc.last_frame, piece.first_frame) if forward else (piece.last_frame, disc.first_frame)
        gap = float(raw.frame_time_s[start] - raw.frame_time_s[edge]) if start > edge else np.inf
        if gap > LONGEST_RING_GAP_S or _size(piece) > (1 - SAME_SIZE) * _size(disc):
            continue
        before, after = (disc, piece) if forward else (piece, disc)
        meets = _moved_on(raw, before, -1, gap / 2) - _moved_on(raw, after, 0, -gap / 2)
        if float(np.hypot(*meets)) < RING_MEETS_RADII * _size(disc):
            return piece
    return None


def _moved_on(raw: RawTracks, piece: Tracklet, end: int, by_s: float) -> NDArray[np.float64]:
    """Where a piece is so long after its last frame (`end` -1), or before its first (0), px: as fast as in the frames next to it."""
    places = np.array([piece.x_px, piece.y_px])
    seen = np.flatnonzero(np.isfinite(places[0]))
    near = seen[-SPEED_FRAMES:] if end else seen[:SPEED_FRAMES]
    times = raw.frame_time_s[piece.first_frame + near]
    return np.array([np.polyval(np.polyfit(times - times[end], row[near], 1), by_s) for row in places])


def _as_disc(ring: Tracklet, disc: Tracklet) -> Tracklet:
    """A disc's centre by the ring inside it, less well known than by its rim."""
    frames = len(ring.x_px)
    squeeze = float(np.nanmedian(disc.squeeze))
    return replace(
        ring, radius_px=[_size(disc)] * frames, squeeze=[squeeze] * frames, confidence=[RING_SURE * value for value in ring.confidence],
        sd_px=[RING_WORSE * value for value in ring.sd_px], outline=[UNSEEN] * frames,
    )  # fmt: skip


def _worth(piece: Tracklet) -> float:
    """Far travelled, well seen for long, and large above all: what is lifted is near the camera, and heads go up and down with it. Travel
    beyond what a lift takes counts no further."""
    return min(_travel(piece), MOST_TRAVEL_RADII) * _size(piece) ** 2 * math.sqrt(np.sum(piece.confidence))


def _travel(piece: Tracklet) -> float:
    """Vertical travel in radii, ends of the range taken as the 2nd and 98th percentile."""
    y = np.asarray(piece.y_px)
    if np.isfinite(y).sum() < 5:
        return 0.0
    low, high = np.nanpercentile(y, [2, 98])
    return float((high - low) / _size(piece))


def _size(piece: Tracklet) -> float:
    return float(np.nanmedian(piece.radius_px))
