"""What a series was between two frames: much happens there that no frame shows."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def frames_about(time_s: Floats, at_s: Floats, *, through: int) -> tuple[NDArray[np.intp], Floats]:
    """The frames about each of some times inside a series, and how much each counts in the polynomial through them, `(times, through)`
    both; fewer than `through` where there are not so many. In a frame that frame alone counts."""
    first = np.clip(np.searchsorted(time_s, at_s) - through // 2, 0, max(len(time_s) - through, 0))
    about = first[:, None] + np.arange(min(through, len(time_s)))
    t, off = time_s[about], at_s[:, None] - time_s[about]
    # Barycentric: each frame counts by how far it is from the others and from where it is asked.
    apart = t[:, :, None] - t[:, None, :]
    apart[:, np.arange(t.shape[1]), np.arange(t.shape[1])] = 1.0
    there = off == 0
    counts = 1 / (apart.prod(axis=2) * np.where(there, 1.0, off))
    counts = np.where(there.any(axis=1)[:, None], there, counts)
    return about, counts / counts.sum(axis=1, keepdims=True)


def between_frames(time_s: Floats, values: Floats, at_s: Floats, *, through: int) -> Floats:
    """A series `(frames,)` at any times inside it, each by the polynomial through so many of the frames about it."""
    about, counts = frames_about(time_s, at_s, through=through)
    return np.asarray((counts * values[about]).sum(axis=1))
