"""From pixels to metres and seconds: scale, plumb, filtering, derivatives."""

from .between import between_frames
from .body import JOINTS, Carried, JointPoint, JointTracks, begins_above_m, facing_from_people, joint_tracks
from .braking import Brake, brake
from .calibration import Calibration, Scale, facing_from_motion, scale_from_disc
from .fall import lean_of_fall, slowed_by
from .filters import chosen_cutoff_hz, derivatives, fill_short_gaps
from .front import FrontMotion, bar_from_front, front_motion, joints_from_front, scale_from_front
from .kinematics import BarMotion, BarTrack, bar_motions, bar_tracks
from .lifter import BodyMotion, body_motion

__all__ = [
    "JOINTS",
    "BarMotion",
    "BarTrack",
    "BodyMotion",
    "Brake",
    "Calibration",
    "Carried",
    "FrontMotion",
    "JointPoint",
    "JointTracks",
    "Scale",
    "bar_from_front",
    "bar_motions",
    "bar_tracks",
    "begins_above_m",
    "between_frames",
    "body_motion",
    "brake",
    "chosen_cutoff_hz",
    "derivatives",
    "facing_from_motion",
    "facing_from_people",
    "fill_short_gaps",
    "front_motion",
    "joint_tracks",
    "joints_from_front",
    "lean_of_fall",
    "scale_from_disc",
    "scale_from_front",
    "slowed_by",
]
