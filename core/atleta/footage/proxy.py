"""A copy of the clip that browsers can step through exactly: every frame a key frame, upright, true times."""

from __future__ import annotations

import os
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import cv2

from .reader import read_frames

PROXY_CLOCK = Fraction(1, 90_000)
PROXY_LONG_SIDE_PX = 1280


def write_proxy(source: Path, target: Path, on_frame: Callable[[int], None] | None = None) -> list[float]:
    """Write an all-intra H.264 MP4 of `source`; return the presentation time of each of its frames (s).

    One frame in, one frame out, in the same order: frame n of the proxy is frame n of the clip.
    The copy is written beside the target and renamed when whole, so a half-written proxy is never seen.

    Args:
        source: the original clip; it is only read.
        target: where the proxy goes.
        on_frame: called with the number of frames written so far.
    """
    part = target.with_name(f".{target.stem}.{os.getpid()}.part.mp4")
    times: list[float] = []
    with av.open(str(part), "w", options={"movflags": "+faststart"}) as out:
        stream = None
        for frame in read_frames(source):
            picture = frame.bgr()
            height, width = picture.shape[:2]
            shrink = min(1.0, PROXY_LONG_SIDE_PX / max(width, height))
            width, height = (round(side * shrink / 2) * 2 for side in (width, height))
            if stream is None:
                stream = out.add_stream("libx264", rate=30)
                stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
                stream.codec_context.time_base = PROXY_CLOCK
                stream.codec_context.gop_size = 1
                stream.options = {"crf": "23", "preset": "veryfast", "tune": "fastdecode"}
            if picture.shape[:2] != (height, width):
                picture = cv2.resize(picture, (width, height), interpolation=cv2.INTER_AREA)
            coded = av.VideoFrame.from_ndarray(picture, format="bgr24")
            coded.pts = round(frame.time_s / PROXY_CLOCK)
            coded.time_base = PROXY_CLOCK
            times.append(float(coded.pts * PROXY_CLOCK))
            out.mux(stream.encode(coded))
            if on_frame:
                on_frame(frame.index + 1)
        if stream is not None:
            out.mux(stream.encode(None))
    part.replace(target)
    return times
