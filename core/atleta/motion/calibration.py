"""Scale, plumb and facing: what turns a place in the picture into metres in front of the lifter and above the floor."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..tracking import DiscTrack, RawTracks, View

Floats = NDArray[np.float64]

FULL_DISC_M = 0.45
# With nothing upright measured in the picture, phones on stands and in hands lean about this much.
PLUMB_SD_WITHOUT_REFERENCE_DEG = 1.0
PLUMB_SD_SET_BY_COACH_DEG = 0.2
# Two clicks, each good to about a pixel, on something a metre or two long.
SCALE_SD_SET_BY_COACH = 0.005
# A rim has thickness and a rounded edge, discs wear, and the disc comes a little nearer or further as it rises.
DISC_EDGE_SD = 0.007
# Where the near face itself is told by rings and rim, this much is left (on clips that other code drew).
FACE_EDGE_SD = 0.005
# Where the body is looked for above the bar, in disc radii, and how strongly height and place must go together to tell the side.
LEAN_FROM, LEAN_TO, LEAN_REACH = 1.3, 5.5, 4.0
CLEAR_LEAN = 0.2


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
    view: View | None = None
    """How the camera sees the near disc, where that is known: its face is then what is tracked, and the bar is placed with it."""
    middle_px: tuple[float, float] = (0.0, 0.0)
    """The picture's middle."""

    said: float = 1.0
    """The coach's scale over the disc's own."""

    def level(self, x_px: Floats, y_px: Floats) -> tuple[Floats, Floats]:
        """Pixels of the picture as a camera that stands upright and looks level would show them: from its middle, to the right and up."""
        tilt = np.radians(self.plumb_deg)
        right, below = x_px - self.middle_px[0], y_px - self.middle_px[1]
        u, v = right * np.cos(tilt) + below * np.sin(tilt), right * np.sin(tilt) - below * np.cos(tilt)
        return self.view.level(u, v) if self.view else (u, v)

    def picture(self, u: Floats, v: Floats) -> tuple[Floats, Floats]:
        """The way back."""
        if self.view:
            u, v = self.view.tilted(u, v)
        tilt = np.radians(self.plumb_deg)
        return self.middle_px[0] + u * np.cos(tilt) + v * np.sin(tilt), self.middle_px[1] + u * np.sin(tilt) - v * np.cos(tilt)

    @property
    def level_radius_px(self) -> float | None:
        """The near disc's radius straight ahead of a level camera, where the view is known."""
        return self.view.focal_px * self.scale.disc_diameter_m / 2 / self.view.face_m if self.view else None

    def bar_m(self, x_px: Floats, y_px: Floats) -> tuple[Floats, Floats]:
        """The bar's middle from the near disc's: metres forward and up, from a zero of the picture's own."""
        u, v = self.level(x_px, y_px)
        if self.view is None:
            x, y = self.scale.m_per_px * u, self.scale.m_per_px * v
        else:
            x, y = (self.said * values for values in self.view.bar_m(u, v))
        return (x if self.facing == "right" else -x), y


def scale_from_disc(track: DiscTrack, *, disc_diameter_m: float = FULL_DISC_M, faced: bool = False) -> Scale | None:
    """Scale from the disc's vertical half-axis (the major one), or None when no disc was tracked.

    The half-axis is the median over well-seen frames; its uncertainty joins the spread of those frames with what the rim itself
    leaves open: less where the track is that of the near face (`faced`) and not of the whole outline.
    """
    good = np.isfinite(track.radius_px) & (track.confidence > 0.5)
    if not good.any():
        good = np.isfinite(track.radius_px)
    if not good.any():
        return None
    radius = track.radius_px[good] if faced else np.maximum(track.radius_px[good], track.radius_px[good] * track.squeeze[good])
    middle = float(np.median(radius))
    spread = float(1.4826 * np.median(np.abs(radius - middle))) / max(np.sqrt(len(radius) / 10), 1.0)
    m_per_px = disc_diameter_m / (2 * middle)
    return Scale(m_per_px, m_per_px * float(np.hypot(spread / middle, FACE_EDGE_SD if faced else DISC_EDGE_SD)), "disc", disc_diameter_m)


def facing_from_motion(raw: RawTracks, track: DiscTrack) -> tuple[str, bool]:
    """Which way the lifter faces, from the lean of what moves above the rising bar, and whether that is clear.

    While the bar goes from the floor to the knee the trunk is inclined: head and shoulders ahead, hips behind. What changes in the
    picture above the bar therefore lies further forward the higher it is, and its lean gives the side. Neither the bar's own sideways
    drift takes part nor where the body stands against the near disc: a bar that swings away cannot turn the lifter round, and nor can
    a camera that stands a little in front.

             . head
            .´
        hips´             looked at: 1.3 to 5.5 radii above the bar's present height, discs left out below
        - - - - - - -
              bar
    """
    if not np.isfinite(track.y_px).any() or len(raw.motion) != len(track.y_px):
        return "right", False
    radius = float(np.nanmedian(track.radius_px))
    y = track.y_px
    rest = float(np.nanpercentile(y, 98))
    rising = np.isfinite(y) & (y < rest - 0.05 * radius) & (y > rest - 1.4 * radius)
    rows, columns = raw.motion.shape[1:]
    row_y = (np.arange(rows) + 0.5) * raw.height_px / rows
    column_x = (np.arange(columns) + 0.5) * raw.width_px / columns
    weights, across, above = [], [], []
    for frame in _first_run(rising):
        change = np.clip(raw.motion[frame].astype(float) - 2.0, 0, None)
        height = (y[frame] - row_y) / radius
        offset = (column_x - track.x_px[frame]) / radius
        band = np.ix_((height > LEAN_FROM) & (height < LEAN_TO), np.abs(offset) < LEAN_REACH)
        weights.append(change[band].ravel())
        across.append(np.broadcast_to(offset[None, :], change.shape)[band].ravel())
        above.append(np.broadcast_to(height[:, None], change.shape)[band].ravel())
    if not weights or sum(part.sum() for part in weights) == 0:
        return "right", False
    w, x, h = (np.concatenate(parts) for parts in (weights, across, above))
    dx, dh = x - np.average(x, weights=w), h - np.average(h, weights=w)
    lean = float(np.average(dx * dh, weights=w) / np.sqrt(np.average(dx**2, weights=w) * np.average(dh**2, weights=w) + 1e-12))
    return ("right" if lean >= 0 else "left"), bool(abs(lean) > CLEAR_LEAN)


def _first_run(mask: NDArray[np.bool_]) -> NDArray[np.intp]:
    """Indices of the first run of True that is not just a flicker."""
    where = np.flatnonzero(mask)
    if len(where) == 0:
        return where
    breaks = np.flatnonzero(np.diff(where) > 3)
    runs = np.split(where, breaks + 1)
    return next((run for run in runs if len(run) >= 5), runs[0])
