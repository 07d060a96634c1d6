"""What the body is fitted to, what comes out, and how the camera sees it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...tracking.lens import plane_from_picture
from .model import POINTS, SIZE

Floats = NDArray[np.float64]


SLEEVE_M, STACK_M_PER_KG, USUAL_LOAD_KG = 0.685, 0.0025, 80.0


# What a scene holds of every frame: of what was observed, and of the bar's phases.
_LOOKED_AT = ("points", "sd", "disc", "held")
PHASES = (
    "speed_m_s", "height_m", "hanging", "turning", "resting_high", "apart", "received", "rising", "borne", "met", "flying", "airborne",
    "anew",
)  # fmt: skip
# So many numbers of a frame decide how well its body is known (`Scene.rests_on`): stature and load, and how plainly each point is seen.
KNOWN_BY = 3 + len(POINTS)


@dataclass(frozen=True)
class Observed:
    """What the body is fitted to, at the frames that were looked at.

    Pixels are upright (plumb taken out), counted from the picture's middle, u in the direction the lifter faces, v up.
    """

    time_s: Floats
    points: Floats
    """`(frames, POINTS, 2)` px; NaN where nobody was seen."""
    sd: Floats
    """`(frames, POINTS)` m, by the network's own word; infinite where nothing is known."""
    disc: Floats
    """`(frames, 3)`: the near disc's middle u, v and its half-height (px); NaN where it is out of sight."""
    held: NDArray[np.bool_]
    """Whether the hands hold the bar."""
    quick: NDArray[np.bool_]
    """Whether bar or body are quick, or were or will be within a moment."""
    stature_m: float
    stature_known: bool
    long_side_px: float
    load_kg: float | None
    from_floor: bool
    squeeze: float
    wide_grip: bool
    behind: bool = False
    """Whether the bar lies behind the neck."""
    racked: bool = False
    """Whether the bar lies on the shoulders at some time."""
    received: bool = False
    """Whether the bar is received from above, feet apart."""
    squats: bool = False
    splits: bool = False
    """Whether one foot goes ahead and the other back at some time."""
    squatted: bool = False
    """Whether a bar that came from the floor is squatted with later."""
    on_blocks: bool = False
    """Whether the bar begins higher than the floor, on blocks."""
    met_s: tuple[float, ...] = ()
    """When a thrown bar is met: with straight arms, or on the shoulders."""
    disc_radius_m: float = 0.225
    camera: tuple[tuple[float, float], tuple[float, float], tuple[float, float]] | None = None
    """Distance (m), yaw and pitch (rad) of the camera with their deviations, where both discs told them."""
    fixed: tuple[tuple[int, int, float, float], ...] = ()
    """The coach's points: index of the frame here, of the point, and u and v (px)."""

    def at(self, rows: NDArray[np.int64]) -> Observed:
        """Some of the frames."""
        own: dict[str, Any] = {name: getattr(self, name)[rows] for name in ("time_s", "quick", *_LOOKED_AT)}
        place = {int(row): k for k, row in enumerate(rows)}
        return replace(self, **own, fixed=tuple((place[row[0]], *row[1:]) for row in self.fixed if row[0] in place))


@dataclass(frozen=True)
class Body:
    """A fitted body at the observed frames: places in metres and pixels with one standard deviation each, by `POINTS`."""

    time_s: Floats
    points_m: Floats
    """`(frames, POINTS, 3)`: forward from the camera's axis, up from the floor, and aside towards the camera."""
    points_px: Floats
    """`(frames, POINTS, 2)` as in `Observed`."""
    sd_m: Floats
    """`(frames, POINTS)`: along the worse direction."""
    bar_m: Floats
    shared: dict[str, float]
    shared_sd: dict[str, float]
    focal_px: float
    scale_sd: float
    """Deviation of the scale in the lifter's plane, as a share of it."""
    states: Floats = field(repr=False, default_factory=lambda: np.zeros((0, SIZE)))
    drawn_m: Floats = field(repr=False, default_factory=lambda: np.zeros((0, 0, 0, 3)))
    """`(draws, frames, POINTS + 1, 3)`: by how much places, and last the bar's, may as well be off, all together (m)."""
    fitted_to: Floats = field(repr=False, default_factory=lambda: np.zeros((0, 0)))
    """`(frames, numbers)`: as `Scene.rests_on`."""
    alone: Floats = field(repr=False, default_factory=lambda: np.zeros(0))
    """`(frames,)`: 1 where it was fitted anew since the whole of it was."""


def near_face_m(load_kg: float | None) -> float:
    """From the bar's middle to the outer face of the near disc: sleeve, collar and a usual stack of discs."""
    return SLEEVE_M + min(max((load_kg or USUAL_LOAD_KG) - 20, 5) / 2 * STACK_M_PER_KG, 0.35)


@dataclass(frozen=True)
class Scene:
    """What is settled before the fit: the data, and everything about it that does not change from round to round."""

    seen: Observed
    rate_hz: float
    radius_px: float
    near_m: float
    """How far the near disc's outer face lies from the bar's middle."""
    body_kg: float
    speed_m_s: Floats
    """How fast the bar moves."""
    height_m: Floats
    """How high the bar is above the floor, as believed before the fit: what a height decides must not change while fitting."""
    hanging: Floats
    """1 where the bar hangs from the arms and has not yet been thrown up, 0 elsewhere."""
    turning: Floats
    """1 where a bar has been thrown off hanging arms and is not yet caught, 0 elsewhere."""
    resting_high: Floats
    """1 where the bar lies on the shoulders, by its height and speed and what went before."""

    apart: Floats
    """1 where the feet may stand one ahead of the other, the one behind on its ball."""
    received: Floats
    """From 0 to 1 how far the feet have gone from where they pull to where they receive."""
    rising: Floats
    """From 0 to 1 how quick the bar is on its way up: heels rise with it, and feet leave the floor."""
    borne: Floats
    """1 where the lifter bears the bar's weight, and for a moment before it leaves the floor; NaN while it lies there."""
    met: Floats
    """1 for a moment from where a thrown bar is met."""
    flying: Floats
    """1 while the feet go into a split under a thrown bar. Feet that only jump apart go forward or back much less."""
    airborne: Floats
    """1 while the feet may be off the floor under a thrown bar that is received."""
    anew: Floats
    """What the usual counts: 1, less in long stretches without a sight of the body, since all of their frames know of it once."""
    frames: int
    """How many frames there are, however often they are repeated."""

    def repeated(self, times: int) -> Scene:
        """The same frames over and over, so that many states are looked at in one go."""

        def over(of_frames: Floats) -> Floats:
            return np.tile(of_frames, (times,) + (1,) * (of_frames.ndim - 1))

        fixed = tuple((row[0] + turn * len(self.seen.time_s), *row[1:]) for turn in range(times) for row in self.seen.fixed)
        observed: dict[str, Any] = {name: over(getattr(self.seen, name)) for name in _LOOKED_AT}
        phases: dict[str, Any] = {name: over(getattr(self, name)) for name in PHASES}
        return replace(self, seen=replace(self.seen, **observed, fixed=fixed), **phases)

    def cut(self, first: int, stop: int) -> Scene:
        """Some of the frames, one after the other."""
        phases: dict[str, Any] = {name: getattr(self, name)[first:stop] for name in PHASES}
        return replace(self, seen=self.seen.at(np.arange(first, stop)), frames=stop - first, **phases)

    def rests_on(self) -> Floats:
        """All that is known of each frame `(frames, numbers)`, by which two scenes are told apart frame by frame; first, in `KNOWN_BY`
        columns, what decides how well a body is known."""
        frames = len(self.seen.time_s)
        by_hand = np.full((frames, len(POINTS), 2), np.nan)
        for frame, point, u, v in self.seen.fixed:
            by_hand[frame, point] = u, v
        load_kg = np.nan if self.seen.load_kg is None else self.seen.load_kg
        known_by = [np.full((frames, 3), [100 * self.seen.stature_m, self.seen.stature_known, load_kg]), self.seen.sd]
        arrays = [getattr(self.seen, name) for name in _LOOKED_AT if name != "sd"] + [getattr(self, name) for name in PHASES]
        read_as = np.full((frames, 2), [self.radius_px, 1000 * self.seen.disc_radius_m])
        rows = (*known_by, *arrays, self.seen.quick, by_hand, read_as)
        return np.column_stack([np.asarray(each, float).reshape(frames, -1) for each in rows])

    @property
    def racked(self) -> Floats:
        """From a bar on the shoulders to the shoulder joint, in shares of stature."""
        return np.array([0.04, -0.02]) if self.seen.behind else np.array([-0.04, -0.012])

    @property
    def racked_elbow(self) -> Floats:
        """From the shoulder joint to the elbow of an arm that holds such a bar, in upper arms."""
        return np.array([-0.55, -0.55]) if self.seen.behind else np.array([0.68, 0.32])

    def focal_px(self, depth: Floats, yaw: Floats) -> Floats:
        return self.radius_px * (depth - self.near_m * np.cos(yaw)) / self.seen.disc_radius_m

    def bar_m(self, shared: Floats) -> Floats:
        """The bar's middle `(frames, 2)` in the lifter's own plane; `shared` `(SHARED,)`, or one for every frame."""
        depth, yaw, pitch = np.exp(shared[..., 0]), shared[..., 1], shared[..., 2]
        u, v = self.seen.disc[:, 0], self.seen.disc[:, 1]
        x, y = plane_from_picture(u, v, depth, yaw, pitch, self.near_m, self.focal_px(depth, yaw))
        return np.stack([x, y], axis=-1)

    def project(self, points: Floats, shared: Floats) -> tuple[Floats, Floats]:
        """Pixels `(..., 2)` of points `(..., 3)`, and metres a pixel there."""
        depth, yaw, pitch = (column[..., None] for column in (np.exp(shared[..., 0]), shared[..., 1], shared[..., 2]))
        focal, cos, sin = self.focal_px(depth, yaw), np.cos(yaw), np.sin(yaw)
        away = depth - points[..., 2] * cos - points[..., 0] * sin
        u = focal * (points[..., 0] * cos - points[..., 2] * sin) / away
        return np.stack([u, focal * points[..., 1] / away + focal * pitch], axis=-1), away / focal
