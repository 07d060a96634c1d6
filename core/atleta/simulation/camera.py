"""A simulated phone beside the platform."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Camera:
    """Where the simulated phone stands and how it takes the clip. Yaw 0 is square from the side; positive yaw looks a little at the
    athlete's front."""

    width_px: int = 1280
    height_px: int = 720
    fps: float = 60.0
    distance_m: float = 5.0
    height_m: float = 0.95
    aim_height_m: float = 1.05
    aim_x_m: float = 0.0
    cover_m: float = 2.55
    """Height of the picture at the athlete: with the distance it settles the focal length."""
    yaw_deg: float = 0.0
    roll_deg: float = 0.0
    facing: str = "right"
    exposure_share: float = 0.3
    """Part of the frame interval during which the shutter is open."""
    noise: float = 2.0
    light: float = 1.0
    """Brightness against a well-lit room."""
    soft_px: float = 0.6
    """Blur of the lens, one standard deviation."""
    jitter: float = 0.0
    """Spread of the frame interval (variable frame rate), share of the interval."""
    shake_px: float = 0.0
    """How far a hand that holds the phone wanders, one standard deviation."""
    file_fps: float = 0.0
    """Rate at which a slow-motion file plays what was taken at `fps`; zero plays it as it was."""
    turned_deg: int = 0
    """How far the picture is stored turned, with the flag that says so (0, 90, 180, 270)."""
    shift_px: tuple[float, float] = (0.0, 0.0)
    """Where a shaking hand has moved the picture."""

    @property
    def focal_px(self) -> float:
        return self.height_px * self.distance_m / self.cover_m

    @property
    def eye_m(self) -> Floats:
        yaw = np.radians(self.yaw_deg)
        return np.array([self.distance_m * np.sin(yaw) + self.aim_x_m, self.height_m, self.distance_m * np.cos(yaw)])

    def axes(self) -> Floats:
        """Rows: right, up, ahead of the camera in the world."""
        return _axes(self)

    def see(self, points_m: Floats) -> tuple[Floats, Floats]:
        """World points `(n, 3)` (x forward, y up, z towards the camera, metres) as pixels `(n, 2)` and distance along the view (m)."""
        seen = (np.atleast_2d(points_m).astype(float) - self.eye_m) @ self.axes().T
        depth = seen[:, 2]
        x, y = self.focal_px * seen[:, 0] / depth, -self.focal_px * seen[:, 1] / depth
        if self.facing == "left":
            x = -x
        roll = np.radians(self.roll_deg)
        turned = np.stack([x * np.cos(roll) - y * np.sin(roll), x * np.sin(roll) + y * np.cos(roll)], axis=-1)
        return turned + self.middle_px, depth

    @property
    def middle_px(self) -> Floats:
        return np.array([self.width_px / 2 - 0.5, self.height_px / 2 - 0.5]) + self.shift_px

    def project(self, points_m: Floats) -> Floats:
        """World points `(n, 3)` to pixels `(n, 2)`."""
        return self.see(points_m)[0]

    def shaken(self, x_px: float, y_px: float, roll_deg: float) -> Camera:
        """The camera a hand has moved by so much."""
        return replace(self, shift_px=(x_px, y_px), roll_deg=self.roll_deg + roll_deg)

    def scale_at(self, point_m: Floats) -> float:
        """Pixels per metre of a vertical length at a point."""
        above = np.asarray(point_m, float) + [0, 0.05, 0]
        below = np.asarray(point_m, float) - [0, 0.05, 0]
        return float(np.linalg.norm(np.diff(self.project(np.stack([below, above])), axis=0)) / 0.1)


@lru_cache(maxsize=64)
def _axes(camera: Camera) -> Floats:
    ahead = np.array([camera.aim_x_m, camera.aim_height_m, 0.0]) - camera.eye_m
    ahead = ahead / np.linalg.norm(ahead)
    right = np.cross(ahead, [0.0, 1.0, 0.0])
    right /= np.linalg.norm(right)
    return np.stack([right, np.cross(right, ahead), ahead])
