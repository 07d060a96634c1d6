"""Clip files: what they hold, their frames with true times, and copies made for playing."""

from .errors import FootageError
from .probe import ClipInfo, content_hash, probe
from .proxy import write_proxy
from .reader import Frame, read_frames
from .sound import as_voice, clip_sound, loudness
from .still import jpeg_of_frame

__all__ = [
    "ClipInfo",
    "FootageError",
    "Frame",
    "as_voice",
    "clip_sound",
    "content_hash",
    "jpeg_of_frame",
    "loudness",
    "probe",
    "read_frames",
    "write_proxy",
]
