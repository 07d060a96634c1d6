"""What the tracker looks at: a frame's brightness, and, where that shows nothing, its brightness muted by colour.

A blue disc on a brown floor may be exactly as bright as the floor. With brightness lowered by how coloured a place is, what is coloured
alike stays alike and what is coloured differently parts: discs are painted strongly, floors and walls mostly are not.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

Luma = NDArray[np.uint8]
Plane = Literal["luma", "muted"]
MUTING = 0.8


class Sight:
    """One frame as the tracker sees it. The muted picture is made when it is first asked for.

    Args:
        luma: brightness, `(height, width)`.
        chroma: gives the two colour planes about 128, of any size over the same field; None for a picture without colour.
    """

    def __init__(self, luma: Luma, chroma: Callable[[], tuple[Luma, Luma]] | None = None) -> None:
        self.luma = luma
        self._chroma = chroma

    def plane(self, name: Plane) -> Luma:
        return self.luma if name == "luma" or self._chroma is None else self._muted

    @property
    def coloured(self) -> bool:
        return self._chroma is not None

    @cached_property
    def _muted(self) -> Luma:
        assert self._chroma is not None
        u, v = (part.astype(np.float32) - 128 for part in self._chroma())
        strength = cv2.convertScaleAbs(cv2.magnitude(u, v))
        height, width = self.luma.shape
        spread = cv2.resize(strength, (width, height), interpolation=cv2.INTER_LINEAR)
        return np.asarray(cv2.addWeighted(self.luma, 1.0, spread, -MUTING, 0.0), np.uint8)
