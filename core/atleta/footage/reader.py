"""Stream the frames of a clip, upright, each with its true presentation time."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import av
import av.error
import av.filter
import cv2
import numpy as np
from numpy.typing import NDArray

from .errors import FootageError
from .probe import open_video, pixel_shape, square

# PyAV's rotation is counter-clockwise; OpenCV's codes name what must be done to the stored picture.
_UPRIGHT = {90: cv2.ROTATE_90_COUNTERCLOCKWISE, 180: cv2.ROTATE_180, 270: cv2.ROTATE_90_CLOCKWISE}


@dataclass(frozen=True)
class Frame:
    """One decoded frame. `time_s` counts from the first frame of the clip, in steps of `tick_s`."""

    index: int
    time_s: float
    tick_s: float
    rotation_deg: int
    source: av.VideoFrame

    def luma(self) -> NDArray[np.uint8]:
        """Brightness, `(height, width)`, upright. Uses the decoder's own plane where it has one: no conversion."""
        frame = self.source
        if frame.format.name in {"yuv420p", "yuvj420p", "nv12", "yuv422p", "yuvj422p", "yuv444p", "yuvj444p", "gray"}:
            plane = frame.planes[0]
            rows = np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)
            picture = rows[: frame.height, : frame.width]
        else:
            picture = frame.to_ndarray(format="gray")
        return self._upright(picture)

    def chroma(self) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
        """The two colour planes about 128, `(height / 2, width / 2)` each, upright."""
        frame = self.source if self.source.format.name in {"yuv420p", "yuvj420p"} else self.source.reformat(format="yuv420p")
        width, height = (frame.width + 1) // 2, (frame.height + 1) // 2
        parts = (np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)[:height, :width] for plane in frame.planes[1:3])
        u, v = (self._upright(part) for part in parts)
        return u, v

    def bgr(self) -> NDArray[np.uint8]:
        """Colour in OpenCV's order, `(height, width, 3)`, upright."""
        return self._upright(self.source.to_ndarray(format="bgr24"))

    def _upright(self, picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
        if self.rotation_deg not in _UPRIGHT:
            return picture
        return np.asarray(cv2.rotate(np.ascontiguousarray(picture), _UPRIGHT[self.rotation_deg]), dtype=np.uint8)


def read_frames(path: Path, first: int = 0) -> Iterator[Frame]:
    """Decode a clip from its first frame to the last, or from frame `first` on, one at a time; memory does not grow with its length. In
    the copy for stepping, whose every frame is a key frame, `first` is found at once; elsewhere what is before it is decoded and left out.

    Frames come in presentation order with the file's own timestamps (phones record at a variable rate), their pixels as wide as high.
    A frame without a timestamp, or with one that does not advance, is dropped: it has no place on the clock. Of a frame whose every second
    line was taken a moment later, the lines of the first moment count.

    Raises:
        FootageError: the file cannot be opened, or stops decoding part-way.
    """
    container, stream = open_video(path)
    stream.thread_type = "AUTO"
    shape = pixel_shape(stream)
    first_s: float | None = None
    last_s = -1.0
    index = 0
    with container:
        if first and (begins := _sought(container, stream, first)) is not None:
            index, first_s = first, begins
        try:
            for frame in _whole(container.decode(stream), stream):
                if frame.pts is None:
                    continue
                stamp = float(frame.pts * frame.time_base)
                first_s = stamp if first_s is None else first_s
                time_s = stamp - first_s
                if time_s <= last_s:
                    continue
                last_s = time_s
                tick_s, rotation_deg = float(frame.time_base), round(frame.rotation) % 360
                if shape != 1.0:
                    width, height = square(frame.width, frame.height, shape)
                    frame = frame.reformat(width=width, height=height)
                if index >= first:
                    yield Frame(index, time_s, tick_s, rotation_deg, frame)
                index += 1
        except av.error.FFmpegError as error:
            raise FootageError(
                "broken", f"The file stops decoding after {max(last_s, 0.0):.1f} s. Send it again from the phone."
            ) from error
    if index == 0:
        raise FootageError("no_frames", "The file holds no picture that can be decoded. Send the clip again.")


def _sought(container: av.container.InputContainer, stream: av.VideoStream, index: int) -> float | None:
    """Go to a frame of a file whose every frame is a key frame with a time after the one before; gives the first frame's time, s. Nowhere,
    and None, in any other file: there the number of a frame is known by counting alone."""
    rows = list(stream.index_entries)
    stamps = [row.timestamp for row in rows]
    if index >= len(rows) or stream.time_base is None or not all(row.is_keyframe for row in rows) or stamps != sorted(set(stamps)):
        return None
    container.seek(stamps[index], stream=stream)
    return float(stamps[0] * stream.time_base)


def _whole(frames: Iterator[av.VideoFrame], stream: av.VideoStream) -> Iterator[av.VideoFrame]:
    """The frames, those that are made of two moments (interlaced) as the first of these; what its lines leave out is filled in from the
    frames around it."""
    apart: av.filter.Graph | None = None
    for frame in frames:
        if apart is None and frame.interlaced_frame:
            apart = av.filter.Graph()
            apart.link_nodes(
                apart.add_buffer(template=stream), apart.add("bwdif", "mode=send_frame:deint=interlaced"), apart.add("buffersink")
            )
            apart.configure()
        if apart is None:
            yield frame
        else:
            apart.push(frame)
            yield from _ready(apart)
    if apart is not None:
        apart.push(None)
        yield from _ready(apart)


def _ready(graph: av.filter.Graph) -> Iterator[av.VideoFrame]:
    while True:
        try:
            yield graph.vpull()
        except (av.error.BlockingIOError, av.error.EOFError):
            return
