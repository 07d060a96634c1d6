"""A pinhole camera beside the platform."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Camera:
    """Where the simulated phone stands. Yaw 0 is square from the side; positive yaw looks a little at the athlete's front."""

    width_px: int = 1280
    height_px: int = 720
    fps: float = 60.0
    distance_m: float = 5.0
    height_m: float = 0.95
    aim_height_m: float = 1.05
    aim_x_m: float = 0.0
    cover_m: float = 2.55
    """Height of the picture at the athlete."""
    yaw_deg: float = 0.0
    roll_deg: float = 0.0
    facing: str = "right"
    exposure_share: float = 0.3
    """Part of the frame interval during which the shutter is open."""
    noise: float = 2.0
    jitter: float = 0.0
    """Spread of the frame interval (variable frame rate), share of the interval."""

    @property
    def focal_px(self) -> float:
        return self.height_px * self.distance_m / self.cover_m

    def project(self, points_m: NDArray[np.float64]) -> NDArray[np.float64]:
        """World points `(n, 3)` (x forward, y up, z towards the camera, metres) to pixels `(n, 2)`."""
        yaw, roll = np.radians(self.yaw_deg), np.radians(self.roll_deg)
        world = np.atleast_2d(points_m).astype(float)
        eye = np.array([self.distance_m * np.sin(yaw) + self.aim_x_m, self.height_m, self.distance_m * np.cos(yaw)])
        target = np.array([self.aim_x_m, self.aim_height_m, 0.0])
        ahead = (target - eye) / np.linalg.norm(target - eye)
        right = np.cross(ahead, [0.0, 1.0, 0.0])
        right /= np.linalg.norm(right)
        up = np.cross(right, ahead)
        seen = world - eye
        depth = seen @ ahead
        x, y = self.focal_px * (seen @ right) / depth, -self.focal_px * (seen @ up) / depth
        if self.facing == "left":
            x = -x
        turned = np.stack([x * np.cos(roll) - y * np.sin(roll), x * np.sin(roll) + y * np.cos(roll)], axis=-1)
        return np.asarray(turned + [self.width_px / 2 - 0.5, self.height_px / 2 - 0.5])

    def scale_at(self, point_m: NDArray[np.float64]) -> float:
        """Pixels per metre of a vertical length at a point."""
        above = np.asarray(point_m, float) + [0, 0.05, 0]
        below = np.asarray(point_m, float) - [0, 0.05, 0]
        return float(np.linalg.norm(np.diff(self.project(np.stack([below, above])), axis=0)) / 0.1)
