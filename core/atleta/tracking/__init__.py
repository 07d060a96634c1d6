"""Find the discs in a clip, follow each to a fraction of a pixel, and tell which one is lifted."""

from .choose import choose_lifted
from .corrections import PointCorrection, apply_corrections, without
from .people import follow_lifter
from .pose_track import PoseTrack
from .rim import Rim, fit_rim
from .scout import find_discs
from .track import DiscTrack, RawTracks, Tracklet
from .tracker import DiscTracker

__all__ = [
    "DiscTrack",
    "DiscTracker",
    "PointCorrection",
    "PoseTrack",
    "RawTracks",
    "Rim",
    "Tracklet",
    "apply_corrections",
    "choose_lifted",
    "find_discs",
    "fit_rim",
    "follow_lifter",
    "without",
]
