"""Single pictures out of a clip."""

from __future__ import annotations

from pathlib import Path

import cv2

from .errors import FootageError
from .reader import read_frames


def jpeg_of_frame(path: Path, index: int, *, long_side_px: int = 1280) -> bytes:
    """Frame `index` of a clip as a JPEG no larger than `long_side_px`.

    Raises:
        FootageError: the clip has no such frame.
    """
    frame = next(read_frames(path, index), None)
    if frame is None:
        raise FootageError("no_such_frame", f"The clip has no frame {index}.")
    picture = frame.bgr()
    shrink = min(1.0, long_side_px / max(picture.shape[:2]))
    if shrink < 1.0:
        picture = cv2.resize(picture, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA)
    return bytes(cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, 85])[1])
