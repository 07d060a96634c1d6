"""Simulated lifts filmed by a simulated phone, with the exact truth beside them."""

from .barpath import BarPath, JerkSpec, PullSpec, clean_spec, jerk_path, pull_path, snatch_spec
from .build import Build
from .camera import Camera
from .film import Shoot, film
from .lifter import Pose, pose_at

__all__ = [
    "BarPath",
    "Build",
    "Camera",
    "JerkSpec",
    "Pose",
    "PullSpec",
    "Shoot",
    "clean_spec",
    "film",
    "jerk_path",
    "pose_at",
    "pull_path",
    "snatch_spec",
]
