"""What else may be in a picture: backgrounds that are no room, and things that stand before the lifter."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.float32]


def clutter(side: int, rng: np.random.Generator) -> Picture:
    """A background `(side, side, 3)`, 0 to 1: blurred noise of several sizes, with boxes, discs and lines in it."""
    made = np.zeros((side, side, 3), np.float32) + rng.uniform(0.05, 0.9, 3).astype(np.float32)
    for cells in (3, 9, 31, 97):
        noise = cv2.resize(rng.normal(0, 1, (cells, cells, 3)).astype(np.float32), (side, side), interpolation=cv2.INTER_CUBIC)
        grey = noise.mean(2, keepdims=True)
        made += np.float32(rng.uniform(0, 0.25)) * (grey + np.float32(rng.uniform(0, 0.7)) * (noise - grey))
    for _ in range(int(rng.integers(0, 45))):
        colour = tuple(float(part) for part in np.clip(rng.uniform(0, 1) + rng.normal(0, 0.2, 3), 0, 1))
        x, y = (int(at) for at in rng.uniform(-0.1, 1.1, 2) * side)
        size = int(side * rng.uniform(0.02, 0.3))
        kind, line = rng.integers(4), int(rng.choice([-1, rng.integers(1, 14)]))
        if kind == 0:
            cv2.rectangle(made, (x, y), (x + size, y + int(size * rng.uniform(0.2, 4))), colour, line)
        elif kind == 1:
            cv2.circle(made, (x, y), size, colour, line)
        elif kind == 2:
            cv2.line(made, (x, y), (int(rng.uniform(0, side)), int(rng.uniform(0, side))), colour, max(line, 2))
        else:
            cv2.fillPoly(made, [(np.array([x, y]) + rng.normal(0, size, (5, 2))).astype(np.int32)], colour)
    return np.clip(cv2.GaussianBlur(made, (0, 0), float(rng.uniform(0.5, 8))), 0, 1)


def occluder(side: int, rng: np.random.Generator) -> tuple[Picture, NDArray[np.bool_]]:
    """Something before the lifter: a post, a rail or the edge of a box; its look `(side, side, 3)` and where it is."""
    covered = np.zeros((side, side), np.uint8)
    wide, at = int(side * rng.uniform(0.015, 0.12)), int(side * rng.uniform(0, 1))
    lean = int(side * rng.normal(0, 0.03))
    ends = ((at, -9), (at + lean, side + 9)) if rng.uniform() < 0.5 else ((-9, at), (side + 9, at + lean))
    cv2.line(covered, *ends, 1, max(wide, 2))
    shade = np.linspace(rng.uniform(0.5, 1), rng.uniform(0.5, 1), side, dtype=np.float32)[:, None, None]
    return np.clip(np.broadcast_to(rng.uniform(0, 0.9, 3).astype(np.float32) * shade, (side, side, 3)), 0, 1), covered.astype(bool)
