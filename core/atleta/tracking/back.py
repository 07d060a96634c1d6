"""Follow the lifted disc back from where it was found, in frames that are decoded once more, the latest first.

A disc that hardly shows on the floor, or behind too much else, is found when it is halfway up; and one that was lost is found again a
little later. In between its rim may be seen well enough for one who knows its size and where it must come from.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import islice

import numpy as np
from numpy.typing import NDArray

from ..footage import Frame
from .choose import choose_lifted
from .follow import LOST_AFTER_S, Followed
from .rim import Rim, fit_rim
from .sight import Plane, Sight
from .track import SERIES, DiscTrack, RawTracks, Tracklet

# A disc out of sight for less than this (s) is bridged; nobody walks up to a bar, sets and pulls for longer than that.
LEAST_S, FARTHEST_S = 0.15, 8.0
# What is seen in fewer frames is as good as not seen.
FEWEST_FRAMES = 5
# A lifted disc goes so far to either side (radii); of more the frames are not kept, and so many bytes of them at once.
ASIDE_RADII, MOST_BYTES = 3.0, 120_000_000
# A rim seen on so few rays is believed this near to where it was expected (px, and as a share of how far it may be), if it is as large and
# as squeezed as before (shares) and as round (px); one anywhere else on so many.
FAINT_SUPPORT, NEAR_PX, NEAR, SAME, FAINT_PX, PLAIN_SUPPORT = 0.28, 3.0, 0.4, 0.025, 0.6, 0.6
# Where it is expected is told from so long before (s).
TOLD_BY_S = 0.1


def followed_back(raw: RawTracks, read: Callable[[], Iterator[Frame]]) -> RawTracks:
    """The tracks with the lifted disc in frames before those in which it was found, or found again, as far as it is seen there.

    Args:
        read: begins to decode the clip anew.
    """
    track = choose_lifted(raw)
    pieces = [piece for first, stop in _unseen(raw.frame_time_s, track) if (piece := _before(raw, track, first, stop, read))]
    return replace(raw, tracklets=raw.tracklets + pieces)


def _unseen(time_s: NDArray[np.float64], track: DiscTrack) -> list[tuple[int, int]]:
    """Stretches without the disc that end where it is seen again: first frame, and the one in which it is seen."""
    seen = np.flatnonzero(np.isfinite(track.x_px))
    ends = zip(np.append(-1, seen)[:-1] + 1, seen, strict=True)
    return [(int(first), int(stop)) for first, stop in ends if stop > first and time_s[stop] - time_s[first] >= LEAST_S]


def _before(raw: RawTracks, track: DiscTrack, first: int, stop: int, read: Callable[[], Iterator[Frame]]) -> Tracklet | None:
    """The disc in the frames before `stop`, back to `first` at most; None where it is not seen in them."""
    time_s = raw.frame_time_s
    radius_px = float(np.nanmedian(track.radius_px))
    left = max(int(track.x_px[stop] - ASIDE_RADII * radius_px), 0) // 2 * 2
    right = min(int(track.x_px[stop] + ASIDE_RADII * radius_px), raw.width_px) // 2 * 2
    many = max(int(MOST_BYTES / (1.5 * (right - left) * raw.height_px)), 2)
    first = max(first, int(np.searchsorted(time_s, time_s[stop] - FARTHEST_S)))
    told_by = max(int(TOLD_BY_S / float(np.median(np.diff(time_s)))), 5)
    known = [n for n in range(stop, min(stop + told_by, len(time_s))) if np.isfinite(track.x_px[n])]
    rims = [Rim(track.x_px[n] - left, track.y_px[n], track.radius_px[n], track.squeeze[n]) for n in known]
    frames = _latest_first(read, first, stop + 1, left, right, many)
    disc = Followed(Tracklet.begun(stop), None, _plainest(next(frames)[1], rims[0]))
    disc.rims = deque(maxlen=told_by)
    disc.rims.extend((-time_s[n], rim) for n, rim in reversed(list(zip(known, rims, strict=True))))
    for n, sight in frames:
        disc.take(-time_s[n], _sought(disc, -time_s[n], sight))
        if disc.missed_since_s is not None and -time_s[n] - disc.missed_since_s > LOST_AFTER_S:
            break
    return _forwards(disc.piece, stop, left)


def _sought(disc: Followed, time_s: float, sight: Sight) -> Rim | None:
    """Where the disc is, by brightness or muted brightness: what told it against the wall need not tell it against the floor. Little of
    its rim is enough where it is as it was expected, and plenty is asked where it is not."""
    guess, search_px = disc.predict(time_s)
    near_px = max(NEAR_PX, NEAR * search_px)
    other: Plane = "muted" if disc.plane == "luma" else "luma"
    found = []
    for plane in (disc.plane, other) if other in sight.planes else (disc.plane,):
        close = fit_rim(sight.plane(plane), guess, search_px=near_px)
        if close and _as_expected(close, guess, near_px):
            found.append(close)
        elif (far := disc.fit(guess, sight.plane(plane), search_px)) and far.support > PLAIN_SUPPORT:
            found.append(far)
        if found and found[-1].support > PLAIN_SUPPORT:
            break
    return max(found, key=lambda rim: rim.support, default=None)


def _as_expected(rim: Rim, guess: Rim, near_px: float) -> bool:
    off_px = np.hypot(rim.x_px - guess.x_px, rim.y_px - guess.y_px)
    alike = abs(rim.radius_px / guess.radius_px - 1) < SAME and abs(rim.squeeze / guess.squeeze - 1) < SAME
    return bool(off_px < near_px and alike and rim.residual_px < FAINT_PX and rim.support > FAINT_SUPPORT)


def _latest_first(
    read: Callable[[], Iterator[Frame]], first: int, stop: int, left: int, right: int, many: int
) -> Iterator[tuple[int, Sight]]:
    """Frames from the one before `stop` down to `first`, between two columns of the picture, so many of them held at once."""
    while stop > first:
        begin = max(first, stop - many)
        held = [_between(frame, left, right) for frame in islice(read(), begin, stop)]
        while held:
            stop -= 1
            yield stop, held.pop()


def _between(frame: Frame, left: int, right: int) -> Sight:
    half = slice(left // 2, right // 2)
    u, v = frame.chroma()
    colour = u[:, half].copy(), v[:, half].copy()
    return Sight(frame.luma()[:, left:right].copy(), lambda: colour)


def _plainest(sight: Sight, about: Rim) -> Plane:
    """The plane that shows most of a rim."""
    fitted = {plane: fit_rim(sight.plane(plane), about, search_px=NEAR_PX) for plane in sight.planes}
    return max(sight.planes, key=lambda plane: rim.support if (rim := fitted[plane]) else 0.0)


def _forwards(piece: Tracklet, stop: int, left: int) -> Tracklet | None:
    """What was followed back from `stop`, from the first to the last frame in which it was seen."""
    seen = np.flatnonzero(np.isfinite(piece.x_px))
    if len(seen) < FEWEST_FRAMES:
        return None
    series = {name: getattr(piece, name)[seen[0] : seen[-1] + 1][::-1] for name in SERIES}
    series["x_px"] = [x + left for x in series["x_px"]]
    return Tracklet(stop - 1 - int(seen[-1]), **series)
