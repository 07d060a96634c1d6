"""Look at a clip file without decoding it all: is it a video we can use, how big, how long."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from pathlib import Path

import av
import av.error

from .errors import FootageError

# What phones and cameras write. A list of files, a picture or a page of text is no clip, and nothing that a file names is opened.
ONLY_CLIPS = {"format_whitelist": "mov,matroska,webm,avi,mpegts,mpeg", "protocol_whitelist": "file"}
MAX_FILE_BYTES = 4 * 1024**3
MAX_SIDE_PX = 8192
MIN_SIDE_PX = 96
MAX_DURATION_S = 1800.0
# A container may promise a little more than its last packet holds; more than this is a file that breaks off.
MISSING_TAIL_S = 0.5
# No camera makes pixels further from square than this; what a file says beyond it, or hardly off it, is not meant.
WIDEST_PIXEL, HARDLY_OFF = 2.5, 0.005


@dataclass(frozen=True)
class ClipInfo:
    """A clip as its file describes it. Sides are as displayed: pixels as wide as high, after the rotation flag."""

    width_px: int
    height_px: int
    rotation_deg: int
    duration_s: float
    packet_count: int
    nominal_rate_hz: float
    codec: str


def content_hash(path: Path) -> str:
    """SHA-256 of the file's bytes, hexadecimal: the address under which the original is kept."""
    with path.open("rb") as handle:
        return hashlib.file_digest(handle, "sha256").hexdigest()


def open_video(path: Path) -> tuple[av.container.InputContainer, av.VideoStream]:
    """Open a clip for reading; the caller closes the container.

    Raises:
        FootageError: no such file, empty, not a video, or no video stream in it.
    """
    if not path.is_file():
        raise FootageError("no_file", f"There is no file named {path.name}.")
    size = path.stat().st_size
    if size == 0:
        raise FootageError("empty_file", "The file is empty. Send the clip again.")
    if size > MAX_FILE_BYTES:
        raise FootageError("too_big", f"The file is {size / 1024**3:.1f} GB; the limit is 4 GB. Trim the clip to the lift.")
    try:
        container = av.open(str(path), metadata_errors="ignore", options=ONLY_CLIPS)
    except av.error.FFmpegError as error:
        raise FootageError(
            "not_a_video",
            "This file cannot be read as a video. It may be cut off, or not be a video at all. "
            "Send the original mp4, mov or webm from the phone.",
        ) from error
    streams = [stream for stream in container.streams.video if not stream.disposition & av.stream.Disposition.attached_pic]
    if not streams:
        container.close()
        raise FootageError("no_video_stream", "There is sound in this file but no picture. Send the video of the lift.")
    return container, streams[0]


def probe(path: Path) -> ClipInfo:
    """Describe a clip, reading its packets but decoding only one frame.

    Raises:
        FootageError: for every reason a clip cannot be analysed, each with its own code and sentence.
    """
    container, stream = open_video(path)
    with container:
        first = next(_decoded(container, stream), None)
        if first is None:
            raise FootageError("no_frames", "The file holds no picture that can be decoded. Send the clip again.")
        rotation = round(first.rotation) % 360
        width, height = _displayed(*square(first.width, first.height, pixel_shape(stream)), rotation)
        if max(width, height) > MAX_SIDE_PX:
            raise FootageError("too_large", f"The picture is {width}×{height} pixels; at most {MAX_SIDE_PX} a side can be used.")
        if min(width, height) < MIN_SIDE_PX:
            raise FootageError("too_small", f"The picture is only {width}×{height} pixels; too small to measure anything.")

        try:
            container.seek(0)
            times = sorted(p.pts * p.time_base for p in container.demux(stream) if p.pts is not None)
        except av.error.FFmpegError as error:
            raise FootageError(
                "broken", "The file's own list of its pictures is damaged, so they cannot be read. Send it again from the phone."
            ) from error
        if not times:
            raise FootageError("no_frames", "The file holds no picture that can be decoded. Send the clip again.")
        first_s, last_s = float(times[0]), float(times[-1])
        step = float((times[-1] - times[0]) / (len(times) - 1)) if len(times) > 1 else 1 / 30
        if step <= 0:
            raise FootageError("no_times", "The file does not say when its pictures were taken. Send the original from the phone.")
        duration = last_s - first_s + step
        if duration > MAX_DURATION_S:
            raise FootageError("too_long", f"The clip runs {duration / 60:.0f} minutes; at most 30 can be used. Trim it to the lifts.")

        promised = float(stream.duration * stream.time_base) if stream.duration else 0.0
        if not promised and container.duration:
            promised = container.duration / 1_000_000
        if promised - duration > max(MISSING_TAIL_S, 2 * step) or (stream.frames and len(times) < 0.95 * stream.frames):
            raise FootageError(
                "truncated",
                f"The file breaks off: it promises {promised:.1f} s and holds {duration:.1f} s. Send it again from the phone.",
            )
        return ClipInfo(
            width_px=width,
            height_px=height,
            rotation_deg=rotation,
            duration_s=duration,
            packet_count=len(times),
            nominal_rate_hz=1 / step,
            codec=stream.codec_context.name,
        )


def pixel_shape(stream: av.VideoStream) -> float:
    """How many times as wide as high a pixel is shown, as the file says."""
    said = float(stream.sample_aspect_ratio or 1)
    meant = 1 / WIDEST_PIXEL < said < WIDEST_PIXEL and abs(said - 1) > HARDLY_OFF
    return said if meant else 1.0


def square(width: int, height: int, shape: float) -> tuple[int, int]:
    """The size of a stored picture once its pixels are as wide as high; no side becomes smaller."""
    if shape > 1:
        return round(width * shape / 2) * 2, height
    return (width, round(height / shape / 2) * 2) if shape < 1 else (width, height)


def _decoded(container: av.container.InputContainer, stream: av.VideoStream):  # type: ignore[no-untyped-def]
    try:
        yield from container.decode(stream)
    except av.error.FFmpegError:
        return


def _displayed(width: int, height: int, rotation_deg: int) -> tuple[int, int]:
    return (height, width) if rotation_deg in (90, 270) else (width, height)
