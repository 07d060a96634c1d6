"""Follow one disc from frame to frame: its rim where it is expected, or else its own face nearby."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, field
from math import hypot
from statistics import median
from typing import Any

import cv2
import numpy as np

from .rim import DISC_RADIUS_M, UNSEEN, Luma, Rim, fit_rim
from .sight import Plane
from .track import SERIES, Tracklet

MIN_SUPPORT = 0.42
# A rim seen on fewer rays than this is looked for once more close to where it was expected (px).
PLAIN_SUPPORT, CLOSE_PX = 0.8, 4.0
SAME_SIZE = 0.06
# What goes less far than this from frame to frame (px) may as well stand still.
MOVES_PX = 1.0
# A rim seen on so many rays, and on so many more than another, is the right one.
STOPPED_SUPPORT, PLAINER = 0.65, 0.1
LOST_AFTER_S = 0.4
# Nothing a person lifts moves faster; it bounds how far a disc out of sight can have gone.
FASTEST_M_S = 7.0
# A disc whose face looks as it did within this share of its own contrast, on average, has moved by 0.1 px at most (if its radius is 40
# px) to 0.3 (100).
UNMOVED = 0.005
_FACE_PX = 24


@dataclass
class Followed:
    """A disc being followed. Times increase from frame to frame; of one that is followed back they are counted backwards."""

    piece: Tracklet
    face: Luma | None
    plane: Plane = "luma"
    rims: deque[tuple[float, Rim]] = field(default_factory=lambda: deque(maxlen=5))
    missed_since_s: float | None = None
    still_for: int = 0
    # How a disc that lies still looked when it was last fitted.
    rested: Luma | None = None
    # Where it was in frames that seem to repeat the last of `rims`.
    repeated: list[tuple[float, Rim]] = field(default_factory=list)

    lowest_px: float = -np.inf
    highest_px: float = np.inf
    # How far it is to have gone when it is next looked around (radii).
    look_around_at: float = 1.0

    @property
    def last(self) -> Rim:
        return self.rims[-1][1]

    @property
    def travel_radii(self) -> float:
        """By how much it was raised or lowered."""
        return (self.lowest_px - self.highest_px) / self.last.radius_px

    @property
    def travelled(self) -> bool:
        """Already raised or lowered by more than its own radius."""
        return self.travel_radii > 1.0

    @property
    def lifted(self) -> bool:
        """In sight, well supported, and already raised or lowered."""
        return self.travelled and self.missed_since_s is None and self.last.support > 0.7

    def unmoved(self, luma: Luma) -> Rim | None:
        """The rim as it was last fitted, if it looks as it did then."""
        face = None if self.rested is None else face_of(luma, self.last)
        if face is None or self.rested is None or float(cv2.absdiff(face, self.rested).mean()) > UNMOVED * float(self.rested.std()):
            return None
        return self.last

    def see(self, time_s: float, rim: Rim) -> None:
        self.rims.append((time_s, rim))
        self.lowest_px, self.highest_px = max(self.lowest_px, rim.y_px), min(self.highest_px, rim.y_px)
        append(self.piece, rim)

    def see_again(self, time_s: float, luma: Luma) -> None:
        """Go on by a frame that seems to repeat the picture before: what was seen stays where it was, and its speed as it was."""
        if self.missed_since_s is not None:
            append(self.piece, None)
            return
        rim = self.fit(self.last, luma, CLOSE_PX) or self.last
        self.repeated.append((time_s, rim))
        append(self.piece, rim)

    def stayed(self, rim: Rim | None) -> bool:
        """Whether it is still where it was before pictures seemed to be repeated; then it stood still in them."""
        if not self.repeated or rim is None or np.hypot(rim.x_px - self.last.x_px, rim.y_px - self.last.y_px) > MOVES_PX:
            return False
        self.rims.extend(self.repeated)
        return True

    def goes_px(self, time_s: float) -> float:
        """How far it should go from where it was last seen, as fast as it has been; nothing while it is out of sight."""
        if self.missed_since_s is not None or len(self.rims) < 2:
            return 0.0
        (before_s, before), (last_s, last) = self.rims[0], self.rims[-1]
        return hypot(last.x_px - before.x_px, last.y_px - before.y_px) * (time_s - last_s) / (last_s - before_s)

    def sought(self, time_s: float, luma: Luma) -> Rim | None:
        """Where the disc is in a frame, or None where it is not seen."""
        guess, search = self.predict(time_s)
        rim = self.fit(guess, luma, search)
        if self.repeated:
            rim = self._after_repeats(time_s, luma, rim)
        return rim or self._look_nearby(guess, time_s, luma)

    def _after_repeats(self, time_s: float, luma: Luma, rim: Rim | None) -> Rim | None:
        """The best seen of where it may be after pictures that were, or seemed, repeated: where its speed would have it by now, if pictures
        were lost; where it would have it without them, if they were put in; or where it was, if it only stopped."""

        def support(one: Rim | None) -> float:
            return one.support if one else 0.0

        guess, search = self.predict(time_s - (self.repeated[-1][0] - self.rims[-1][0]))
        put_in = self.fit(guess, luma, search)
        rim = max(rim, put_in, key=support)
        stopped = self.fit(self.last, luma, CLOSE_PX)
        return stopped if support(stopped) > max(STOPPED_SUPPORT, support(rim) + PLAINER) else rim

    def take(self, time_s: float, rim: Rim | None) -> None:
        """Go on by a frame in which the disc is here, or out of sight."""
        self.repeated.clear()
        if rim is None:
            self.missed_since_s = self.rims[-1][0] if self.missed_since_s is None else self.missed_since_s
            append(self.piece, None)
            self.still_for = 0
            return
        moved = float(np.hypot(rim.x_px - self.last.x_px, rim.y_px - self.last.y_px))
        self.still_for = self.still_for + 1 if moved < 0.25 and self.missed_since_s is None else 0
        self.missed_since_s = None
        self.see(time_s, rim)

    def predict(self, time_s: float) -> tuple[Rim, float]:
        """Where the disc should be now, and how far off that may be."""
        last_s, last = self.rims[-1]
        ahead = time_s - last_s
        metre = last.radius_px / DISC_RADIUS_M
        t = [at - last_s for at, _ in self.rims]
        curved = len(t) >= 4 and t[0] > -0.25
        (vx, ax), (vy, ay) = (
            _moving(t, [getattr(rim, axis) - getattr(last, axis) for _, rim in self.rims], curved) for axis in ("x_px", "y_px")
        )
        if ahead >= 0.08:
            ax = ay = 0.0
        radius, squeeze = (median(getattr(rim, name) for _, rim in self.rims) for name in ("radius_px", "squeeze"))
        guess = Rim(last.x_px + vx * ahead + ax * ahead**2, last.y_px + vy * ahead + ay * ahead**2, radius, squeeze)
        surprise = 0.5 * 25.0 * ahead**2 * metre
        return guess, float(np.clip(3.0 + 0.04 * radius + surprise, 4.0, 0.45 * radius))

    def fit(self, guess: Rim, luma: Luma, search: float) -> Rim | None:
        """The rim near a guess, if enough of it is seen and it is as large and as squeezed."""
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

    def _look_nearby(self, guess: Rim, time_s: float, luma: Luma) -> Rim | None:
        """Search for the disc's own face as far as it can have gone; nothing is taken whose face or size differs."""
        if self.face is None:
            return None
        last_s, last = self.rims[-1]
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
        match = cv2.matchTemplate(window, self.face, cv2.TM_CCOEFF_NORMED)
        _, best, _, (mx, my) = cv2.minMaxLoc(match)
        if best < 0.6:
            return None
        found = Rim(x0 + (mx + _FACE_PX / 2) / scale, y0 + (my + _FACE_PX / 2) / scale, guess.radius_px, guess.squeeze)
        return self.fit(found, luma, max(2.0 / scale, 0.1 * guess.radius_px))


def _moving(t: list[float], off: list[float], curved: bool) -> tuple[float, float]:
    """Speed, and half the acceleration where it is asked for, of what is at 0 now and was `off` at the times `t` (least squares)."""
    tt, tx = sum(a * a for a in t), sum(a * x for a, x in zip(t, off, strict=True))
    if not curved:
        return (tx / tt if tt else 0.0), 0.0
    t3, t4, ttx = sum(a**3 for a in t), sum(a**4 for a in t), sum(a * a * x for a, x in zip(t, off, strict=True))
    whole = tt * t4 - t3 * t3
    return (tx * t4 - ttx * t3) / whole, (tt * ttx - t3 * tx) / whole


def face_of(luma: Luma, rim: Rim) -> Luma | None:
    half = 1.1 * rim.radius_px
    x0, y0, x1, y1 = int(rim.x_px - half), int(rim.y_px - half), int(rim.x_px + half), int(rim.y_px + half)
    if x0 < 0 or y0 < 0 or x1 > luma.shape[1] or y1 > luma.shape[0]:
        return None
    return np.asarray(cv2.resize(luma[y0:y1, x0:x1], (_FACE_PX, _FACE_PX), interpolation=cv2.INTER_AREA))


def append(piece: Tracklet, rim: Rim | None) -> None:
    for name, value in _values(rim).items():
        getattr(piece, name).append(value)


def overwrite(piece: Tracklet, place: int, rim: Rim) -> None:
    for name, value in _values(rim).items():
        getattr(piece, name)[place] = value


def prepend(piece: Tracklet, rim: Rim) -> None:
    for name, value in _values(rim).items():
        getattr(piece, name).insert(0, value)
    piece.first_frame -= 1


def trim(piece: Tracklet) -> None:
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
