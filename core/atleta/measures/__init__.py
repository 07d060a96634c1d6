"""What a coach judges by eye, as numbers. Adding one is one function with its declaration, in the file of what it reads: the bar alone,
the lifter's joints in a pull, a jerk or a squat, the way by the belt and the press, a hold, or what shows from the front."""

from . import axle, bar, catch, front, hold, jerk, posture, pull, squat  # noqa: F401  (each registers its measures)
from .posture import drawn_relations
from .pull import own_start
from .registry import Declaration, LiftData, Value, declarations, measure_lift
from .start import Start

__all__ = ["Declaration", "LiftData", "Start", "Value", "declarations", "drawn_relations", "measure_lift", "own_start"]
