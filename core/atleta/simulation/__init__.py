"""Simulated lifts filmed by a simulated phone, with the exact truth beside them."""

from .asked import Wanted, asked_camera, asked_set
from .barpath import BarPath, JerkSpec, PullSpec
from .build import Build
from .camera import Camera
from .film import Frames, Shoot, film, frames_of, truth_of
from .look import DiscLook, Gym, Look, Outfit
from .recipe import read_recipe
from .reference import build_like, performed, reference_for, reference_lift
from .script import Performance
from .sensor import Sensor, SensorRecord, record, write_csv
from .sets import LIFTS, Asked, play
from .sound import hear
from .truth import LiftTruth, truths
from .verdict import verdicts

__all__ = [
    "LIFTS",
    "Asked",
    "BarPath",
    "Build",
    "Camera",
    "DiscLook",
    "Frames",
    "Gym",
    "JerkSpec",
    "LiftTruth",
    "Look",
    "Outfit",
    "Performance",
    "PullSpec",
    "Sensor",
    "SensorRecord",
    "Shoot",
    "Wanted",
    "asked_camera",
    "asked_set",
    "build_like",
    "film",
    "frames_of",
    "hear",
    "performed",
    "play",
    "read_recipe",
    "record",
    "reference_for",
    "reference_lift",
    "truth_of",
    "truths",
    "verdicts",
    "write_csv",
]
