"""Scale, plumb and facing: what turns a place in the picture into metres in front of the lifter and above the floor."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..tracking import DiscTrack, RawTracks

Floats = NDArray[np.float64]

FULL_DISC_M = 0.45
# With nothing upright measured in the picture, phones on stands and in hands lean about this much.
PLUMB_SD_WITHOUT_REFERENCE_DEG = 1.0
PLUMB_SD_SET_BY_COACH_DEG = 0.2
# A rim has thickness and a rounded edge, discs wear, and the disc comes a little nearer or further as it rises.
DISC_EDGE_SD = 0.007


@dataclass(frozen=True)
class Scale:
    """Metres per pixel in the plane of the near disc, with its standard deviation."""

    m_per_px: float
    sd: float
    source: str
    disc_diameter_m: float


@dataclass(frozen=True)
class Calibration:
    """Everything needed to place a pixel: scale, gravity's direction in the picture, and which way the lifter faces."""

    scale: Scale
    plumb_deg: float
    """How far the picture's down must be turned, clockwise as seen, to be down along gravity."""
    plumb_sd_deg: float
    plumb_source: str
    facing: str
    facing_source: str
    facing_sure: bool


def scale_from_disc(track: DiscTrack, *, disc_diameter_m: float = FULL_DISC_M) -> Scale | None:
    """Scale from the disc's vertical half-axis (the major one), or None when no disc was tracked.

    The half-axis is the median over well-seen frames; its uncertainty joins the spread of those frames with what the rim itself
    leaves open.
    """
    good = np.isfinite(track.radius_px) & (track.confidence > 0.5)
    if not good.any():
        good = np.isfinite(track.radius_px)
    if not good.any():
        return None
    radius = np.maximum(track.radius_px[good], track.radius_px[good] * track.squeeze[good])
    middle = float(np.median(radius))
    spread = float(1.4826 * np.median(np.abs(radius - middle))) / max(np.sqrt(len(radius) / 10), 1.0)
    m_per_px = disc_diameter_m / (2 * middle)
    return Scale(m_per_px, m_per_px * float(np.hypot(spread / middle, DISC_EDGE_SD)), "disc", disc_diameter_m)


def facing_from_motion(raw: RawTracks, track: DiscTrack) -> tuple[str, bool]:
    """Which way the lifter faces, from where the picture changes beside the rising bar, and whether that is clear.

    While the bar goes from the floor past the knee, the hips and thighs that lift it move at hip height and below, all of them behind
    the bar; in front of it at that height there is nothing (head and shoulders are above). The bar's own sideways drift takes no
    part, so a bar that swings away cannot turn the lifter round.

        . . head . .
        hips - - + - - - - - top of the band looked at (4 disc radii above the resting bar)
        thighs  bar   (empty)
        - - - - - - - - - - - floor
    """
    if not np.isfinite(track.y_px).any() or len(raw.motion) != len(track.y_px):
        return "right", False
    radius = float(np.nanmedian(track.radius_px))
    y = track.y_px
    rest = float(np.nanpercentile(y, 98))
    rising = np.isfinite(y) & (y < rest - 0.1 * radius) & (y > rest - 2.4 * radius)
    first = _first_run(rising)
    rows, columns = raw.motion.shape[1:]
    row_y = (np.arange(rows) + 0.5) * raw.height_px / rows
    column_x = (np.arange(columns) + 0.5) * raw.width_px / columns
    band = (row_y > rest - 3.9 * radius) & (row_y < rest + radius)
    left = right = 0.0
    for frame in first:
        change = np.clip(raw.motion[frame][band].astype(float) - 2.0, 0, None).sum(axis=0)
        offset = (column_x - track.x_px[frame]) / radius
        left += float(change[(offset < -1.2) & (offset > -4.0)].sum())
        right += float(change[(offset > 1.2) & (offset < 4.0)].sum())
    if left + right == 0:
        return "right", False
    share = left / (left + right)
    return ("right" if share >= 0.5 else "left"), bool(abs(share - 0.5) > 0.2)


def _first_run(mask: NDArray[np.bool_]) -> NDArray[np.intp]:
    """Indices of the first run of True that is not just a flicker."""
    where = np.flatnonzero(mask)
    if len(where) == 0:
        return where
    breaks = np.flatnonzero(np.diff(where) > 3)
    runs = np.split(where, breaks + 1)
    return next((run for run in runs if len(run) >= 5), runs[0])
