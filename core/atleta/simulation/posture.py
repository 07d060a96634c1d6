"""Fit the whole body to a lift at once: splines of hip, trunk, shoulder girdle and bar that grant what was wished for.

A wish says what a signal (an angle, a distance, a speed) should be at a time or over a stretch, and how much it matters. All wishes
of a lift are granted together by least squares, so that what two of them cannot both have is shared out smoothly instead of by jerks.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline
from scipy.linalg import solveh_banded

from .build import SHAFT_RADIUS_M, Build
from .skeleton import Carriage, Setting, bent_towards, foot, knee_of, shoulder_of, wrist_of

Floats = NDArray[np.float64]
STATES = ("hip_x", "hip_y", "trunk", "bar_x", "girdle")
# A change of this size of each state counts as one in the trust region and in the differences.
NUDGE = 1e-5
# Acceleration of each state that is nothing out of the ordinary (m/s², rad/s²): what keeps the motion smooth between wishes.
EASY = np.array([25.0, 50.0, 110.0, 15.0, 20.0])
ROUNDS = 30


@dataclass(frozen=True)
class Wish:
    """`signal` at the samples `at` should be `value`, within `sd`. `bound` -1: not more than that; +1: not less; 0: just that."""

    signal: str
    at: NDArray[np.int64]
    value: Floats
    sd: float
    bound: int = 0
    rate: bool = False
    """The wish is about the state's change per second."""


@dataclass(frozen=True)
class Anchor:
    """The state should have changed by `value` at the samples `at` since the sample `since`, within `sd`."""

    state: str
    since: int
    at: NDArray[np.int64]
    value: Floats
    sd: float


@dataclass(frozen=True)
class Body:
    """What the fit sees of a posture, `(samples,)` each; legs by row (left, right)."""

    shoulder_x: Floats
    shoulder_y: Floats
    hip_x: Floats
    hip_y: Floats
    trunk: Floats
    girdle: Floats
    bar_x: Floats
    bar_y: Floats
    knees: tuple[Floats, Floats]
    ankles: tuple[Floats, Floats]
    heel_x: tuple[Floats, Floats]
    leg_slack: tuple[Floats, Floats]
    arm_slack: Floats


def body_of(build: Build, setting: Setting, carried: Carriage) -> Body:
    sx, sy = shoulder_of(build, carried)
    count = len(sx)
    hip = np.stack([carried.hip_x, carried.hip_y, np.full(count, build.hip_half_m)])
    knees, ankles, heels, slacks = [], [], [], []
    for row in (0, 1):
        ax, ay, hx, _ = foot(build, setting.ball_x[row], setting.air[row], setting.heel[row])
        ankle = np.stack([ax, ay, setting.stance[row]])
        knees.append(knee_of(build, hip, ankle, bent_towards(setting, row)))
        ankles.append(ankle)
        heels.append(hx)
        slacks.append(build.shank_m + build.thigh_m - np.sqrt(((hip - ankle) ** 2).sum(0)))
    shoulder = np.stack([sx, sy, np.full(count, build.shoulder_half_m)])
    hand = np.stack([carried.bar_x, setting.bar_y, setting.grip])
    wrist = wrist_of(build, shoulder, hand, setting.wrist, setting.rack, setting.rack_palm)
    arm = build.upper_arm_m + build.forearm_m - np.sqrt(((shoulder - wrist) ** 2).sum(0))
    return Body(sx, sy, carried.hip_x, carried.hip_y, carried.trunk, carried.girdle, carried.bar_x, setting.bar_y, (knees[0], knees[1]),
                (ankles[0], ankles[1]), (heels[0], heels[1]), (slacks[0], slacks[1]), arm)  # fmt: skip


def _bend(a: Floats, b: Floats, c: Floats) -> Floats:
    """Included angle at b in the sagittal plane, degrees."""
    u, v = a[:2] - b[:2], c[:2] - b[:2]
    return np.asarray(np.degrees(np.abs(np.arctan2(u[0] * v[1] - u[1] * v[0], (u * v).sum(0)))))


def _hip3(body: Body) -> Floats:
    return np.stack([body.hip_x, body.hip_y])


def _mid_foot(build: Build, body: Body) -> Floats:
    return np.asarray((body.heel_x[0] + body.heel_x[1]) / 2 + 0.5 * build.foot_m)


def _gap(build: Build, body: Body) -> Floats:
    """Distance of the shaft's surface from the thigh's, m."""
    hip, knee = _hip3(body), body.knees[1][:2]
    along = knee - hip
    along = along / np.sqrt((along**2).sum(0))
    off = np.stack([body.bar_x, body.bar_y]) - hip
    return np.asarray(along[0] * off[1] - along[1] * off[0]) - SHAFT_RADIUS_M - build.thigh_half_m


def _shin_gap(build: Build, body: Body) -> Floats:
    """Distance of the shaft's surface from the shin's, m."""
    knee, ankle = body.knees[1][:2], body.ankles[1][:2]
    along = knee - ankle
    along = along / np.sqrt((along**2).sum(0))
    off = np.stack([body.bar_x, body.bar_y]) - ankle
    return np.asarray(along[1] * off[0] - along[0] * off[1]) - SHAFT_RADIUS_M - 0.024 * build.stature_m


def _centre_of_mass_x(build: Build, body: Body, load_share: float) -> Floats:
    """Lifter and bar together, forward; segment masses from a published table, arms and head lumped."""
    arms = 0.5 * (body.shoulder_x + body.bar_x)
    trunk = 0.5 * (body.shoulder_x + body.hip_x)
    total = 0.578 * (0.9 * trunk + 0.1 * body.shoulder_x) + 0.1 * arms
    for knee, ankle in zip(body.knees, body.ankles, strict=True):
        total = total + 0.1 * 0.5 * (body.hip_x + knee[0]) + 0.061 * 0.5 * (knee[0] + ankle[0])
    return np.asarray((total + load_share * body.bar_x) / (1 + load_share))


def _trunk_gap(build: Build, body: Body) -> Floats:
    """Distance of the shaft's surface from the front of the trunk, m."""
    along_x, along_y = body.shoulder_x - body.hip_x, body.shoulder_y - body.hip_y
    off_x, off_y = body.bar_x - body.hip_x, body.bar_y - body.hip_y
    far = (along_y * off_x - along_x * off_y) / np.hypot(along_x, along_y)
    return np.asarray(far - SHAFT_RADIUS_M - build.trunk_half_m)


Signal = Callable[[Build, Body, float], Floats]
SIGNALS: dict[str, Signal] = {
    "hip_x": lambda b, p, w: p.hip_x,
    "hip_y": lambda b, p, w: p.hip_y,
    "trunk": lambda b, p, w: np.degrees(p.trunk),
    "girdle": lambda b, p, w: p.girdle,
    "bar_x": lambda b, p, w: p.bar_x,
    "shoulder_y": lambda b, p, w: p.shoulder_y,
    "shoulder_over_bar": lambda b, p, w: p.shoulder_x - p.bar_x,
    "shoulder_above_bar": lambda b, p, w: p.shoulder_y - p.bar_y,
    "knee_over_bar": lambda b, p, w: p.knees[1][0] - p.bar_x,
    "left_knee": lambda b, p, w: _bend(_hip3(p), p.knees[0], p.ankles[0]),
    "knee": lambda b, p, w: _bend(_hip3(p), p.knees[1], p.ankles[1]),
    "hip": lambda b, p, w: _bend(np.stack([p.shoulder_x, p.shoulder_y]), _hip3(p), p.knees[1]),
    "shin": lambda b, p, w: np.degrees(np.arctan2(p.knees[1][1] - p.ankles[1][1], p.knees[1][0] - p.ankles[1][0])),
    "left_shin": lambda b, p, w: np.degrees(np.arctan2(p.knees[0][1] - p.ankles[0][1], p.knees[0][0] - p.ankles[0][0])),
    "shin_gap": lambda b, p, w: _shin_gap(b, p),
    "gap": lambda b, p, w: _gap(b, p),
    "trunk_gap": lambda b, p, w: _trunk_gap(b, p),
    "arm_slack": lambda b, p, w: p.arm_slack,
    "leg_slack": lambda b, p, w: p.leg_slack[1],
    "left_leg_slack": lambda b, p, w: p.leg_slack[0],
    "balance": lambda b, p, w: _centre_of_mass_x(b, p, w) - _mid_foot(b, p),
    "bar_over_midfoot": lambda b, p, w: p.bar_x - _mid_foot(b, p),
    "hip_over_ankle": lambda b, p, w: p.hip_x - 0.5 * (p.ankles[0][0] + p.ankles[1][0]),
    "bar_over_hip": lambda b, p, w: p.bar_x - p.hip_x,
}


def fit(build: Build, setting: Setting, time_s: Floats, knots_s: Floats, wishes: Sequence[Wish], anchors: Sequence[Anchor],
        load_share: float, first: Carriage) -> tuple[Carriage, Callable[[Floats], Carriage]]:  # fmt: skip
    """The carriage that grants the wishes best, on the grid `time_s`, and the same as a function of time.

    Args:
        knots_s: inner knots of the splines, rising.
        load_share: the bar's mass against the lifter's.
        first: a rough idea to start from.
    """
    splines = _Splines(time_s, knots_s)
    coefficients = splines.nearest(np.stack([getattr(first, name) for name in STATES]))
    grouped: dict[str, list[Wish]] = {}
    for wish in wishes:
        grouped.setdefault(wish.signal, []).append(wish)
    easy = np.sqrt(float(np.median(np.diff(time_s))) / 0.01) * 0.25 / EASY
    damp, held, best = 1e-3, np.inf, coefficients
    band, downhill = np.zeros((1, 1)), np.zeros(1)
    grid = len(time_s)
    for turn in range(ROUNDS):
        states, speeds, bends = (splines.read(coefficients, order) for order in range(3))
        now = body_of(build, setting, Carriage(*states))
        nudged = [body_of(build, setting, Carriage(*(states + np.eye(5)[i][:, None] * NUDGE))) for i in range(5)]
        # Every wish speaks of samples; what it asks of the splines is gathered a sample at a time before it is spread on them.
        asks, pulls = np.zeros((grid, 5, 5)), np.zeros((grid, 5))
        rate_asks, rate_pulls = np.zeros((grid, 5)), np.zeros((grid, 5))
        cost = 0.0
        for signal, group in grouped.items():
            read = SIGNALS[signal]
            value = read(build, now, load_share)
            slopes = np.stack([(read(build, other, load_share) - value) / NUDGE for other in nudged], axis=1)
            for wish in group:
                index = STATES.index(signal) if wish.rate else -1
                off = ((speeds[index] if wish.rate else value)[wish.at] - wish.value) / wish.sd
                if wish.bound:
                    off = np.where(wish.bound * off < 0, off, 0.0)
                weight = np.where((off != 0) | (wish.bound == 0), 1 / wish.sd, 0.0)
                cost += float(off @ off)
                if wish.rate:
                    np.add.at(rate_asks[:, index], wish.at, weight**2)
                    np.add.at(rate_pulls[:, index], wish.at, weight * off)
                    continue
                there = slopes[wish.at]
                pulled, asked = (weight * off)[:, None] * there, (weight**2)[:, None, None] * there[:, :, None] * there[:, None, :]
                if wish.at[-1] - wish.at[0] == len(wish.at) - 1:
                    stretch = slice(wish.at[0], wish.at[-1] + 1)
                    pulls[stretch] += pulled
                    asks[stretch] += asked
                else:
                    np.add.at(pulls, wish.at, pulled)
                    np.add.at(asks, wish.at, asked)
        for anchor in anchors:
            # What it is anchored to is taken as it stands in this round; it settles with the others.
            index = STATES.index(anchor.state)
            off = (states[index][anchor.at] - states[index][anchor.since] - anchor.value) / anchor.sd
            cost += float(off @ off)
            np.add.at(asks[:, index, index], anchor.at, 1 / anchor.sd**2)
            np.add.at(pulls[:, index], anchor.at, off / anchor.sd)
        smooth = bends * easy[:, None]
        cost += float((smooth**2).sum())
        if cost < held:
            settled = held - cost < (1e-4 if turn < 8 else 2e-3) * cost
            best, held = coefficients, cost
            diagonal = np.eye(5)
            band = splines.spread(asks, 0) + splines.spread(rate_asks[:, :, None] * diagonal, 1)
            band = band + splines.spread(np.broadcast_to(diagonal * easy**2, (grid, 5, 5)), 2)
            downhill = splines.gather(pulls, 0) + splines.gather(rate_pulls, 1) + splines.gather((smooth * easy[:, None]).T, 2)
            if settled:
                break
            damp = max(damp / 4, 1e-5)
        else:
            damp *= 8
        damped = band.copy()
        damped[0] += damp * band[0] + 1e-8
        moved = splines.shaped(solveh_banded(damped, downhill, lower=True))
        coefficients = best - moved * min(1.0, 0.25 / max(np.abs(moved).max(), 1e-9))

    def at(times: Floats) -> Carriage:
        return Carriage(*splines.read_at(best, np.clip(times, time_s[0], time_s[-1])))

    return at(time_s), at


class _Splines:
    """Cubic splines of the five states on one grid, and the normal equations of least squares on them as a band."""

    def __init__(self, time_s: Floats, knots_s: Floats) -> None:
        inner = knots_s[(knots_s > time_s[0] + 1e-3) & (knots_s < time_s[-1] - 1e-3)]
        self.knots = np.concatenate([[time_s[0]] * 4, inner, [time_s[-1] + 1e-9] * 4])
        self.count = len(self.knots) - 4
        self.first = np.searchsorted(self.knots, time_s, side="right") - 4
        window = self.first[:, None] + np.arange(4)
        whole = BSpline(self.knots, np.eye(self.count), 3)
        rows = np.arange(len(time_s))[:, None]
        self.values = [(whole if order == 0 else whole.derivative(order))(time_s)[rows, window] for order in range(3)]
        self.window = window
        # Where the 20 x 20 block of every stretch between knots falls in the band of the lower triangle.
        self.starts = np.flatnonzero(np.diff(self.first, prepend=-1))
        at = (5 * (self.first[self.starts][:, None, None] + np.arange(4)[:, None]) + np.arange(5)).reshape(len(self.starts), 20)
        row, column = at[:, :, None], at[:, None, :]
        self.lower = np.broadcast_to(row >= column, (len(self.starts), 20, 20))
        self.flat = ((row - column) * (5 * self.count) + column)[self.lower]

    def read(self, coefficients: Floats, order: int) -> Floats:
        """The states, or their derivatives, `(5, samples)` from coefficients `(5, count)`."""
        return np.asarray(np.einsum("nk,snk->sn", self.values[order], coefficients[:, self.window]))

    def read_at(self, coefficients: Floats, times: Floats) -> Floats:
        return np.stack([BSpline(self.knots, row, 3)(times) for row in coefficients])

    def nearest(self, states: Floats) -> Floats:
        band = self.spread(np.broadcast_to(np.eye(5), (states.shape[1], 5, 5)), 0)
        band[0] += 1e-6
        return self.shaped(solveh_banded(band, self.gather(states.T, 0), lower=True))

    def spread(self, asks: Floats, order: int) -> Floats:
        """Sum of what every sample asks `(samples, 5, 5)` as a band `(20, 5 count)`."""
        values = self.values[order]
        blocks = np.einsum("np,nq,nij->npiqj", values, values, asks).reshape(len(values), 400)
        summed = np.add.reduceat(blocks, self.starts, axis=0).reshape(-1, 20, 20)
        return np.asarray(np.bincount(self.flat, summed[self.lower], minlength=20 * 5 * self.count).reshape(20, -1), float)

    def gather(self, pulls: Floats, order: int) -> Floats:
        """Sum of what every sample pulls `(samples, 5)` on the coefficients, `(5 count,)`."""
        made = np.zeros((self.count, 5))
        np.add.at(made, self.window, self.values[order][:, :, None] * pulls[:, None, :])
        return made.ravel()

    def shaped(self, flat: Floats) -> Floats:
        return np.ascontiguousarray(flat.reshape(self.count, 5).T)


def straighten(build: Build, setting: Setting, carried: Carriage) -> Carriage:
    """The same carriage with hips and shoulder girdle given that little bit by which feet or hands would be missed."""
    hip_x, hip_y = carried.hip_x.copy(), carried.hip_y.copy()
    # An arm folds only so far: shoulders that are nearer to the bar than that give way backwards.
    folded = build.upper_arm_m + build.forearm_m - (build.upper_arm_m - build.forearm_m) - 0.006
    for _ in range(5):
        body = body_of(build, setting, replace(carried, hip_x=hip_x))
        hip_x = hip_x - np.where(setting.held > 0.999, 1.2 * np.maximum(body.arm_slack - folded, 0.0), 0.0)
    carried = replace(carried, hip_x=hip_x)
    for _ in range(3):
        body = body_of(build, setting, replace(carried, hip_y=hip_y))
        hip_y = hip_y + 1.4 * np.minimum(np.minimum(*body.leg_slack) - 2e-5, 0.0)
    carried = replace(carried, hip_y=hip_y)
    girdle = carried.girdle.copy()
    for _ in range(4):
        body = body_of(build, setting, replace(carried, girdle=girdle))
        short = np.where(setting.held > 0.999, np.minimum(body.arm_slack - 2e-5, 0.0), 0.0)
        step = 1e-4
        pulled = body_of(build, setting, replace(carried, girdle=girdle + step))
        gives = (pulled.arm_slack - body.arm_slack) / step
        girdle = girdle - np.where(np.abs(gives) > 0.2, short / np.where(np.abs(gives) > 0.2, gives, 1.0), 0.0)
    carried = replace(carried, girdle=girdle)
    # Where the girdle cannot give it (an arm straight ahead), the shoulders go towards the bar.
    for _ in range(4):
        body = body_of(build, setting, replace(carried, hip_x=hip_x))
        short = np.where(setting.held > 0.999, np.minimum(body.arm_slack - 2e-5, 0.0), 0.0)
        hip_x = hip_x + 1.3 * short * np.sign(body.shoulder_x - body.bar_x)
    return replace(carried, hip_x=hip_x)
