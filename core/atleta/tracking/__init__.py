"""Find the discs in a clip, follow each to a fraction of a pixel, and tell which one is lifted."""

from .back import followed_back
from .choose import choose_lifted
from .corrections import PointCorrection, apply_corrections, without
from .face import FaceWatch
from .front import look_from_front, perhaps_from_front
from .front_track import FrontTrack
from .lens import View
from .people import follow_lifter
from .pose_track import Box, PoseTrack
from .repeats import as_taken
from .rim import Rim, fit_rim
from .shake import Shake, ShakeWatch
from .stack import near_face
from .track import TRACKS_VERSION, DiscTrack, RawTracks, Tracklet
from .tracker import DiscTracker
from .uprights import Uprights, edges, find_uprights

__all__ = [
    "TRACKS_VERSION",
    "Box",
    "DiscTrack",
    "DiscTracker",
    "FaceWatch",
    "FrontTrack",
    "PointCorrection",
    "PoseTrack",
    "RawTracks",
    "Rim",
    "Shake",
    "ShakeWatch",
    "Tracklet",
    "Uprights",
    "View",
    "apply_corrections",
    "as_taken",
    "choose_lifted",
    "edges",
    "find_uprights",
    "fit_rim",
    "follow_lifter",
    "followed_back",
    "look_from_front",
    "near_face",
    "perhaps_from_front",
    "without",
]
