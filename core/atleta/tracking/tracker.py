"""Follow every disc of a clip while its frames stream by; memory does not grow with the clip but for the tracks themselves.

Discs are looked for at once and every half second after that, until one of them is plainly being lifted. Each is predicted, its rim
fitted where it is expected, and when that fails looked for by its own face nearby; one that was lifted and is lost, all over the picture.
A disc that lies still is only checked every few frames, and the frames between are fitted after all when it turns out to have moved.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from statistics import median
from typing import Any

import cv2
import numpy as np

from .rim import DISC_RADIUS_M, UNSEEN, Luma, Rim, fit_rim
from .scout import SMALLER, Scout
from .sight import Plane, Sight
from .track import SERIES, RawTracks, Tracklet

# Discs are looked for so often; and so often while one that was being lifted is out of sight.
SCOUT_EVERY_S, SCOUT_LOST_S = 0.5, 0.1
NAP_FRAMES = 5
MAX_LIVE = 6
LOST_AFTER_S = 0.4
MIN_SUPPORT = 0.42
# A rim seen on fewer rays than this is looked for once more close to where it was expected (px).
PLAIN_SUPPORT, CLOSE_PX = 0.8, 4.0
MUCH_LARGER, SAME_SIZE = 1.15, 0.06
# Nothing a person lifts moves faster; it bounds how far a disc out of sight can have gone.
FASTEST_M_S = 7.0
# The grid on which change in the picture is noted: fine enough to tell in front of the bar from behind it.
GRID_CELLS = 48
# As many pixels of a cell tell its brightness, each way.
CELL_SAMPLES = 6
_FACE_PX = 24
# A disc whose face looks as it did within this share of its own contrast, on average, has moved by 0.1 px at most (if its radius is 40
# px) to 0.3 (100).
UNMOVED = 0.005


@dataclass
class _Live:
    """A disc being followed."""

    piece: Tracklet
    face: Luma | None
    plane: Plane = "luma"
    rims: deque[tuple[float, Rim]] = field(default_factory=lambda: deque(maxlen=5))
    missed_since_s: float | None = None
    still_for: int = 0
    # How a disc that lies still looked when it was last fitted.
    rested: Luma | None = None

    lowest_px: float = -np.inf
    highest_px: float = np.inf

    @property
    def last(self) -> Rim:
        return self.rims[-1][1]

    @property
    def travelled(self) -> bool:
        """Already raised or lowered by more than its own radius."""
        return self.lowest_px - self.highest_px > self.last.radius_px

    @property
    def lifted(self) -> bool:
        """In sight, well supported, and already raised or lowered."""
        return self.travelled and self.missed_since_s is None and self.last.support > 0.7

    def unmoved(self, luma: Luma) -> Rim | None:
        """The rim as it was last fitted, if it looks as it did then."""
        face = None if self.rested is None else _face(luma, self.last)
        if face is None or self.rested is None or float(cv2.absdiff(face, self.rested).mean()) > UNMOVED * float(self.rested.std()):
            return None
        return self.last

    def see(self, time_s: float, rim: Rim) -> None:
        self.rims.append((time_s, rim))
        self.lowest_px, self.highest_px = max(self.lowest_px, rim.y_px), min(self.highest_px, rim.y_px)
        _append(self.piece, rim)


class DiscTracker:
    """Feed frames in order with `feed`, then take everything with `finish`."""

    def __init__(self) -> None:
        self._times: list[float] = []
        self._recent: deque[tuple[int, float, Sight]] = deque(maxlen=NAP_FRAMES + 6)
        self._live: list[_Live] = []
        self._done: list[Tracklet] = []
        self._motion: list[Luma] = []
        self._thumb: Luma | None = None
        self._next_scout_s, self._scouted_s = 0.0, -np.inf
        self._watch = Scout()
        self._size = (0, 0)

    def feed(self, index: int, time_s: float, luma: Luma, chroma: Callable[[], tuple[Luma, Luma]] | None = None) -> None:
        """Take the next frame; `index` counts from 0 without gaps, `time_s` increases. `chroma` is asked only where brightness fails."""
        sight = Sight(luma, chroma)
        self._times.append(time_s)
        self._recent.append((index, time_s, sight))
        self._size = (luma.shape[1], luma.shape[0])
        self._note_motion(luma)
        for live in self._live:
            self._advance(live, index)
        self._retire(time_s)
        if any(live.travelled and live.missed_since_s is not None for live in self._live):
            self._next_scout_s = min(self._next_scout_s, self._scouted_s + SCOUT_LOST_S)
        if time_s >= self._next_scout_s and not any(live.lifted for live in self._live):
            self._next_scout_s, self._scouted_s = time_s + SCOUT_EVERY_S, time_s
            self._scout(index, time_s, sight)

    def finish(self) -> RawTracks:
        """All tracks, once the last frame has been fed."""
        if self._times:
            for live in self._live:
                self._advance(live, len(self._times) - 1, waking=True)
        pieces = self._done + [live.piece for live in self._live]
        for piece in pieces:
            _trim(piece)
        width, height = self._size
        motion = np.array(self._motion) if self._motion else np.zeros((0, 1, 1), np.uint8)
        return RawTracks(np.array(self._times), width, height, [p for p in pieces if len(p.x_px) >= 5], motion)

    # -- following ------------------------------------------------------------------------------------------------

    def _advance(self, live: _Live, upto: int, waking: bool = False) -> None:
        """Bring one disc up to frame `upto`, napping through frames while it lies still."""
        pending = [entry for entry in self._recent if live.piece.last_frame < entry[0] <= upto]
        if not pending:
            return
        if live.still_for >= NAP_FRAMES:
            if len(pending) < NAP_FRAMES and not waking:
                return
            before = live.last
            _, time_s, sight = pending[-1]
            rim = live.unmoved(luma := sight.plane(live.plane))
            if rim is None:
                rim = self._fit(live, before, luma, max(4.0, 0.06 * before.radius_px))
                live.rested = None if rim is None else _face(luma, rim)
            if rim and np.hypot(rim.x_px - before.x_px, rim.y_px - before.y_px) < 0.3:
                for step in range(1, len(pending) + 1):
                    share = step / len(pending)
                    between = replace(
                        rim,
                        x_px=before.x_px + share * (rim.x_px - before.x_px),
                        y_px=before.y_px + share * (rim.y_px - before.y_px),
                        radius_px=before.radius_px + share * (rim.radius_px - before.radius_px),
                    )
                    _append(live.piece, between)
                live.rims.append((time_s, rim))
                return
            live.still_for, live.rested = 0, None
        for _, time_s, sight in pending:
            self._step(live, time_s, sight.plane(live.plane))

    def _step(self, live: _Live, time_s: float, luma: Luma) -> None:
        guess, search = self._predict(live, time_s)
        rim = self._fit(live, guess, luma, search)
        if rim is None:
            rim = self._look_nearby(live, guess, time_s, luma)
        if rim is None:
            live.missed_since_s = live.rims[-1][0] if live.missed_since_s is None else live.missed_since_s
            _append(live.piece, None)
            live.still_for = 0
            return
        moved = float(np.hypot(rim.x_px - live.last.x_px, rim.y_px - live.last.y_px))
        live.still_for = live.still_for + 1 if moved < 0.25 and live.missed_since_s is None else 0
        live.missed_since_s = None
        live.see(time_s, rim)

    def _predict(self, live: _Live, time_s: float) -> tuple[Rim, float]:
        """Where the disc should be now, and how far off that may be."""
        last_s, last = live.rims[-1]
        ahead = time_s - last_s
        metre = last.radius_px / DISC_RADIUS_M
        t = [at - last_s for at, _ in live.rims]
        curved = len(t) >= 4 and t[0] > -0.25
        (vx, ax), (vy, ay) = (
            _moving(t, [getattr(rim, axis) - getattr(last, axis) for _, rim in live.rims], curved) for axis in ("x_px", "y_px")
        )
        if ahead >= 0.08:
            ax = ay = 0.0
        radius, squeeze = (median(getattr(rim, name) for _, rim in live.rims) for name in ("radius_px", "squeeze"))
        guess = Rim(last.x_px + vx * ahead + ax * ahead**2, last.y_px + vy * ahead + ay * ahead**2, radius, squeeze)
        surprise = 0.5 * 25.0 * ahead**2 * metre
        return guess, float(np.clip(3.0 + 0.04 * radius + surprise, 4.0, 0.45 * radius))

    def _fit(self, live: _Live, guess: Rim, luma: Luma, search: float) -> Rim | None:
        rim = fit_rim(luma, guess, search_px=search)
        if (rim is None or rim.support < PLAIN_SUPPORT) and search > CLOSE_PX:
            # Reaching far, a fit may make a circle of the disc's own ring and an edge beyond it; close by there is the rim alone.
            close = fit_rim(luma, guess, search_px=CLOSE_PX)
            if close is not None and (rim is None or close.support > rim.support):
                rim = close
        if rim is None or rim.support < MIN_SUPPORT:
            return None
        if abs(rim.radius_px / guess.radius_px - 1) > SAME_SIZE or abs(rim.squeeze / guess.squeeze - 1) > 0.10:
            return None
        if not (0 <= rim.x_px < luma.shape[1] and 0 <= rim.y_px < luma.shape[0]):
            return None
        return rim

    def _look_nearby(self, live: _Live, guess: Rim, time_s: float, luma: Luma) -> Rim | None:
        """Search for the disc's own face as far as it can have gone; nothing is taken whose face or size differs."""
        if live.face is None:
            return None
        last_s, last = live.rims[-1]
        reach = FASTEST_M_S * (time_s - last_s) * last.radius_px / DISC_RADIUS_M
        reach = min(reach, 3.0 * last.radius_px)
        scale = _FACE_PX / (2.2 * last.radius_px)
        half = reach + 1.2 * last.radius_px
        x0, y0 = max(int(guess.x_px - half), 0), max(int(guess.y_px - half), 0)
        x1, y1 = min(int(guess.x_px + half), luma.shape[1]), min(int(guess.y_px + half), luma.shape[0])
        if x1 - x0 < 2.3 * last.radius_px or y1 - y0 < 2.3 * last.radius_px:
            return None
        window = cv2.resize(luma[y0:y1, x0:x1], None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
        if min(window.shape) < _FACE_PX:
            return None
        match = cv2.matchTemplate(window, live.face, cv2.TM_CCOEFF_NORMED)
        _, best, _, (mx, my) = cv2.minMaxLoc(match)
        if best < 0.6:
            return None
        found = Rim(x0 + (mx + _FACE_PX / 2) / scale, y0 + (my + _FACE_PX / 2) / scale, guess.radius_px, guess.squeeze)
        return self._fit(live, found, luma, max(2.0 / scale, 0.1 * guess.radius_px))

    def _retire(self, time_s: float) -> None:
        lost = [one for one in self._live if one.missed_since_s is not None and time_s - one.missed_since_s > LOST_AFTER_S]
        # Once the lifted disc is followed by brightness, nothing smaller is worth making the muted picture for, and nothing small a look.
        lifted = max((one.last.radius_px for one in self._live if one.plane == "luma" and one.lifted), default=0.0)
        large_enough = {"luma": SMALLER * lifted, "muted": lifted}
        lost += [one for one in self._live if one.last.radius_px < large_enough[one.plane] and one not in lost]
        for live in lost:
            self._live.remove(live)
            self._done.append(live.piece)

    # -- finding --------------------------------------------------------------------------------------------------

    def _scout(self, index: int, time_s: float, sight: Sight) -> None:
        for rim, plane in self._watch.look(sight, [(live.last, live.plane) for live in self._live if live.missed_since_s is None]):
            known = next((live for live in self._live if _same(rim, live.last)), None)
            if known is not None:
                if known.missed_since_s is not None and abs(rim.radius_px / known.last.radius_px - 1) < SAME_SIZE:
                    if known.plane != plane:
                        # What it was told by against the floor need not tell it against the wall.
                        known.plane, known.face = plane, _face(sight.plane(plane), rim)
                    self._found_again(known, rim)
                continue
            if len(self._live) >= MAX_LIVE:
                return
            live = _Live(Tracklet.begun(index), _face(sight.plane(plane), rim), plane)
            live.see(time_s, rim)
            self._live.append(live)
            self._look_back(live, rim)

    def _found_again(self, live: _Live, rim: Rim) -> None:
        """Go on with a disc that was lost from where it turned up; what was missed is filled in as far back as it can be followed."""
        missed = len(live.piece.x_px) - 1
        _overwrite(live.piece, missed, rim)
        for found in self._before(live, rim):
            missed -= 1
            if np.isfinite(live.piece.x_px[missed]):
                break
            _overwrite(live.piece, missed, found)
        live.rims.clear()
        live.missed_since_s = None
        live.rims.append((self._recent[-1][1], rim))

    def _look_back(self, live: _Live, rim: Rim) -> None:
        """Follow a newly found disc back through the few frames still at hand."""
        for found in self._before(live, rim):
            _prepend(live.piece, found)

    def _before(self, live: _Live, rim: Rim) -> list[Rim]:
        """Where a disc was before it was found in the last frame, latest first, in the frames still at hand."""
        backwards = _Live(Tracklet.begun(0), live.face, live.plane)
        backwards.rims.append((self._recent[-1][1], rim))
        older: list[Rim] = []
        for _, time_s, sight in list(self._recent)[-2::-1]:
            guess, search = self._predict(backwards, time_s)
            found = self._fit(backwards, guess, sight.plane(live.plane), search)
            if found is None:
                break
            backwards.rims.append((time_s, found))
            older.append(found)
        return older

    def _note_motion(self, luma: Luma) -> None:
        cell = max(luma.shape) / GRID_CELLS
        size = (max(round(luma.shape[1] / cell), 1), max(round(luma.shape[0] / cell), 1))
        # A cell holds hundreds of pixels; some of them tell its brightness as well, at a fraction of the cost.
        sparse = cv2.resize(luma, (size[0] * CELL_SAMPLES, size[1] * CELL_SAMPLES), interpolation=cv2.INTER_NEAREST)
        thumb = np.asarray(cv2.resize(sparse, size, interpolation=cv2.INTER_AREA))
        self._motion.append(np.zeros_like(thumb) if self._thumb is None else np.asarray(cv2.absdiff(thumb, self._thumb)))
        self._thumb = thumb


def _moving(t: list[float], off: list[float], curved: bool) -> tuple[float, float]:
    """Speed, and half the acceleration where it is asked for, of what is at 0 now and was `off` at the times `t` (least squares)."""
    tt, tx = sum(a * a for a in t), sum(a * x for a, x in zip(t, off, strict=True))
    if not curved:
        return (tx / tt if tt else 0.0), 0.0
    t3, t4, ttx = sum(a**3 for a in t), sum(a**4 for a in t), sum(a * a * x for a, x in zip(t, off, strict=True))
    whole = tt * t4 - t3 * t3
    return (tx * t4 - ttx * t3) / whole, (tt * ttx - t3 * tx) / whole


def _same(rim: Rim, known: Rim) -> bool:
    """Whether a rim is one that is followed already. A much larger one about the same centre is not: it is the disc, that was its hub."""
    near = np.hypot(rim.x_px - known.x_px, rim.y_px - known.y_px) < 0.6 * known.radius_px
    return bool(near and rim.radius_px < MUCH_LARGER * known.radius_px)


def _face(luma: Luma, rim: Rim) -> Luma | None:
    half = 1.1 * rim.radius_px
    x0, y0, x1, y1 = int(rim.x_px - half), int(rim.y_px - half), int(rim.x_px + half), int(rim.y_px + half)
    if x0 < 0 or y0 < 0 or x1 > luma.shape[1] or y1 > luma.shape[0]:
        return None
    return np.asarray(cv2.resize(luma[y0:y1, x0:x1], (_FACE_PX, _FACE_PX), interpolation=cv2.INTER_AREA))


def _append(piece: Tracklet, rim: Rim | None) -> None:
    for name, value in _values(rim).items():
        getattr(piece, name).append(value)


def _overwrite(piece: Tracklet, place: int, rim: Rim) -> None:
    for name, value in _values(rim).items():
        getattr(piece, name)[place] = value


def _prepend(piece: Tracklet, rim: Rim) -> None:
    for name, value in _values(rim).items():
        getattr(piece, name).insert(0, value)
    piece.first_frame -= 1


def _trim(piece: Tracklet) -> None:
    """Drop the frames at the end in which the disc was already out of sight."""
    while piece.confidence and piece.confidence[-1] == 0:
        for name in SERIES:
            getattr(piece, name).pop()


def _values(rim: Rim | None) -> dict[str, Any]:
    if rim is None:
        return dict.fromkeys(SERIES, np.nan) | {"confidence": 0.0, "outline": UNSEEN}
    sharp = float(np.clip(1.2 - rim.residual_px / (0.02 * rim.radius_px + 0.8), 0.2, 1.0))
    confidence = float(np.clip((rim.support - 0.3) / 0.5, 0.05, 1.0)) * sharp
    return {
        "x_px": rim.x_px, "y_px": rim.y_px, "radius_px": rim.radius_px, "squeeze": rim.squeeze,
        "confidence": confidence, "sd_px": rim.sd_px, "outline": rim.outline,
    }  # fmt: skip
