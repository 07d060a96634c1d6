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
    def planes(self) -> tuple[Plane, ...]:
        """The planes there are to look at, brightness first."""
        return ("luma", "muted") if self._chroma is not None else ("luma",)

    def shrunk(self, share: float) -> tuple[Luma, ...]:
        """Each of `planes` at this share of its size."""
        height, width = (round(share * side) for side in self.luma.shape)
        small = np.asarray(cv2.resize(self.luma, (width, height), interpolation=cv2.INTER_AREA) if share < 1 else self.luma.copy())
        return (small,) if self._chroma is None else (small, _muted(small, self._chroma()))

    @cached_property
    def _muted(self) -> Luma:
        assert self._chroma is not None
        return _muted(self.luma, self._chroma())


def _muted(luma: Luma, chroma: tuple[Luma, Luma]) -> Luma:
    """Brightness lowered by how coloured a place is."""
    u, v = (part.astype(np.float32) - 128 for part in chroma)
    strength = cv2.convertScaleAbs(cv2.magnitude(u, v))
    height, width = luma.shape
    smaller = width < strength.shape[1]
    spread = cv2.resize(strength, (width, height), interpolation=cv2.INTER_AREA if smaller else cv2.INTER_LINEAR)
    return np.asarray(cv2.addWeighted(luma, 1.0, spread, -MUTING, 0.0), np.uint8)
