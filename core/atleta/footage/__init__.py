"""Clip files: what they hold, their frames with true times, and copies made for playing."""

from .clock import unrounded
from .errors import FootageError
from .probe import ClipInfo, content_hash, probe
from .proxy import write_proxy
from .reader import Frame, read_frames
from .sound import Clicks, as_voice, clicks_in, clicks_of, clip_sound, loudness
from .still import jpeg_of_frame

__all__ = [
    "Clicks",
    "ClipInfo",
    "FootageError",
    "Frame",
    "as_voice",
    "clicks_in",
    "clicks_of",
    "clip_sound",
    "content_hash",
    "jpeg_of_frame",
    "loudness",
    "probe",
    "read_frames",
    "unrounded",
    "write_proxy",
]
