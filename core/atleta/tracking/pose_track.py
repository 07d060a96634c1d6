"""What the pose model saw of the lifter over a clip, kept with the raw tracks."""

from __future__ import annotations

from base64 import b64decode, b64encode
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from .far_disc import CameraPlace
from .pose import DIRECTIONS, DOWNWARD, POINTS

Floats = NDArray[np.float64]


HEAT_STEPS = 255
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
    """What the pose model saw of the lifter.

    `frame` `(looks,)`: clip frames looked at; `points` `(looks, 33, 2)` px; `score` `(looks,)`, 0 to 1: that there is a person, by the
    model's own word; `heat` `(looks, 33)`, 0 to 1: how much its map of each point agrees with where the point is told; `outline`
    `(looks, directions, 2)` px: the outermost place of the person in each of `DIRECTIONS`, NaN where it is not known; `soles` the same in
    each of `DOWNWARD`, of what is beyond the disc as well.
    """

    frame: NDArray[np.int64]
    points: Floats
    score: Floats
    heat: Floats
    outline: Floats
    soles: Floats
    camera: CameraPlace | None = None
    """Where the camera stands, for a lifter who faces right in the picture; yaw turns its sign for one who faces left."""
    box: Box | None = None
    """Where the coach said that the lifter is."""

    @classmethod
    def empty(cls) -> PoseTrack:
        return cls(
            np.zeros(0, np.int64), np.zeros((0, POINTS, 2)), np.zeros(0), np.zeros((0, POINTS)), np.zeros((0, *DIRECTIONS.shape)),
            np.zeros((0, *DOWNWARD.shape)),
        )  # fmt: skip

    def only(self, looks: NDArray[np.intp]) -> PoseTrack:
        """Some of the looks, by their place."""
        of_looks = {name: getattr(self, name)[looks] for name in ("frame", "points", "score", "heat", "outline", "soles")}
        return replace(self, **of_looks)

    def to_json(self) -> dict[str, Any]:
        return {
            "frame": self.frame.tolist(),
            "points": b64encode(self.points.astype("<f4").tobytes()).decode(),
            "score": [round(float(score), 4) for score in self.score],
            "heat": b64encode(np.round(HEAT_STEPS * self.heat).astype("u1").tobytes()).decode(),
            "outline": b64encode(self.outline.astype("<f4").tobytes()).decode(),
            "soles": b64encode(self.soles.astype("<f4").tobytes()).decode(),
            "camera": None if self.camera is None else [round(value, 6) for value in vars(self.camera).values()],
            "box": None if self.box is None else list(self.box),
        }

    @classmethod
    def from_json(cls, held: dict[str, Any]) -> PoseTrack:
        looks = len(held["frame"])
        return cls(
            np.array(held["frame"], np.int64),
            np.frombuffer(b64decode(held["points"]), "<f4").reshape(looks, POINTS, 2).astype(float),
            np.array(held["score"], float),
            np.frombuffer(b64decode(held["heat"]), "u1").reshape(looks, POINTS) / HEAT_STEPS,
            np.frombuffer(b64decode(held["outline"]), "<f4").reshape(looks, *DIRECTIONS.shape).astype(float),
            np.frombuffer(b64decode(held["soles"]), "<f4").reshape(looks, *DOWNWARD.shape).astype(float),
            None if held["camera"] is None else CameraPlace(*held["camera"]),
            None if held["box"] is None else Box(*held["box"]),
        )
