"""How a camera of known place sees what lies in planes across the bar: the one piece of geometry that disc, bar and body share.

Pixels `u, v` are counted from the picture's middle, seen upright: u in the direction in which yaw is positive, v up. Yaw is how far the
camera stands to that side of square, the horizon how far above the middle the level of the camera lies.
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
        """From the camera to the near disc's face, along its axis."""
        return self.depth_m - self.near_m * float(np.cos(self.yaw))

    @property
    def meeting(self) -> tuple[float, float]:
        """Where all lines along the bar meet in the picture (u, v)."""
        return self.focal_px * float(np.tan(self.yaw)), self.focal_px * self.horizon

    def bar_m(self, u: Floats, v: Floats) -> tuple[Floats, Floats]:
        """The bar's middle, from the middle of the near disc's face: metres to the picture's right, and up."""
        yaw, horizon = np.asarray(self.yaw), np.asarray(self.horizon)
        return plane_from_picture(u, v, np.asarray(self.depth_m), yaw, horizon, self.near_m, np.asarray(self.focal_px))
