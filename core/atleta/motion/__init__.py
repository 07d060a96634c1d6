"""From pixels to metres and seconds: scale, plumb, filtering, derivatives."""

from .calibration import Calibration, Scale, facing_from_motion, scale_from_disc
from .filters import chosen_cutoff_hz, derivatives, fill_short_gaps
from .kinematics import BarMotion, BarTrack, bar_motion, bar_motions, bar_track

__all__ = [
    "BarMotion",
    "BarTrack",
    "Calibration",
    "Scale",
    "bar_motion",
    "bar_motions",
    "bar_track",
    "chosen_cutoff_hz",
    "derivatives",
    "facing_from_motion",
    "fill_short_gaps",
    "scale_from_disc",
]
