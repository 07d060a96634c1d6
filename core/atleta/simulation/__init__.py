"""Simulated lifts filmed by a simulated phone, with the exact truth beside them."""

from .asked import asked_camera, asked_path
from .barpath import BarPath, JerkSpec, PullSpec, clean_spec, jerk_path, pull_path, snatch_spec
from .build import Build
from .camera import Camera
from .film import Shoot, film
from .lifter import Pose, pose_at
from .sensor import Sensor, SensorRecord, record, write_csv
from .sound import hear

__all__ = [
    "BarPath",
    "Build",
    "Camera",
    "JerkSpec",
    "Pose",
    "PullSpec",
    "Sensor",
    "SensorRecord",
    "Shoot",
    "asked_camera",
    "asked_path",
    "clean_spec",
    "film",
    "hear",
    "jerk_path",
    "pose_at",
    "pull_path",
    "record",
    "snatch_spec",
    "write_csv",
]
