"""A script of one set: the bar's height over time, and what is wished of the body along it.

Lifts write themselves into a script one after the other (`pulls.py`, `jerks.py`, `squats.py`); performing it fits the body to the
whole of it at once, so that a complex of several lifts moves as one.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import gaussian_filter1d

from .barpath import STEP_S, BarPath
from .build import DISC_RADIUS_M, Build
from .posture import STATES, Anchor, Wish, fit, straighten
from .skeleton import Carriage, Setting, joints

Floats = NDArray[np.float64]
Keys = Sequence[tuple[float, float]]
GRID_S = 0.01
# A dropped bar rolls on for about so long.
ROLL_OUT_S = 0.25
# An elbow takes about so long to swing from one side of the arm to another.
SWING_S = 0.045
# Channels that are settled directly, with where they begin.
CHANNELS = {
    "left_ball": 0.0, "right_ball": 0.0, "left_air": 0.0, "right_air": 0.0, "left_heel": 0.0, "right_heel": 0.0,
    "left_stance": 0.15, "right_stance": 0.15, "left_toe_out": 14.0, "right_toe_out": 14.0, "grip": 0.27,
    "wrist": 0.0, "rack": 0.0, "rack_palm": 100.0, "pole_x": -0.2, "pole_y": 0.0, "pole_z": 1.0,
    "held": 1.0, "knee_in": 0.0, "tilt": 0.0, "aside": 0.0,
}  # fmt: skip


@dataclass
class Part:
    """One lift inside a script: its kind, where it begins, and the times at which its author meant things to happen."""

    kind: str
    begins: str
    start_s: float
    stop_s: float = 0.0
    meant_s: dict[str, float] = field(default_factory=dict)
    made: bool = True
    asked: dict[str, float] = field(default_factory=dict)


@dataclass
class Script:
    """Everything wished of one lifter and one bar, in the order of time. Times in s from the script's own beginning."""

    build: Build
    load_kg: float
    body_kg: float
    heights: list[Floats] = field(default_factory=list)
    speeds: list[Floats] = field(default_factory=list)
    pushes: list[Floats] = field(default_factory=list)
    channels: dict[str, list[tuple[float, float]]] = field(default_factory=lambda: {name: [] for name in CHANNELS})
    wished: list[tuple[str, list[tuple[float, float]], float, float | None, int]] = field(default_factory=list)
    anchored: list[tuple[str, float, list[tuple[float, float]], float, float | None]] = field(default_factory=list)
    parts: list[Part] = field(default_factory=list)
    quick: list[tuple[float, float]] = field(default_factory=list)
    released_s: float | None = None
    lands_s: float | None = None
    """When a bar that was let go first comes down."""

    @property
    def now_s(self) -> float:
        return STEP_S * sum(len(piece) for piece in self.heights)

    @property
    def ground_m(self) -> float:
        """Bar centre above the floor when the discs rest: on the floor, or on the blocks that the set began from."""
        return float(self.heights[0][0]) if self.parts[0].begins == "blocks" else DISC_RADIUS_M

    @property
    def height_m(self) -> float:
        return float(self.heights[-1][-1])

    def add_path(self, path: BarPath) -> dict[str, float]:
        """Append a bar path; its events on the script's clock."""
        shift = self.now_s - float(path.time_s[0])
        self.heights.append(path.y_m)
        self.speeds.append(path.vy_m_s)
        self.pushes.append(path.ay_m_s2)
        return {name: at + shift for name, at in path.events_s.items()}

    def hold(self, length_s: float, height_m: float | None = None) -> tuple[float, float]:
        """Keep the bar where it is; begin and end."""
        begin = self.now_s
        count = max(round(length_s / STEP_S), 1)
        self.heights.append(np.full(count, self.height_m if height_m is None else height_m))
        self.speeds.append(np.zeros(count))
        self.pushes.append(np.zeros(count))
        return begin, self.now_s

    def move(self, to_m: float, length_s: float, *, lean: float = 0.0) -> tuple[float, float]:
        """Bring the bar to a height smoothly, from rest to rest; `lean` above 0 is faster early, below 0 late. Begin and end."""
        begin, start = self.now_s, self.height_m
        share = np.arange(STEP_S, length_s + STEP_S / 2, STEP_S) / length_s
        way = to_m - start
        # A quintic, and a further term that vanishes with its first two derivatives at both ends and shifts the work in time.
        extra = share**3 * (1 - share) ** 3
        extra_v = 3 * share**2 * (1 - share) ** 3 - 3 * share**3 * (1 - share) ** 2
        extra_a = 6 * share * (1 - share) ** 3 - 18 * share**2 * (1 - share) ** 2 + 6 * share**3 * (1 - share)
        self.heights.append(start + way * (10 * share**3 - 15 * share**4 + 6 * share**5 + lean * extra))
        self.speeds.append(way / length_s * (30 * share**2 - 60 * share**3 + 30 * share**4 + lean * extra_v))
        self.pushes.append(way / length_s**2 * (60 * share - 180 * share**2 + 120 * share**3 + lean * extra_a))
        return begin, self.now_s

    def sink(self, to_m: float, length_s: float, brake_m: float) -> tuple[float, float]:
        """Bring the bar down faster and faster until it is `brake_m` above where it comes to rest. Begin and end."""
        begin, start = self.now_s, self.height_m
        way = start - to_m
        fastest = way * np.pi / (2 * length_s)
        brake_s = brake_m * np.pi / (2 * fastest)
        time = np.arange(STEP_S, length_s, STEP_S)
        fall_s = length_s - brake_s
        falling = time < fall_s
        one, two = np.pi / (2 * fall_s), np.pi / (2 * brake_s)
        late = time - fall_s
        gone = np.where(falling, fastest / one * (1 - np.cos(one * time)), fastest / one + fastest / two * np.sin(two * late))
        speed = np.where(falling, fastest * np.sin(one * time), fastest * np.cos(two * late))
        push = np.where(falling, fastest * one * np.cos(one * time), -fastest * two * np.sin(two * late))
        self.heights.append(start - gone)
        self.speeds.append(-speed)
        self.pushes.append(-push)
        self.hold(0.05, to_m)
        return begin, self.now_s

    def set(self, channel: str, keys: Keys) -> None:
        self.channels[channel] += list(keys)

    def both(self, channel: str, keys: Keys) -> None:
        for side in ("left", "right"):
            self.set(f"{side}_{channel}", keys)

    def last(self, channel: str) -> float:
        return self.channels[channel][-1][1] if self.channels[channel] else CHANNELS[channel]

    def wish(self, signal: str, keys: Keys, sd: float, between: float | None = None, bound: int = 0) -> None:
        """Wish for a signal's values at times (within `sd`), and, given `between`, for its smooth course from one to the next."""
        self.wished.append((signal, list(keys), sd, between, bound))

    def anchor(self, signal: str, since_s: float, keys: Keys, sd: float, between: float | None = None) -> None:
        """Wish for a signal's change since a time, whatever it is then."""
        self.anchored.append((signal, since_s, list(keys), sd, between))

    def bar_y(self, time_s: float) -> float:
        return float(np.interp(time_s, STEP_S * np.arange(round(self.now_s / STEP_S)), np.concatenate(self.heights)))

    def begin_part(self, kind: str, begins: str) -> Part:
        self.parts.append(Part(kind, begins, self.now_s))
        return self.parts[-1]


@dataclass(frozen=True)
class Performance:
    """A performed script: the bar on a fine clock and the body at any time."""

    build: Build
    load_kg: float
    body_kg: float
    path: BarPath
    parts: tuple[Part, ...]
    body_at: Callable[[Floats], dict[str, Floats]]
    released_s: float | None


def perform(script: Script) -> Performance:
    """Fit the body to the script."""
    y = np.concatenate(script.heights)
    fine: Floats = np.asarray(STEP_S * np.arange(len(y)), np.float64)
    grid = np.arange(0.0, fine[-1], GRID_S)
    wishes = []
    for signal, keys, sd, between, bound in script.wished:
        name, rate = (signal.removesuffix("'"), True) if signal.endswith("'") else (signal, False)
        times, values = _ordered(keys)
        at = np.clip(np.round(times / GRID_S).astype(np.int64), 0, len(grid) - 1)
        wishes.append(Wish(name, at, values, sd, bound, rate))
        if between is not None and len(times) > 1:
            inside = np.arange(at[0], at[-1] + 1)
            course = PchipInterpolator(times, values)(np.clip(grid[inside], times[0], times[-1]))
            wishes.append(Wish(name, inside, np.asarray(course), between, bound, rate))
    anchors = []
    for signal, since, keys, sd, between in script.anchored:
        since_at = round(since / GRID_S)
        times, values = _ordered(keys)
        at = np.clip(np.round(times / GRID_S).astype(np.int64), 0, len(grid) - 1)
        anchors.append(Anchor(signal, since_at, at, values, sd))
        if between is not None:
            inside = np.arange(since_at, at[-1] + 1)
            course = PchipInterpolator(np.append(since, times), np.append(0.0, values))(np.clip(grid[inside], since, times[-1]))
            anchors.append(Anchor(signal, since_at, inside, np.asarray(course), between))
    setting = settle(script, grid)
    everywhere = np.arange(len(grid))
    for name in ("leg_slack", "left_leg_slack"):
        wishes.append(Wish(name, everywhere, np.full(len(grid), 0.0008), 0.0005, 1))
    folded = 2 * script.build.forearm_m - 0.03
    holding = np.flatnonzero(setting.held > 0.99)
    wishes.append(Wish("arm_slack", holding, np.full(len(holding), folded), 0.002, -1))
    wishes.append(Wish("arm_slack", holding, np.full(len(holding), 0.0001), 0.001, 1))
    wishes.append(Wish("girdle", everywhere, np.zeros(len(grid)), 0.02))
    share = script.load_kg / script.body_kg
    knots = _knots(script, float(grid[-1]))
    carried, at_time = fit(script.build, setting, grid, knots, wishes, anchors, share, _rough(script, grid))
    free_x = _let_go_x(script, at_time)
    bar_x: Floats = np.asarray(free_x(fine, at_time(fine).bar_x), np.float64)
    speeds: Floats = np.asarray(np.concatenate(script.speeds), np.float64)
    pushes: Floats = np.asarray(np.concatenate(script.pushes), np.float64)
    path = BarPath(script.parts[0].kind, np.asarray(fine, np.float64), bar_x, y, speeds, pushes)
    pole = _swung(script.build, setting, straighten(script.build, setting, replace(carried, bar_x=free_x(grid, carried.bar_x))))

    def body_at(times: Floats) -> dict[str, Floats]:
        times = np.atleast_1d(np.asarray(times, float))
        there = replace(settle(script, times), pole=np.stack([np.interp(times, grid, row) for row in pole]))
        fitted = at_time(times)
        made = straighten(script.build, there, replace(fitted, bar_x=free_x(times, fitted.bar_x)))
        return joints(script.build, there, made)

    return Performance(script.build, script.load_kg, script.body_kg, path, tuple(script.parts), body_at, script.released_s)


def _swung(build: Build, setting: Setting, carried: Carriage) -> Floats:
    """Where the elbows point `(3, samples)` once their swing is made smooth: an arm that unfolds passes through places in which the
    direction it was given says little, and there an elbow would leap."""
    made = joints(build, setting, carried)
    shoulder, elbow, wrist = (made[f"right_{name}"] for name in ("shoulder", "elbow", "wrist"))
    along = (wrist - shoulder) / np.sqrt(((wrist - shoulder) ** 2).sum(0))
    aside = (elbow - shoulder) - ((elbow - shoulder) * along).sum(0) * along
    aside = aside / np.maximum(np.sqrt((aside**2).sum(0)), 1e-9)
    smooth = gaussian_filter1d(aside, SWING_S / GRID_S, axis=1)
    return np.asarray(smooth / np.maximum(np.sqrt((smooth**2).sum(0)), 1e-9))


def _let_go_x(script: Script, at_time: Callable[[Floats], Carriage]) -> Callable[[Floats, Floats], Floats]:
    """What corrects the fitted bar after it was let go: it flies on as fast as it went, and rolls out once it has landed."""
    if script.released_s is None or script.lands_s is None:
        return lambda times, x: x
    released, lands = script.released_s, script.lands_s
    near = at_time(np.array([released - 0.01, released])).bar_x
    x0, speed = float(near[1]), float(near[1] - near[0]) / 0.01

    def free(times: Floats, x: Floats) -> Floats:
        flown = np.clip(times - released, 0.0, lands - released)
        rolled = ROLL_OUT_S * (1 - np.exp(-np.clip(times - lands, 0.0, None) / ROLL_OUT_S))
        return np.where(times <= released, x, x0 + speed * (flown + rolled))

    return free


def settle(script: Script, times: Floats) -> Setting:
    """The settled channels at some times."""
    made = {}
    for name, start in CHANNELS.items():
        keys = script.channels[name]
        if len(keys) < 2:
            made[name] = np.full(len(times), keys[0][1] if keys else start)
            continue
        at, values = _ordered(keys)
        made[name] = PchipInterpolator(at, values)(np.clip(times, at[0], at[-1]))
    y = np.concatenate(script.heights)
    bar_y = np.interp(times, STEP_S * np.arange(len(y)), y)
    pole = np.stack([made["pole_x"], made["pole_y"], made["pole_z"]])
    return Setting(
        bar_y, np.stack([made["left_ball"], made["right_ball"]]), np.stack([made["left_air"], made["right_air"]]),
        np.stack([made["left_heel"], made["right_heel"]]), np.stack([made["left_stance"], made["right_stance"]]),
        np.radians(np.stack([made["left_toe_out"], made["right_toe_out"]])), made["grip"],
        np.radians(made["wrist"]), made["rack"], np.radians(made["rack_palm"]), pole / np.sqrt((pole**2).sum(0)), made["held"],
        np.radians(made["knee_in"]), np.radians(made["tilt"]), made["aside"],
    )  # fmt: skip


def _ordered(keys: Keys) -> tuple[Floats, Floats]:
    """Keys by time; of two within a millisecond the later wish stands."""
    rows: dict[int, tuple[float, float]] = {}
    for at, value in sorted(keys, key=lambda key: key[0]):
        rows[round(at * 1000)] = (at, value)
    held = np.array(list(rows.values()))
    return held[:, 0], held[:, 1]


def _knots(script: Script, end_s: float) -> Floats:
    """Close knots where the lift is quick, wide ones elsewhere."""
    knots, at = [], 0.0
    while at < end_s:
        knots.append(at)
        at += 0.045 if any(a <= at <= b for a, b in script.quick) else 0.13
    return np.array(knots)


def _rough(script: Script, grid: Floats) -> Carriage:
    """Where to start the fit: what was wished of the states themselves, a standing body otherwise."""
    start = {"hip_x": -0.05, "hip_y": 0.8 * script.build.hip_height_m, "trunk": 70.0, "bar_x": 0.0, "girdle": 0.0}
    made: Mapping[str, Floats] = {name: np.full(len(grid), value) for name, value in start.items()}
    for name in STATES:
        keys = [key for signal, held, _, _, bound in script.wished if signal == name and not bound for key in held]
        if len(keys) > 1:
            at, values = _ordered(keys)
            made[name][:] = PchipInterpolator(at, values)(np.clip(grid, at[0], at[-1]))
    return Carriage(made["hip_x"], made["hip_y"], np.radians(made["trunk"]), made["bar_x"], made["girdle"])
