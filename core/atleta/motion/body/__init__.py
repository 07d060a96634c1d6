"""The lifter's body in metres, with what is not known about it."""

from .fit import fit_body
from .scene import Body, Observed
from .sight import JOINTS, Carried, JointPoint, JointTracks, begins_above_m, confidence, facing_from_people, joint_tracks

__all__ = [
    "JOINTS",
    "Body",
    "Carried",
    "JointPoint",
    "JointTracks",
    "Observed",
    "begins_above_m",
    "confidence",
    "facing_from_people",
    "fit_body",
    "joint_tracks",
]
