"""Clip files: what they hold, their frames with true times, and copies made for playing."""

from .errors import FootageError
from .probe import ClipInfo, content_hash, probe
from .proxy import write_proxy
from .reader import Frame, read_frames
from .still import jpeg_of_frame

__all__ = [
    "ClipInfo",
    "FootageError",
    "Frame",
    "content_hash",
    "jpeg_of_frame",
    "probe",
    "read_frames",
    "write_proxy",
]
