"""The lifter's motion in metres on the bar's clock: joints, angles and relations that events and measures read."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import cycle, islice

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline

from .between import frames_about
from .body import JointTracks
from .body.model import BODY_KG_PER_M2, POINT, POINTS, balance_of, included_deg
from .body.scene import USUAL_LOAD_KG
from .body.sight import UNKNOWN_STATURE_M

Floats = NDArray[np.float64]

BALL_SHARE = 0.70
SHAFT_RADIUS_M = 0.014
# Half the thickness of thigh and trunk, shares of stature: usual adult girths.
THIGH_HALF, TRUNK_HALF = 0.044, 0.047
# The knees of a lifter who stands.
STANDING_KNEE_DEG = 176.0


@dataclass(frozen=True)
class BodyMotion:
    """A lifter and the bar on the bar's clock.

    `points` `(frames, POINTS, 3)`: x forward, y up from the floor, z aside towards the camera (m); `bar` `(frames, 2)` in the same frame;
    `drawn_off` `(draws, frames, POINTS + 1, 3)`: by how much joints, and last the bar, may as well be off. NaN where the lifter was not
    fitted. Names without a side mean the middle of both sides.
    """

    time_s: Floats
    points: Floats
    bar: Floats
    drawn_off: Floats
    stature_m: float
    segments_m: dict[str, float]
    """Fitted lengths: thigh, shin, trunk, upper_arm, forearm, and grip (from the bar's middle to a hand)."""

    def covers(self, start_s: float, stop_s: float) -> bool:
        """Whether the lifter is known all the way from one time to another."""
        inside = (self.time_s >= start_s) & (self.time_s <= stop_s)
        return bool(inside.any() and np.isfinite(self.points[inside, 0, 0]).all())

    def drawn(self, count: int) -> Iterator[BodyMotion]:
        """The same lifter as well might have been, so many times: those that the fit left as likely, over and over."""
        return islice(cycle(self._all_drawn or [self]), count)

    @cached_property
    def _all_drawn(self) -> list[BodyMotion]:
        made = [replace(self, points=self.points + off[:, :-1], bar=self.bar + off[:, -1, :2]) for off in self.drawn_off]
        for other in made:
            # What is not known is the same for all of them, and worked out once.
            other.__dict__["_doubts"], other.__dict__["_slopes"] = self._doubts, self._slopes
        return made

    def doubt_m(self, name: str, side: str = "near") -> float:
        """How far forward or back a joint of a side may as well be, m: the median over the frames; 0 for what is known exactly."""

        def typical() -> Floats:
            off = self.drawn_off[:, :, POINT[f"{side}_{name}"], 0]
            known = off[:, np.isfinite(off).all(axis=0)]
            return np.full(len(self.time_s), np.median(known.std(axis=0)) if known.size else 0.0)

        return float(self._doubt(f"{side} {name}", typical)[0])

    def doubt_up_m(self, name: str, time_s: float) -> float:
        """How far up or down a joint of the near side may as well be at a time, m; 0 where the body is known exactly."""
        return self.at(self._doubt(f"{name} up", lambda: self.drawn_off[:, :, POINT[f"near_{name}"], 1].std(axis=0)), time_s)

    def doubt_m_s(self, name: str, time_s: float) -> float:
        """How quickly a joint of the near side may as well seem to move, m/s; 0 where the body is known exactly."""

        def speeds() -> Floats:
            quick = np.gradient(self.drawn_off[:, :, POINT[f"near_{name}"], :2], self.time_s, axis=1)
            return np.asarray(np.hypot(*quick.std(axis=0).T))

        return self.at(self._doubt(f"{name} speed", speeds), time_s)

    def doubt_leg_m(self, time_s: float) -> float:
        """How much longer or shorter the near leg, from hip to ankle, may as well be at a time, m; 0 where the body is known exactly."""

        def lengths() -> Floats:
            legs = [np.linalg.norm(one.place("near_hip") - one.place("near_ankle"), axis=1) for one in self._all_drawn]
            return np.asarray(np.std(legs, axis=0))

        return self.at(self._doubt("leg", lengths), time_s)

    def doubt_deg(self, name: str, time_s: float) -> float:
        """How far a joint's angle (as this class calls it) may as well be off at a time; 0 where the body is known exactly."""
        return self.at(self._doubt(f"{name} bent", lambda: np.std([getattr(one, name) for one in self._all_drawn], axis=0)), time_s)

    def _doubt(self, what: str, worked_out: Callable[[], Floats]) -> Floats:
        if len(self.drawn_off) == 0:
            return np.zeros(len(self.time_s))
        if what not in self._doubts:
            self._doubts[what] = worked_out()
        return self._doubts[what]

    @cached_property
    def _doubts(self) -> dict[str, Floats]:
        return {}

    def place(self, name: str) -> Floats:
        """Where a joint, the bar, `mid_foot` or `ball` is, `(frames, 3)`; z is 0 where it has no meaning."""
        if name in self._places:
            return self._places[name]
        if name == "bar":
            made = np.column_stack([self.bar, np.zeros(len(self.bar))])
        elif name.endswith("mid_foot") or name.endswith("ball"):
            side, share = name.removesuffix("mid_foot").removesuffix("ball"), 0.5 if name.endswith("mid_foot") else BALL_SHARE
            made = (1 - share) * self.place(f"{side}heel") + share * self.place(f"{side}toe")
        elif name in POINT:
            made = self.points[:, POINT[name]]
        else:
            made = (self.points[:, POINT[f"near_{name}"]] + self.points[:, POINT[f"far_{name}"]]) / 2
        self._places[name] = made
        return made

    @cached_property
    def _places(self) -> dict[str, Floats]:
        return {}

    def known(self, read: Callable[[BodyMotion], Floats]) -> Floats:
        """A series read from this lifter, worked out once."""
        if read not in self._known:
            self._known[read] = read(self)
        return self._known[read]

    @cached_property
    def _known(self) -> dict[Callable[[BodyMotion], Floats], Floats]:
        return {}

    def x(self, name: str) -> Floats:
        return self.place(name)[:, 0]

    def y(self, name: str) -> Floats:
        return self.place(name)[:, 1]

    def at(self, series: Floats, time_s: float) -> float:
        """A series' value at any time, by a cubic through the four frames about it: straight knees are straight for less time than passes
        between two frames. Linear where the lifter is not known in all four."""
        if time_s not in self._about:
            row = min(max(int(np.searchsorted(self.time_s, time_s, side="right")) - 1, 0), max(len(self.time_s) - 2, 0))
            span = self.time_s[row : row + 2]
            share = float(min(max((time_s - span[0]) / (span[-1] - span[0]), 0.0), 1.0)) if len(span) > 1 else 0.0
            (about,), (counts,) = frames_about(self.time_s, np.array([time_s]), through=4)
            self._about[time_s] = row, share, about, counts
        row, share, about, counts = self._about[time_s]
        # What is known in a frame does not rest on the next one.
        if share in (0.0, 1.0):
            return float(series[row + int(share)])
        value = float(counts @ series[about])
        return value if np.isfinite(value) else float((1 - share) * series[row] + share * series[row + 1])

    @cached_property
    def _about(self) -> dict[float, tuple[int, float, NDArray[np.intp], Floats]]:
        """After which frame a time is, and how far; and the four frames about it, with how much each counts."""
        return {}

    def speed(self, series: Floats) -> Floats:
        """How quickly a series `(frames,)` grows, per second: as `numpy.gradient` has it, but for what is the same for all series here."""
        if len(series) < 3:
            return np.gradient(series, self.time_s)
        before, here, after = self._slopes
        made = np.empty(len(series))
        made[1:-1] = before * series[:-2] + here * series[1:-1] + after * series[2:]
        made[0], made[-1] = ((series[k + 1] - series[k]) / (self.time_s[k + 1] - self.time_s[k]) for k in (0, -2))
        return made

    @cached_property
    def _slopes(self) -> tuple[Floats, Floats, Floats]:
        """What the frame before, a frame itself and the one after count in how quickly a series grows there."""
        before, after = np.diff(self.time_s)[:-1], np.diff(self.time_s)[1:]
        return -after / (before * (before + after)), (after - before) / (before * after), before / (after * (before + after))

    def angle(self, low: str, high: str) -> Floats:
        """Direction from one joint to another against the horizontal, degrees: 90 upright, below 90 leaning forward."""
        way = self.place(high) - self.place(low)
        return np.degrees(np.arctan2(way[:, 1], way[:, 0]))

    def bend(self, one: str, joint: str, other: str) -> Floats:
        """Included angle at a joint in the sagittal plane, degrees, 180 straight."""
        return included_deg(*(self.place(name) for name in (one, joint, other)))

    @cached_property
    def trunk(self) -> Floats:
        return self.angle("hip", "shoulder")

    @cached_property
    def knee(self) -> Floats:
        return self.bend("hip", "knee", "ankle")

    @cached_property
    def knee_straight(self) -> Floats:
        """Knee angle near straight, degrees, from the distance of hip and ankle against the lifter's own straightest stand.

        A leg that is held for 1 % longer than it is looks 16° from straight when it is; its own straightest moment does not.
        """
        # In space: a stance wider than the hips makes a leg look shorter from the side than it is.
        far = np.linalg.norm(self.place("near_hip") - self.place("near_ankle"), axis=1)
        thigh, shin = self.segments_m["thigh"], self.segments_m["shin"]
        straight = np.sqrt(thigh**2 + shin**2 - 2 * thigh * shin * np.cos(np.radians(STANDING_KNEE_DEG)))
        with np.errstate(invalid="ignore"):
            far = far * straight / np.nanpercentile(far, 98)
        cos = (thigh**2 + shin**2 - far**2) / (2 * thigh * shin)
        return np.asarray(np.degrees(np.arccos(np.clip(cos, -1, 1))))

    @cached_property
    def hip(self) -> Floats:
        return self.bend("shoulder", "hip", "knee")

    @cached_property
    def elbow(self) -> Floats:
        """Included angle at the elbow in space, degrees: from the side alone a wide grip looks straight or bent as it likes."""
        u, v = (self.place(f"near_{name}") - self.place("near_elbow") for name in ("shoulder", "wrist"))
        return np.asarray(np.degrees(np.arctan2(np.linalg.norm(np.cross(u, v), axis=1), (u * v).sum(1))))

    @cached_property
    def thigh_gap(self) -> Floats:
        """From the shaft's surface to the thigh's, m; the thigh's line runs on beyond knee and hip."""
        return self._in_front("knee", "hip") - SHAFT_RADIUS_M - THIGH_HALF * self.stature_m

    @cached_property
    def trunk_gap(self) -> Floats:
        """From the shaft's surface to the front of the trunk, m."""
        return self._in_front("hip", "shoulder") - SHAFT_RADIUS_M - TRUNK_HALF * self.stature_m

    @cached_property
    def up_thigh(self) -> Floats:
        """Where the bar is along the thigh: 0 at the knee joint, 100 at the hip joint."""
        along = (self.place("hip") - self.place("knee"))[:, :2]
        return np.asarray(100 * ((self.bar - self.place("knee")[:, :2]) * along).sum(1) / (along**2).sum(1))

    def _in_front(self, low: str, high: str) -> Floats:
        """How far the bar's middle is in front of the line of two joints, m."""
        along = (self.place(high) - self.place(low))[:, :2]
        off = self.bar - self.place(low)[:, :2]
        return np.asarray((along[:, 1] * off[:, 0] - along[:, 0] * off[:, 1]) / np.hypot(*along.T))

    def balance(self, load_kg: float | None) -> Floats:
        """Centre of mass of lifter and bar in front of mid-foot, m; a usual load stands in for one that was not told."""
        body_kg, bar_kg = BODY_KG_PER_M2 * self.stature_m**2, load_kg or USUAL_LOAD_KG
        body, middle = self._body_over_feet
        return (body_kg * body + bar_kg * self.x("bar")) / (body_kg + bar_kg) - middle

    @cached_property
    def _body_over_feet(self) -> tuple[Floats, Floats]:
        return balance_of(self.points)

    def doubt_of(self, read: Callable[[BodyMotion], Floats]) -> Floats:
        """How far off what is read of this lifter may as well be in each frame `(frames,)`; 0 where the body is known exactly."""
        drawn = [body.known(read) for body in self._all_drawn]
        return np.std(drawn, axis=0) if drawn else np.zeros(len(self.time_s))


def body_motion(tracks: JointTracks, time_s: Floats, start_s: float, stop_s: float, stature_m: float | None) -> BodyMotion | None:
    """The lifter over the stretch from `start_s` to `stop_s` on the clock `time_s` `(frames,)`, or None where no fit covers most of it."""
    best = max(
        (body for _, body in tracks.bodies), default=None, key=lambda body: min(body.time_s[-1], stop_s) - max(body.time_s[0], start_s)
    )
    if best is None or min(best.time_s[-1], stop_s) - max(best.time_s[0], start_s) < 0.6 * (stop_s - start_s):
        return None
    inside = (time_s >= best.time_s[0]) & (time_s <= best.time_s[-1])
    points, bar = np.full((len(time_s), len(POINTS), 3), np.nan), np.full((len(time_s), 2), np.nan)
    off = np.full((len(best.drawn_m), len(time_s), len(POINTS) + 1, 3), np.nan)
    at = time_s[inside]
    points[inside] = CubicSpline(best.time_s, best.points_m)(at)
    seen = np.isfinite(best.bar_m[:, 0])
    bar[inside] = CubicSpline(best.time_s[seen], best.bar_m[seen])(at)
    if len(best.drawn_m):
        after = np.clip(np.searchsorted(best.time_s, at), 1, len(best.time_s) - 1)
        share = ((at - best.time_s[after - 1]) / (best.time_s[after] - best.time_s[after - 1]))[:, None, None]
        off[:, inside] = best.drawn_m[:, after - 1] * (1 - share) + best.drawn_m[:, after] * share
    lengths: dict[str, float] = {
        name: best.shared[name] for name in ("thigh", "shin", "trunk", "upper_arm", "forearm", "grip") if name in best.shared
    }
    return BodyMotion(time_s, points, bar, off, stature_m or UNKNOWN_STATURE_M, lengths)
