"""The front door: a clip, or tracks already taken from one, in; the analysis document out.

`track_clip` decodes and follows discs once. `build_document` derives everything else and is what runs again after a correction:
it never opens the video.
"""

from .build import BodyStore, Progress, build_document, judged_again, nothing_told
from .clip import analyse, look_at_lifter, track_clip
from .findings import fault_as_data, spoken
from .ready import make_ready
from .settings import EventPoint, Settings

__all__ = [
    "BodyStore",
    "EventPoint",
    "Progress",
    "Settings",
    "analyse",
    "build_document",
    "fault_as_data",
    "judged_again",
    "look_at_lifter",
    "make_ready",
    "nothing_told",
    "spoken",
    "track_clip",
]
