"""How a hand that holds the phone moves the picture, or zooms: found on the room behind the lifter, and taken out of everything measured.

Stills are compared with the clip's first at intervals. Only when one has moved is every frame from there on compared, so a phone on a
stand costs next to nothing.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from .rim import Luma

Floats = NDArray[np.float64]

SEARCH_PX = 400
# Corners are sought in each of so many parts of the picture's shorter side, or a lifter before a bare wall would have them all.
PARTS, CORNERS_A_PART, FEWEST_CORNERS = 4, 7, 12
# How plain a corner must be against the plainest of its part, and of the picture.
PLAIN_HERE, PLAIN_AT_ALL = 0.05, 0.001
LOOK_EVERY_S = 0.3
# A picture that has moved by more than this (px of the clip) is held by a hand.
MOVED_PX = 0.6
# Before a bare wall most corners are the lifter's. A few that stand where they stood, so nearly (px) and hardly any of them a little
# further off, are the room's all the same: of a picture that moves they all do.
STOOD_PX, NEARLY_PX, STAND_STILL, SHARPLY = 0.3, 1.2, 0.08, 0.8
# So large a share of the corners must move as one; else the room is hidden, and the frame is bridged.
AS_ONE = 0.4
# And of two sets that move as one so many against the other are enough to be the room.
FEWER = 0.3
AGREE_PX = 0.8
# A room that grows or shrinks by more than this (share) is zoomed in on or out; who only comes nearer, and the corners' own error, do less.
# Long before that every frame is compared.
ZOOMED, GROWN = 0.02, 0.003
ALL_BUT_A_FEW = (2, 98)
NOT_MOVED = np.stack([np.eye(3), np.eye(3)])
# No hand that films moves the picture faster than this (its heights a second), nor trembles by more (heights) from frame to frame: what
# has moved further is not the room.
HAND_S, HAND_TREMBLES = 0.4, 0.006


@dataclass(frozen=True)
class Shake:
    """Where each frame shows what the first still showed at the picture's middle, `(frames,)`: px to the right and down, how far it has
    turned (rad, clockwise), and how many times as large it is. Empty for a phone that stood still."""

    x_px: Floats
    y_px: Floats
    turn_rad: Floats
    grown: Floats
    middle: tuple[float, float] = (0.0, 0.0)

    @classmethod
    def none(cls) -> Shake:
        return cls(np.zeros(0), np.zeros(0), np.zeros(0), np.zeros(0))

    def __bool__(self) -> bool:
        return len(self.x_px) > 0

    @property
    def zoomed(self) -> float:
        """How much the picture grew or shrank in all while it was filmed, a share; 0 where nobody zoomed."""
        return float(self.grown.max() / self.grown.min() - 1) if self else 0.0

    def taken_out(self, frames: NDArray[np.intp], points: Floats) -> Floats:
        """Points `(frames, …, 2)` of those frames as the first still would show them."""
        if not self:
            return points
        off = (points - self._to(frames, points) - self.middle) / self._each(self.grown, frames, points)[..., None]
        return _turned(off, -self._each(self.turn_rad, frames, points)) + self.middle

    def put_in(self, frames: NDArray[np.intp], points: Floats) -> Floats:
        """The way back: points of the first still as those frames show them."""
        if not self:
            return points
        off = (points - self.middle) * self._each(self.grown, frames, points)[..., None]
        return _turned(off, self._each(self.turn_rad, frames, points)) + self.middle + self._to(frames, points)

    def _to(self, frames: NDArray[np.intp], points: Floats) -> Floats:
        moved = np.stack([self.x_px[frames], self.y_px[frames]], axis=-1)
        return moved.reshape(len(frames), *[1] * (points.ndim - 2), 2)

    def _each(self, values: Floats, frames: NDArray[np.intp], points: Floats) -> Floats:
        return values[frames].reshape(len(frames), *[1] * (points.ndim - 2))

    def to_json(self) -> dict[str, Any]:
        return {
            "x_px": np.round(self.x_px, 3).tolist(), "y_px": np.round(self.y_px, 3).tolist(),
            "turn_rad": np.round(self.turn_rad, 7).tolist(), "grown": np.round(self.grown, 6).tolist(), "middle": list(self.middle),
        }  # fmt: skip

    @classmethod
    def from_json(cls, held: dict[str, Any]) -> Shake:
        x, y, turn, grown = (np.array(held[name], float) for name in ("x_px", "y_px", "turn_rad", "grown"))
        return cls(x, y, turn, grown, (held["middle"][0], held["middle"][1]))


class ShakeWatch:
    """Feed every frame with `feed`, then take the shake with `finish`."""

    def __init__(self) -> None:
        self._times: list[float] = []
        # How frames have moved against the first: as if nobody zoomed, and as if somebody did, `(2, 3, 3)`.
        self._moves: list[tuple[int, Floats]] = []
        self._still: Luma | None = None
        self._corners: NDArray[np.float32] = np.zeros((0, 1, 2), np.float32)
        self._from_first = NOT_MOVED
        # The last frame that was placed: its picture, how it has moved against the clip's first, and against the still; and when.
        self._last: tuple[Luma, Floats, Floats, float] | None = None
        self._small = 1.0
        self._size = (0, 0)
        self._moving = False
        self._next_s = 0.0

    def feed(self, time_s: float, luma: Luma) -> None:
        """Take the next frame."""
        index = len(self._times)
        self._times.append(time_s)
        if self._still is None:
            self._size = (luma.shape[1], luma.shape[0])
            self._small = min(1.0, SEARCH_PX / luma.shape[0])
            self._take_still(self._shrunk(luma))
            self._moves.append((index, NOT_MOVED))
            self._next_s = time_s + LOOK_EVERY_S
        elif self._moving or time_s >= self._next_s:
            self._next_s = time_s + LOOK_EVERY_S
            picture = self._shrunk(luma)
            since_still = self._compared(picture, time_s)
            if since_still is None and self._moving and self._last is not None:
                # The camera has turned away from what it first saw: go on from the last frame that was placed.
                last, self._from_first, _, last_s = self._last
                self._take_still(last)
                self._last = (last, self._from_first, NOT_MOVED, last_s)
                since_still = self._compared(picture, time_s)
            if since_still is None:
                return
            move = np.asarray(since_still @ self._from_first)
            self._moves.append((index, move))
            self._last = (picture, move, since_still, time_s)
            grown = abs(_size(move) - 1) > GROWN
            self._moving = self._moving or grown or bool(np.hypot(*self._middle_moved(move[0])) > MOVED_PX)

    def finish(self) -> Shake:
        """The shake over all frames; frames that could not be placed are bridged."""
        if not self._moving:
            return Shake.none()
        at = np.array([self._times[index] for index, _ in self._moves])
        grown = np.array([_size(move) for _, move in self._moves])
        least, most = np.percentile(grown, ALL_BUT_A_FEW)
        zoomed = int(most / least > 1 + ZOOMED)
        moves = [move[zoomed] for _, move in self._moves]
        told = np.array([[*self._middle_moved(move), np.arctan2(move[1, 0], move[0, 0])] for move in moves])
        x, y, turn, grown = (np.interp(self._times, at, column) for column in (*told.T, grown if zoomed else np.ones(len(at))))
        return Shake(x, y, turn, grown, (self._size[0] / 2 - 0.5, self._size[1] / 2 - 0.5))

    def _shrunk(self, luma: Luma) -> Luma:
        if self._small == 1.0:
            return np.ascontiguousarray(luma)
        return np.asarray(cv2.resize(luma, None, fx=self._small, fy=self._small, interpolation=cv2.INTER_AREA), np.uint8)

    def _take_still(self, picture: Luma) -> None:
        height, width = picture.shape
        across, down = (max(round(PARTS * side / min(height, width)), 1) for side in (width, height))
        plainness = cv2.cornerMinEigenVal(picture, 3)
        plainest = PLAIN_AT_ALL * float(plainness.max())
        found = [np.zeros((0, 1, 2), np.float32)]
        for part in np.ndindex(down, across):
            top, left = (place * side // count for place, side, count in zip(part, (height, width), (down, across), strict=True))
            here = slice(top, top + height // down), slice(left, left + width // across)
            plain = float(plainness[here].max())
            if plain <= plainest:
                continue
            corners = cv2.goodFeaturesToTrack(picture[here], CORNERS_A_PART, max(PLAIN_HERE, plainest / plain), 0.02 * height)
            if corners is not None:
                found.append(corners.astype(np.float32) + np.array([left, top], np.float32))
        self._still, self._corners = picture, np.concatenate(found)

    def _compared(self, picture: Luma, time_s: float) -> Floats | None:
        """How this picture has moved against the still, `(2, 3, 3)`; None where the room is not to be recognised."""
        assert self._still is not None
        if len(self._corners) < FEWEST_CORNERS:
            return None
        found, seen, _ = cv2.calcOpticalFlowPyrLK(self._still, picture, self._corners, None, winSize=(13, 13), maxLevel=3)
        here = seen.ravel() == 1
        if here.sum() < FEWEST_CORNERS:
            return None
        if not self._moving and _stands(np.linalg.norm((found - self._corners)[here], axis=-1) / self._small):
            return NOT_MOVED
        here &= self._as_hands_go(found, time_s)
        sets = _together(self._corners[here].reshape(-1, 2), found[here].reshape(-1, 2))
        # Of two that move as one the room lies all about, and who moves before it does not.
        return _moved(*max(sets, key=lambda one: _spread(one[0]))) if sets else None

    def _as_hands_go(self, found: NDArray[np.float32], time_s: float) -> NDArray[np.bool_]:
        """Which corners are no further from where the last frame's move has them than a hand takes them in the time since."""
        last, since_s = (NOT_MOVED, time_s - self._times[0]) if self._last is None else (self._last[2], time_s - self._last[3])
        expected = cv2.transform(self._corners, last[1, :2])
        reach = (HAND_TREMBLES + HAND_S * since_s) * self._size[1] * self._small
        return np.asarray(np.linalg.norm(found - expected, axis=-1).ravel() < reach)

    def _middle_moved(self, move: Floats) -> Floats:
        middle = np.array([self._size[0] / 2 - 0.5, self._size[1] / 2 - 0.5]) * self._small
        return np.asarray((move[:2, :2] @ middle + move[:2, 2] - middle) / self._small)


def _together(before: Floats, after: Floats) -> list[tuple[Floats, Floats]]:
    """Corners that move as one, `(corners, 2)` before and after; and of the others those that do so, too, if they are not much fewer."""
    made: list[tuple[Floats, Floats]] = []
    for least in (FEWEST_CORNERS, FEWEST_CORNERS // 2):
        if len(before) < least or (len(made) and len(before) < FEWER * len(made[0][0])):
            break
        matrix, as_one = cv2.estimateAffinePartial2D(before, after, method=cv2.RANSAC, ransacReprojThreshold=AGREE_PX, maxIters=100)
        if matrix is None or as_one.mean() < AS_ONE:
            break
        kept = as_one.ravel() == 1
        if made and kept.sum() < max(least, FEWER * len(made[0][0])):
            break
        made.append((before[kept], after[kept]))
        before, after = before[~kept], after[~kept]
    return made


def _spread(corners: Floats) -> float:
    """How large an area corners lie about in."""
    return float(np.linalg.det(np.cov(corners.T)))


def _moved(before: Floats, after: Floats) -> Floats:
    """The turn and shift from some places to others, without growth and with it, `(2, 3, 3)`."""
    (x, y), (to_x, to_y) = (before - before.mean(0)).T, (after - after.mean(0)).T
    along, across = x @ to_x + y @ to_y, x @ to_y - y @ to_x
    move = NOT_MOVED.copy()
    for matrix, size in zip(move, (np.hypot(along, across), x @ x + y @ y), strict=True):
        matrix[:2, :2] = np.array([[along, -across], [across, along]]) / size
        matrix[:2, 2] = after.mean(0) - matrix[:2, :2] @ before.mean(0)
    return move


def _size(move: Floats) -> float:
    """How many times as large the room is after a move `(2, 3, 3)`."""
    return float(np.hypot(*move[1, :2, 0]))


def _stands(off_px: Floats) -> bool:
    """Whether corners that have moved so far are those of a picture that stands still, and of who moves in it."""
    stood = float(np.mean(off_px < STOOD_PX))
    return stood > STAND_STILL and stood > SHARPLY * float(np.mean(off_px < NEARLY_PX))


def _turned(points: Floats, angle: Floats) -> Floats:
    cos, sin = np.cos(angle), np.sin(angle)
    return np.stack([points[..., 0] * cos - points[..., 1] * sin, points[..., 0] * sin + points[..., 1] * cos], axis=-1)
