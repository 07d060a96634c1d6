"""How a camera of known place sees what lies in planes across the bar: the one piece of geometry that disc, bar and body share.

Pixels `u, v` are counted from the picture's middle, seen upright: u in the direction in which yaw is positive, v up. Yaw is how far the
camera stands to that side of square. A phone on the floor looks up, one held high looks down: its horizon is how far above the middle
(rad) the level of the camera lies, and what it sees is first turned into what it would see looking level.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def plane_from_picture(
    u: Floats, v: Floats, depth_m: Floats, yaw: Floats, horizon: Floats, near_m: float, focal_px: Floats
) -> tuple[Floats, Floats]:
    """Where in the plane `near_m` from the lifter's own a pixel lies: metres ahead of the camera's axis, and above its level.

    Args:
        depth_m: from the camera to the lifter's own plane, along its axis.
        yaw, horizon: radians.
    """
    cos, sin = np.cos(yaw), np.sin(yaw)
    away = depth_m - near_m * cos
    x = (u * away + focal_px * near_m * sin) / (focal_px * cos + u * sin)
    return x, (v - focal_px * horizon) * (away - x * sin) / focal_px


def levelled(u: Floats, v: Floats, horizon: Floats, focal_px: Floats) -> tuple[Floats, Floats]:
    """Pixels of a camera that looks down (its `horizon`, rad, above the middle) or up as one that looks level from there shows them."""
    cos, sin = np.cos(horizon), np.sin(horizon)
    along = focal_px * cos + v * sin
    return focal_px * u / along, focal_px * (v * cos - focal_px * sin) / along


@dataclass(frozen=True)
class View:
    """A camera's place against one bar, for a picture whose right is the side to which `yaw` (rad) counts."""

    depth_m: float
    yaw: float
    horizon: float
    near_m: float
    """From the bar's middle to the outer face of the near disc."""
    focal_px: float

    @property
    def face_m(self) -> float:
        """From the camera to the near disc's face, along its level axis."""
        return self.depth_m - self.near_m * float(np.cos(self.yaw))

    @property
    def meeting(self) -> tuple[float, float]:
        """Where all lines along the bar meet in the picture (u, v)."""
        u, v = self.tilted(np.asarray(self.focal_px * np.tan(self.yaw)), np.zeros(()))
        return float(u), float(v)

    def level(self, u: Floats, v: Floats) -> tuple[Floats, Floats]:
        """Pixels as a camera that looks level would show them."""
        return levelled(u, v, np.asarray(self.horizon), np.asarray(self.focal_px))

    def tilted(self, u: Floats, v: Floats) -> tuple[Floats, Floats]:
        """The way back."""
        return levelled(u, v, np.asarray(-self.horizon), np.asarray(self.focal_px))

    def bar_m(self, u: Floats, v: Floats) -> tuple[Floats, Floats]:
        """The bar's middle, from the middle of the near disc's face (levelled): metres to the picture's right, and up."""
        return plane_from_picture(
            u, v, np.asarray(self.depth_m), np.asarray(self.yaw), np.zeros(()), self.near_m, np.asarray(self.focal_px)
        )

    def shape(self, u: Floats, v: Floats) -> Floats:
        """How a small upright square in the disc's plane looks at places of the picture `(n,)`: what a step to the right and one up in
        that plane are in pixels to the right and up, `(n, 2, 2)`, 1 for a disc level with the camera and straight ahead."""
        flat_u, flat_v = self.level(u, v)
        x, _ = self.bar_m(flat_u, flat_v)
        cos, sin = np.cos(self.yaw), np.sin(self.yaw)
        size = self.face_m / (self.face_m - x * sin)
        zero = np.zeros_like(flat_u)
        turned = np.stack([cos + flat_u / self.focal_px * sin, zero, flat_v / self.focal_px * sin, zero + 1.0], axis=-1)
        down = np.cos(self.horizon) - flat_v / self.focal_px * np.sin(self.horizon)
        tilt = np.stack([1 / down, flat_u / self.focal_px * np.sin(self.horizon) / down**2, zero, 1 / down**2], axis=-1)
        return np.asarray(size[:, None, None] * tilt.reshape(-1, 2, 2) @ turned.reshape(-1, 2, 2))
