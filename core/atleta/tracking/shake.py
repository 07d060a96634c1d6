"""How a hand that holds the phone moves the picture: found on the room behind the lifter, and taken out of everything measured.

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
CORNERS, FEWEST_CORNERS = 110, 12
LOOK_EVERY_S = 0.3
# A picture that has moved by more than this (px of the clip) is held by a hand, unless so many corners stand where they stood.
MOVED_PX, STAND_STILL = 0.6, 0.3
# So large a share of the corners must move as one; else the room is hidden, and the frame is bridged.
AS_ONE = 0.4
AGREE_PX = 0.8


@dataclass(frozen=True)
class Shake:
    """Where each frame shows what the first still showed at the picture's middle, `(frames,)`: px to the right and down, and how far it
    has turned (rad, clockwise). Empty for a phone that stood still."""

    x_px: Floats
    y_px: Floats
    turn_rad: Floats
    middle: tuple[float, float] = (0.0, 0.0)

    @classmethod
    def none(cls) -> Shake:
        return cls(np.zeros(0), np.zeros(0), np.zeros(0))

    def __bool__(self) -> bool:
        return len(self.x_px) > 0

    def taken_out(self, frames: NDArray[np.intp], points: Floats) -> Floats:
        """Points `(frames, …, 2)` of those frames as the first still would show them."""
        if not self:
            return points
        off = points - self._to(frames, points) - self.middle
        return _turned(off, -self._turn(frames, points)) + self.middle

    def put_in(self, frames: NDArray[np.intp], points: Floats) -> Floats:
        """The way back: points of the first still as those frames show them."""
        if not self:
            return points
        return _turned(points - self.middle, self._turn(frames, points)) + self.middle + self._to(frames, points)

    def _to(self, frames: NDArray[np.intp], points: Floats) -> Floats:
        moved = np.stack([self.x_px[frames], self.y_px[frames]], axis=-1)
        return moved.reshape(len(frames), *[1] * (points.ndim - 2), 2)

    def _turn(self, frames: NDArray[np.intp], points: Floats) -> Floats:
        return self.turn_rad[frames].reshape(len(frames), *[1] * (points.ndim - 2))

    def to_json(self) -> dict[str, Any]:
        return {
            "x_px": np.round(self.x_px, 3).tolist(), "y_px": np.round(self.y_px, 3).tolist(),
            "turn_rad": np.round(self.turn_rad, 7).tolist(), "middle": list(self.middle),
        }  # fmt: skip

    @classmethod
    def from_json(cls, held: dict[str, Any]) -> Shake:
        x, y, turn = (np.array(held[name], float) for name in ("x_px", "y_px", "turn_rad"))
        return cls(x, y, turn, (held["middle"][0], held["middle"][1]))


class ShakeWatch:
    """Feed every frame with `feed`, then take the shake with `finish`."""

    def __init__(self) -> None:
        self._times: list[float] = []
        self._moves: list[tuple[int, Floats]] = []
        self._still: Luma | None = None
        self._corners: NDArray[np.float32] = np.zeros((0, 1, 2), np.float32)
        self._from_first = np.eye(3)
        self._last: tuple[Luma, Floats] | None = None
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
            self._moves.append((index, np.eye(3)))
            self._next_s = time_s + LOOK_EVERY_S
        elif self._moving or time_s >= self._next_s:
            self._next_s = time_s + LOOK_EVERY_S
            picture = self._shrunk(luma)
            move = self._compared(picture)
            if move is None:
                # The camera has turned away from what it first saw: go on from the last frame that was placed.
                if self._moving and self._last is not None:
                    self._from_first = self._last[1]
                    self._take_still(self._last[0])
                    move = self._compared(picture)
                if move is None:
                    return
            self._moves.append((index, move))
            self._last = (picture, move)
            self._moving = self._moving or bool(np.hypot(*self._middle_moved(move)) > MOVED_PX)

    def finish(self) -> Shake:
        """The shake over all frames; frames that could not be placed are bridged."""
        if not self._moving:
            return Shake.none()
        at = np.array([self._times[index] for index, _ in self._moves])
        told = np.array([[*self._middle_moved(move), np.arctan2(move[1, 0], move[0, 0])] for _, move in self._moves])
        x, y, turn = (np.interp(self._times, at, column) for column in told.T)
        return Shake(x, y, turn, (self._size[0] / 2 - 0.5, self._size[1] / 2 - 0.5))

    def _shrunk(self, luma: Luma) -> Luma:
        if self._small == 1.0:
            return np.ascontiguousarray(luma)
        return np.asarray(cv2.resize(luma, None, fx=self._small, fy=self._small, interpolation=cv2.INTER_AREA), np.uint8)

    def _take_still(self, picture: Luma) -> None:
        found = cv2.goodFeaturesToTrack(picture, CORNERS, 0.01, 0.02 * picture.shape[0])
        self._still, self._corners = picture, np.zeros((0, 1, 2), np.float32) if found is None else found.astype(np.float32)

    def _compared(self, picture: Luma) -> Floats | None:
        """How this picture has moved against the clip's first, `(3, 3)`; None where the room is not to be recognised."""
        assert self._still is not None
        if len(self._corners) < FEWEST_CORNERS:
            return None
        found, seen, _ = cv2.calcOpticalFlowPyrLK(self._still, picture, self._corners, None, winSize=(13, 13), maxLevel=3)
        here = seen.ravel() == 1
        if here.sum() < FEWEST_CORNERS:
            return None
        if not self._moving and np.mean(np.linalg.norm((found - self._corners)[here], axis=-1) < MOVED_PX * self._small) > STAND_STILL:
            return np.eye(3)
        matrix, as_one = cv2.estimateAffinePartial2D(
            self._corners[here], found[here], method=cv2.RANSAC, ransacReprojThreshold=AGREE_PX, maxIters=100
        )
        if matrix is None or as_one.mean() < AS_ONE:
            return None
        # A hand turns and shifts the picture; it does not enlarge it.
        turn = np.arctan2(matrix[1, 0], matrix[0, 0])
        kept = as_one.ravel() == 1
        before, after = (part[here].reshape(-1, 2)[kept].mean(0) for part in (self._corners, found))
        turned = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
        move = np.eye(3)
        move[:2, :2], move[:2, 2] = turned, after - turned @ before
        return np.asarray(move @ self._from_first)

    def _middle_moved(self, move: Floats) -> Floats:
        middle = np.array([self._size[0] / 2 - 0.5, self._size[1] / 2 - 0.5]) * self._small
        return np.asarray((move[:2, :2] @ middle + move[:2, 2] - middle) / self._small)


def _turned(points: Floats, angle: Floats) -> Floats:
    cos, sin = np.cos(angle), np.sin(angle)
    return np.stack([points[..., 0] * cos - points[..., 1] * sin, points[..., 0] * sin + points[..., 1] * cos], axis=-1)
