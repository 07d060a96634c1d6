r"""Gravity's direction in the picture, from what stands upright in the room: racks, door frames, edges of walls.

\   |   /      Seen by a camera that looks a little down, upright edges fan out: one at `x` from the picture's middle
 \  |  /       leans by `roll - fan * x`. The two are found by a vote of all edges, so that a limb, a bar or a leaning
  \ | /        ladder changes nothing as long as the room has a few real uprights.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from .rim import Luma

Floats = NDArray[np.float64]

# Edges shorter than this share of the picture's height, or leaning more, are left out.
SHORTEST, STEEPEST_DEG = 0.06, 12.0
# The picture is searched at about this height.
SEARCH_PX = 720
FAN_DEG = 14.0
"""Most that an edge one picture height aside can lean more than one in the middle: a wide lens that looks 12° down."""
AGREE_DEG = 0.35
# What counts as a room with uprights: edges of so many picture heights in all, at so many places, and none of another lean as strong.
ENOUGH_HEIGHTS, ENOUGH_PLACES, RIVAL = 0.4, 3, 0.5
OWN_SD_DEG = 0.12
"""What is built upright stands so."""


@dataclass(frozen=True)
class Uprights:
    """How upright edges lean: `roll_deg` in the picture's middle, clockwise as seen from top to bottom is negative; `fan_deg` less for each
    picture height to the right; one standard deviation of the roll."""

    roll_deg: float
    fan_deg: float
    sd_deg: float

    def lean_at(self, x_px: float, width_px: int, height_px: int) -> float:
        """Lean of an upright edge at a place in the picture, degrees."""
        return self.roll_deg - self.fan_deg * (x_px - width_px / 2) / height_px


def edges(luma: Luma) -> Floats:
    """Edges near the vertical: `(edges, 3)` lean (degrees), place (picture heights right of the middle), length (picture heights)."""
    height, width = luma.shape
    small = min(1.0, SEARCH_PX / height)
    picture = cv2.resize(luma, None, fx=small, fy=small, interpolation=cv2.INTER_AREA) if small < 1 else np.ascontiguousarray(luma)
    found = cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD).detect(picture)[0]
    if found is None:
        return np.zeros((0, 3))
    x0, y0, x1, y1 = found.reshape(-1, 4).astype(float).T / picture.shape[0]
    across, down = (x1 - x0) * np.sign(y1 - y0), np.abs(y1 - y0)
    lean = np.degrees(np.arctan2(-across, down))
    length = np.hypot(across, down)
    place = (x0 + x1) / 2 - width / height / 2
    kept = (length > SHORTEST) & (np.abs(lean) < STEEPEST_DEG)
    return np.asarray(np.stack([lean, place, length], axis=1)[kept])


def find_uprights(frames: Sequence[Floats]) -> Uprights | None:
    """The lean that most edges of a few frames (as `edges` gives them) share, or None where the room shows too few."""
    held = [found for found in frames if len(found)]
    if not held:
        return None
    lean, place, length = np.concatenate(held).T
    length = length / len(frames)
    rolls, fans = np.arange(-STEEPEST_DEG, STEEPEST_DEG + 0.01, 0.1), np.arange(-FAN_DEG, FAN_DEG + 0.01, 0.5)
    off = lean - rolls[:, None, None] + fans[:, None] * place
    votes = (length * np.exp(-0.5 * (off / AGREE_DEG) ** 2)).sum(-1)
    at_roll, at_fan = np.unravel_index(int(votes.argmax()), votes.shape)
    roll, fan = float(rolls[at_roll]), float(fans[at_fan])
    for _ in range(6):
        weight = length * np.exp(-0.5 * ((lean - roll + fan * place) / AGREE_DEG) ** 2)
        rows = np.stack([np.ones_like(place), -place], axis=1)
        # A fan is believed only as far as edges at different places show it.
        normal = rows.T @ (weight[:, None] * rows) + np.diag([0.0, 0.01])
        roll, fan = (float(value) for value in np.linalg.solve(normal, rows.T @ (weight * lean)))
    agreeing = np.abs(lean - roll + fan * place) < 2 * AGREE_DEG
    rival = (length * ~agreeing * np.exp(-0.5 * (off / AGREE_DEG) ** 2)).sum(-1).max()
    places = len(np.unique(np.round(place[agreeing] / 0.04)))
    if weight.sum() < ENOUGH_HEIGHTS or places < ENOUGH_PLACES or rival > RIVAL * weight.sum():
        return None
    spread = float(np.sqrt(np.average((lean - roll + fan * place)[agreeing] ** 2, weights=length[agreeing])))
    return Uprights(roll, fan, float(np.hypot(spread / np.sqrt(places), OWN_SD_DEG)))
