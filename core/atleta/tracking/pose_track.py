"""What the lifter network saw of the lifter over a clip, kept with the raw tracks."""

from __future__ import annotations

from base64 import b64decode, b64encode
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from .far_disc import CameraPlace
from .network import JOINTS, Look

Floats = NDArray[np.float64]


# The score of a look at which no lifter was seen where the lifter is.
NOBODY = 0.0


class Box(NamedTuple):
    """A part of the picture (px)."""

    left: int
    top: int
    right: int
    bottom: int


@dataclass(frozen=True)
class PoseTrack:
    """What the lifter network saw of the lifter.

    `frame` `(looks,)`: clip frames looked at; `points` `(looks, 21, 2)` px, as `network.JOINTS` counts them; `score` `(looks,)`, 0 to 1:
    that there is a lifter, by the network's own word; `sd` `(looks, 21, 2)` px: standard deviations along the picture's axes, and
    `correlation` `(looks, 21)` of the two; `seen` `(looks, 21)`, 0 to 1: that nothing hides a joint.
    """

    frame: NDArray[np.int64]
    points: Floats
    score: Floats
    sd: Floats
    correlation: Floats
    seen: Floats
    camera: CameraPlace | None = None
    """Where the camera stands, for a lifter who faces right in the picture; yaw turns its sign for one who faces left."""
    box: Box | None = None
    """Where the coach said that the lifter is."""

    @classmethod
    def empty(cls) -> PoseTrack:
        return cls.of([])

    @classmethod
    def of(cls, looks: Sequence[tuple[int, Look]], camera: CameraPlace | None = None, box: Box | None = None) -> PoseTrack:
        """Looks and the frames of the clip that they were at."""
        told = {name: np.array([getattr(look, name) for _, look in looks], float).reshape(-1, *shape) for name, (_, shape) in _KEPT.items()}
        return cls(np.array([frame for frame, _ in looks], np.int64), **told, camera=camera, box=box)

    def only(self, looks: NDArray[np.intp]) -> PoseTrack:
        """Some of the looks, by their place."""
        of_looks = {name: getattr(self, name)[looks] for name in ("frame", *_KEPT)}
        return replace(self, **of_looks)

    def to_json(self) -> dict[str, Any]:
        return {
            "frame": self.frame.tolist(),
            **{name: b64encode(getattr(self, name).astype(kind).tobytes()).decode() for name, (kind, _) in _KEPT.items()},
            "camera": None if self.camera is None else [round(value, 6) for value in vars(self.camera).values()],
            "box": None if self.box is None else list(self.box),
        }

    @classmethod
    def from_json(cls, held: dict[str, Any]) -> PoseTrack:
        return cls(
            np.array(held["frame"], np.int64),
            **{
                name: np.frombuffer(b64decode(held[name]), kind).reshape(len(held["frame"]), *shape).astype(float)
                for name, (kind, shape) in _KEPT.items()
            },
            camera=None if held["camera"] is None else CameraPlace(*held["camera"]),
            box=None if held["box"] is None else Box(*held["box"]),
        )


# What is kept of each look, as what, and in which shape: of what is only a spread three digits are enough.
_KEPT: dict[str, tuple[str, tuple[int, ...]]] = {
    "points": ("<f4", (len(JOINTS), 2)), "score": ("<f4", ()), "sd": ("<f2", (len(JOINTS), 2)), "correlation": ("<f2", (len(JOINTS),)),
    "seen": ("<f2", (len(JOINTS),)),
}  # fmt: skip
