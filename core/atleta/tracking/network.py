"""The lifter network: where a lifter's joints are in a square of a picture, and how well it knows that.

It has learned from pictures that our own studio draws (`training/`); its weights lie in `weights/`, known by their SHA-256. What it says
is an observation like any other: the body is fitted to it, and to what else is known, in `motion/body/`.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from importlib.resources import files
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Picture = NDArray[np.uint8]

WEIGHTS, SHA256 = "lifter.onnx", "7c71f7a75de5a870853f77480b23ec4b39a05f0809fdc19746d2e9bfb7b91011"
SIDES = ("left", "right")
PARTS = ("ear", "shoulder", "elbow", "wrist", "hand", "hip", "knee", "ankle", "heel", "toe")
# As the network tells them; left is the lifter's left.
JOINTS = ("nose", *(f"{side}_{part}" for side in SIDES for part in PARTS))
AT = {name: place for place, name in enumerate(JOINTS)}
INPUT = 256
# Networks run on so many threads: as many cores as the smallest machine has that this is made for.
THREADS = 2
# The square about a body is so much larger than what its joints take up.
MARGIN = 1.35


def pair(part: str) -> tuple[int, int]:
    """Where both sides' joints are among `JOINTS`."""
    return AT[f"left_{part}"], AT[f"right_{part}"]


@dataclass(frozen=True)
class Square:
    """The square of the picture that the network looks at: middle and side in px."""

    x_px: float
    y_px: float
    side_px: float


@dataclass(frozen=True)
class Look:
    """What the network says of one square.

    `points` `(21, 2)` px of the picture; `sd` `(21, 2)` px, their standard deviations along the picture's axes, and `correlation` `(21,)`
    of the two; `seen` `(21,)` the chance that nothing hides a joint; `score` the chance that there is a lifter at all.
    """

    points: Floats
    sd: Floats
    correlation: Floats
    seen: Floats
    score: float

    @property
    def follow(self) -> Square:
        """The square in which to look next."""
        low, high = self.points.min(0), self.points.max(0)
        middle = (low + high) / 2
        return Square(float(middle[0]), float(middle[1]), MARGIN * float(max(high - low)))

    def middle(self, part: str) -> Floats:
        """Where a part of the body is, both sides together, `(2,)` px."""
        return np.asarray(self.points[list(pair(part))].mean(0))


class LifterNetwork:
    """The network, loaded once."""

    def __init__(self) -> None:
        """
        Raises:
            RuntimeError: the weights are not there or not the ones known.
        """
        import onnxruntime

        place = files(__package__).joinpath("weights", WEIGHTS)
        content = place.read_bytes() if place.is_file() else b""
        if hashlib.sha256(content).hexdigest() != SHA256:
            raise RuntimeError(f"The weights {WEIGHTS} are missing or not the ones this version was made with: install Atleta anew.")
        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads, options.inter_op_num_threads = THREADS, 1
        # Threads that wait for work without rest take the cores from whatever else runs.
        options.add_session_config_entry("session.intra_op.allow_spinning", "0")
        self._net: Any = onnxruntime.InferenceSession(content, options, providers=["CPUExecutionProvider"])

    def look(self, picture: Picture, square: Square) -> Look:
        """Look at a square of a picture `(height, width, 3)` in blue, green, red."""
        scale = INPUT / square.side_px
        corner = np.array([square.x_px, square.y_px]) - square.side_px / 2
        to_square = np.column_stack([scale * np.eye(2), -scale * corner])
        crop = cv2.warpAffine(picture, to_square, (INPUT, INPUT), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        given = cv2.cvtColor(crop, cv2.COLOR_BGR2RGB).transpose(2, 0, 1)[None] * np.float32(1 / 255)
        points, sd, correlation, seen, there = self._net.run(["points", "sd", "correlation", "seen", "there"], {"pictures": given})
        return Look(
            points[0].astype(float) * square.side_px + corner, sd[0].astype(float) * square.side_px, correlation[0].astype(float),
            seen[0].astype(float), float(there[0]),
        )  # fmt: skip
