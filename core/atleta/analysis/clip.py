"""From a clip file to raw tracks and on to the document; what opens the video is here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from ..document import Document
from ..footage import Clicks, ClipInfo, FootageError, clicks_of, content_hash, probe, read_frames, unrounded
from ..tracking import (
    Box,
    DiscTracker,
    FaceWatch,
    RawTracks,
    ShakeWatch,
    choose_lifted,
    edges,
    find_uprights,
    follow_lifter,
    followed_back,
    look_from_front,
    perhaps_from_front,
)
from .build import build_document
from .settings import Settings

# What part of tracking's time goes into the discs.
DISCS_SHARE = 0.4
# Where in a clip upright edges are looked for, and people who face the camera.
EDGES_AT = (0.02, 0.5, 0.9)
# How large stills are in which people are looked for.
STILL_PX = 1280
Picture = NDArray[np.uint8]


def analyse(path: Path, settings: Settings, on_progress: Callable[[float], None] | None = None) -> Document:
    """Analyse a clip file from beginning to end.

    Raises:
        FootageError: the file cannot be used; the message says why.
        ValueError: the settings do not make sense.
    """
    info = probe(path)
    raw = track_clip(path, info, on_progress)
    return build_document(raw, info, content_hash(path), settings)


def track_clip(path: Path, info: ClipInfo, on_progress: Callable[[float], None] | None = None, lifter: Box | None = None) -> RawTracks:
    """Decode a clip, follow its discs, and look at the lifter where one is lifted; `on_progress` gets the share done, 0 to 1."""
    _alone()
    tracker, shake, upright, pictures = DiscTracker(), ShakeWatch(), [], list[Picture]()
    tick_s = 0.0
    stills = {round(share * info.packet_count) for share in EDGES_AT}
    for frame in read_frames(path):
        luma, tick_s = frame.luma(), frame.tick_s
        tracker.feed(frame.index, frame.time_s, luma, frame.chroma)
        shake.feed(frame.time_s, luma)
        if frame.index in stills:
            upright.append(edges(luma))
            pictures.append(_small(frame.bgr()))
        if on_progress and frame.index % 10 == 0:
            on_progress(DISCS_SHARE * min((frame.index + 1) / max(info.packet_count, 1), 1.0))
    raw = tracker.finish()
    time_s = unrounded(raw.frame_time_s, tick_s)
    raw = replace(raw, frame_time_s=time_s, shake=shake.finish(), uprights=find_uprights(upright), clicks=_clicks(path))

    def looked(share: float) -> None:
        if on_progress:
            on_progress(DISCS_SHARE + (1 - DISCS_SHARE) * share)

    if perhaps_from_front(pictures):
        front = look_from_front(read_frames(path), raw.frame_time_s, looked, lifter)
        if front is not None:
            return replace(raw, front=front)
    return look_at_lifter(path, followed_back(raw, lambda: read_frames(path)), lifter, looked)


def look_at_lifter(path: Path, raw: RawTracks, lifter: Box | None = None, on_progress: Callable[[float], None] | None = None) -> RawTracks:
    """The same tracks with the lifter looked at anew: whoever is at the bar, or in the box that the coach drew. The camera's place stays
    as it was found first, and with it the bar's figures."""
    _alone()
    if raw.front is not None:
        return replace(raw, front=look_from_front(read_frames(path), raw.frame_time_s, on_progress, lifter) or raw.front)
    track = choose_lifted(raw)
    face = FaceWatch(track, raw.frame_time_s) if raw.face is None else None
    frames = read_frames(path) if face is None else face.watched(read_frames(path))
    people = follow_lifter(frames, raw.frame_time_s, track, on_progress, lifter, face.settled if face else None)
    # Where the camera stands is told by how large discs are at each height: not if somebody zoomed meanwhile.
    camera = None if raw.shake.zoomed else raw.people.camera or people.camera
    return replace(raw, people=replace(people, camera=camera), face=face.settled() if face else raw.face)


def _small(picture: Picture) -> Picture:
    """A picture that is large enough to find people in."""
    share = STILL_PX / max(picture.shape[:2])
    return picture if share >= 1 else np.asarray(cv2.resize(picture, None, fx=share, fy=share, interpolation=cv2.INTER_AREA), np.uint8)


def _clicks(path: Path) -> Clicks:
    """What clicks in the clip's sound. One that cannot be read is as good as none: the pictures tell the rest."""
    try:
        return clicks_of(path)
    except FootageError:
        return Clicks(np.empty(0))


def _alone() -> None:
    """What is looked at of a picture is small: sharing it between cores costs more than doing it."""
    cv2.setNumThreads(1)
