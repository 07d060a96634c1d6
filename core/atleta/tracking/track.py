"""What tracking hands on: every disc that was followed, and the one track chosen from them."""

from __future__ import annotations

import zlib
from base64 import b64decode, b64encode
from collections.abc import Sequence
from dataclasses import astuple, dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..footage import Clicks
from .front_track import FrontTrack
from .pose_track import PoseTrack
from .rim import SECTORS
from .shake import Shake
from .uprights import Uprights

Floats = NDArray[np.float64]
NUMBERS = ("x_px", "y_px", "radius_px", "squeeze", "confidence", "sd_px")
SERIES = (*NUMBERS, "outline")
# Of how tracks are kept; those of another are made anew.
TRACKS_VERSION = 18
# Outlines are kept in steps of a fiftieth of a pixel.
OUTLINE_STEPS, UNSEEN_STEP = 50, -(2**15)


@dataclass
class Tracklet:
    """One disc followed over consecutive frames from `first_frame` on. A frame without a sight of it holds NaN and confidence 0."""

    first_frame: int
    x_px: list[float]
    y_px: list[float]
    radius_px: list[float]
    squeeze: list[float]
    confidence: list[float]
    sd_px: list[float]
    outline: list[tuple[float, ...]]
    """What `Rim.outline` says of each frame."""

    @classmethod
    def begun(cls, first_frame: int) -> Tracklet:
        return cls(first_frame, [], [], [], [], [], [], [])

    @property
    def last_frame(self) -> int:
        return self.first_frame + len(self.x_px) - 1

    def covers(self, frame: int) -> bool:
        return self.first_frame <= frame <= self.last_frame


@dataclass(frozen=True)
class RawTracks:
    """Everything the pictures gave, kept so that no correction needs them decoded again.

    `motion` is `(frames, rows, columns)`, uint8: how much each cell of a coarse grid over the picture changed since the frame before;
    `repeated` `(frames,)` which frames only repeat the picture before, though discs move;
    `people` is what the lifter network saw, `shake` how a hand moved the picture, `uprights` how upright edges lean in its first still,
    `clicks` what its sound has of them, `front` what a clip shows that was filmed from the front or from behind, and `face` where the
    lifted disc is by what the whole clip shows of it.
    """

    frame_time_s: Floats
    width_px: int
    height_px: int
    tracklets: list[Tracklet]
    motion: NDArray[np.uint8]
    repeated: NDArray[np.bool_] = field(default_factory=lambda: np.zeros(0, bool))
    people: PoseTrack = field(default_factory=PoseTrack.empty)
    shake: Shake = field(default_factory=Shake.none)
    uprights: Uprights | None = None
    clicks: Clicks = field(default_factory=lambda: Clicks(np.empty(0)))
    front: FrontTrack | None = None
    face: DiscTrack | None = None

    def to_json(self) -> dict[str, Any]:
        return {
            "version": TRACKS_VERSION,
            "frame_time_s": [round(t, 6) for t in self.frame_time_s.tolist()],
            "width_px": self.width_px,
            "height_px": self.height_px,
            "motion": {
                "shape": list(self.motion.shape),
                "zlib": b64encode(zlib.compress(self.motion.tobytes(), 6)).decode(),
            },
            "repeated": np.flatnonzero(self.repeated).tolist(),
            "tracklets": [
                {"first_frame": t.first_frame, "outline": _packed(t.outline)} | {name: _listed(getattr(t, name)) for name in NUMBERS}
                for t in self.tracklets
            ],
            "people": self.people.to_json(),
            "shake": self.shake.to_json() if self.shake else None,
            "uprights": None if self.uprights is None else [round(value, 4) for value in astuple(self.uprights)],
            "clicks_db": [round(db) for db in self.clicks.db.tolist()],
            "front": self.front.to_json() if self.front else None,
            "face": self.face.to_json() if self.face else None,
        }

    @classmethod
    def from_json(cls, held: dict[str, Any]) -> RawTracks:
        return cls(
            frame_time_s=np.array(held["frame_time_s"], float),
            width_px=held["width_px"],
            height_px=held["height_px"],
            motion=np.frombuffer(zlib.decompress(b64decode(held["motion"]["zlib"])), np.uint8).reshape(held["motion"]["shape"]),
            repeated=np.isin(np.arange(len(held["frame_time_s"])), held["repeated"]),
            tracklets=[
                Tracklet(t["first_frame"], **{name: _series(t[name]) for name in NUMBERS}, outline=_unpacked(t["outline"]))
                for t in held["tracklets"]
            ],
            people=PoseTrack.from_json(held["people"]),
            shake=Shake.from_json(held["shake"]) if held["shake"] else Shake.none(),
            uprights=None if held["uprights"] is None else Uprights(*held["uprights"]),
            clicks=Clicks(np.array(held["clicks_db"], float)),
            front=FrontTrack.from_json(held["front"]) if held["front"] else None,
            face=DiscTrack.from_json(held["face"]) if held["face"] else None,
        )

    def steadied(self, track: DiscTrack) -> tuple[RawTracks, DiscTrack]:
        """The same, and a disc's track, as a phone that stood where the clip's first still was taken would have seen them."""
        if not self.shake:
            return self, track
        every = np.arange(len(self.frame_time_s))
        disc = self.shake.taken_out(every, np.column_stack([track.x_px, track.y_px]))
        seen = self.people
        people = replace(seen, points=self.shake.taken_out(seen.frame, seen.points))
        return replace(self, people=people, front=self.front and self.front.steadied(self.shake)), replace(
            track, x_px=disc[:, 0], y_px=disc[:, 1], radius_px=track.radius_px / self.shake.grown
        )


@dataclass(frozen=True)
class DiscTrack:
    """The lifted disc over the whole clip, `(frames,)` each; NaN and confidence 0 where it was not seen."""

    x_px: Floats
    y_px: Floats
    radius_px: Floats
    squeeze: Floats
    confidence: Floats
    sd_px: Floats
    outline: Floats
    """`(frames, SECTORS)`, as `Rim.outline`."""

    @classmethod
    def empty(cls, frames: int) -> DiscTrack:
        gap = np.full(frames, np.nan)
        return cls(gap.copy(), gap.copy(), gap.copy(), gap.copy(), np.zeros(frames), gap.copy(), np.full((frames, SECTORS), np.nan))

    def to_json(self) -> dict[str, Any]:
        return {"outline": _packed(self.outline)} | {name: _listed(getattr(self, name)) for name in NUMBERS}

    @classmethod
    def from_json(cls, held: dict[str, Any]) -> DiscTrack:
        return cls(**{name: np.array(_series(held[name])) for name in NUMBERS}, outline=np.array(_unpacked(held["outline"])))

    def copied(self) -> DiscTrack:
        """The same in arrays of its own."""
        return replace(self, **{name: getattr(self, name).copy() for name in SERIES})

    def write(self, piece: Tracklet, first: int | None = None, last: int | None = None) -> None:
        """Lay a tracklet's frames `first…last` into this track."""
        start = max(piece.first_frame, first if first is not None else 0)
        stop = min(piece.last_frame, last if last is not None else piece.last_frame) + 1
        if stop <= start:
            return
        inner = slice(start - piece.first_frame, stop - piece.first_frame)
        for name in SERIES:
            getattr(self, name)[start:stop] = getattr(piece, name)[inner]


def _listed(values: Sequence[float] | Floats) -> list[float | None]:
    return [None if np.isnan(value) else round(float(value), 4) for value in values]


def _series(values: list[float | None]) -> list[float]:
    return [np.nan if value is None else value for value in values]


def _packed(outline: Sequence[tuple[float, ...]] | Floats) -> str:
    values = np.array(outline, float).reshape(-1, SECTORS) * OUTLINE_STEPS
    steps = np.where(np.isfinite(values), np.clip(np.nan_to_num(values).round(), UNSEEN_STEP + 1, -UNSEEN_STEP - 1), UNSEEN_STEP)
    return b64encode(zlib.compress(steps.astype("<i2").tobytes(), 6)).decode()


def _unpacked(held: str) -> list[tuple[float, ...]]:
    steps = np.frombuffer(zlib.decompress(b64decode(held)), "<i2").reshape(-1, SECTORS).astype(float)
    return [tuple(row) for row in np.where(steps == UNSEEN_STEP, np.nan, steps / OUTLINE_STEPS).tolist()]


def bridged(time_s: Floats, values: Floats) -> Floats:
    """A series with its gaps (NaN) bridged by straight lines and its ends held; all zero where nothing is known."""
    seen = np.isfinite(values)
    return np.asarray(np.interp(time_s, time_s[seen], values[seen])) if seen.any() else np.zeros_like(values)
