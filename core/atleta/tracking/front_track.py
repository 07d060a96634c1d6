"""What was seen of a clip from the front, as it is kept."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .network import pair
from .shake import Shake

Floats = NDArray[np.float64]

# A line is told by two of its points, so far to either side.
HALF_LINE_PX = 100.0


@dataclass(frozen=True)
class FrontTrack:
    """What a clip from the front shows, look by look: the frames looked at `(looks,)`, the network's points `(looks, 21, 2)` px and
    their deviations `(looks, 21)` px, and the bar: where it crosses the middle between the hands and how it slopes, down to the right in
    the picture `(looks, 3)` px, px, px per px; NaN where it was not made out."""

    frame: NDArray[np.int64]
    points: Floats
    sd: Floats
    bar: Floats

    def steadied(self, shake: Shake) -> FrontTrack:
        """The same as a phone that stood where the clip's first still was taken would have seen it."""
        if not shake:
            return self
        ends = [np.column_stack([self.bar[:, 0] + by, self.bar[:, 1] + by * self.bar[:, 2]]) for by in (-HALF_LINE_PX, HALF_LINE_PX)]
        low, high = (shake.taken_out(self.frame, end) for end in ends)
        middle, way = (low + high) / 2, high - low
        return replace(
            self, points=shake.taken_out(self.frame, self.points), bar=np.column_stack([middle, way[:, 1] / way[:, 0]])
        )  # fmt: skip

    @property
    def side(self) -> str:
        """`front` or `back`: whether the lifter's left is on the picture's right."""
        left, right = (self.points[:, shoulder, 0] for shoulder in pair("shoulder"))
        return "front" if float(np.median(left - right)) > 0 else "back"

    @property
    def hands(self) -> Floats:
        """The left hand and the right `(looks, 2, 2)`, px."""
        return np.asarray(self.points[:, list(pair("hand"))])

    def to_json(self) -> dict[str, Any]:
        return {
            "frame": self.frame.tolist(), "points": self.points.round(2).tolist(), "sd": self.sd.round(3).tolist(),
            "bar": [[None if np.isnan(value) else round(value, 4) for value in row] for row in self.bar.tolist()],
        }  # fmt: skip

    @classmethod
    def from_json(cls, held: dict[str, Any]) -> FrontTrack:
        bar = np.array([[np.nan if value is None else value for value in row] for row in held["bar"]], float).reshape(-1, 3)
        return cls(np.array(held["frame"], np.int64), np.array(held["points"], float), np.array(held["sd"], float), bar)
