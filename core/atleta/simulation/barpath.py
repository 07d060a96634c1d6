r"""The bar's path of a simulated lift, built first; the lifter's body follows it.

Vertical motion is given as acceleration at a few instants and integrated, so that speed and height are exact consequences:

    a  |        __                 __
       |   E __/  \__   M      P /  \
       |   /         \__ T ____/      \            meet
     0 +--/----------------------------\----------/---\-----------
       | lift-off                        \________/ drop     stand
    -g |                                  free rise
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.integrate import cumulative_trapezoid
from scipy.optimize import brentq

from .build import DISC_RADIUS_M, Build

G = 9.81
STEP_S = 0.0005
PRESS_S = 0.30
# The legs are done with a jerk when the bar is this far above the rack.
DRIVEN_ABOVE_RACK_M = 0.05
# Rubber gives: the discs have left the floor once the bar is this much higher than it lay.
CLEAR_OF_FLOOR_M = 0.0001

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class PullSpec:
    """What a simulated snatch or clean is asked to do. Lengths in metres, forward positive."""

    kind: str
    peak_speed_m_s: float
    peak_speed_height_m: float
    """Bar centre above the floor at its largest upward speed."""
    drop_m: float
    """Fall from the apex until the lifter takes the load again."""
    ride_m: float
    """Further way down from there to the bottom."""
    stand_height_m: float
    early_ratio: float = 0.78
    """Largest force of the first 0.2 s over the largest of the second pull."""
    forward_off_floor_m: float = 0.003
    back_at_knee_m: float = 0.03
    back_at_contact_m: float = 0.055
    loop_forward_m: float = 0.045
    loop_back_m: float = 0.035
    middle_push_m_s2: float = 2.0
    """Acceleration in the middle of the first pull; with speed and height it settles how long the pull takes."""
    transition_m_s2: float = 0.4
    """Acceleration between the two pulls; below zero the bar loses speed there."""
    late_share: float = 0.935
    """When in the pull the second pull pushes hardest, as a share of the way from lift-off to the largest speed."""
    fall_share: float = 0.97
    """Share of g at which the bar falls while nothing holds it."""
    start_height_m: float = DISC_RADIUS_M
    """Bar centre above the floor before the lift: higher from blocks or after a pause."""
    rebounds_m: tuple[float, ...] = ()
    """Further downs and ups in the bottom before standing up, each so deep."""
    press_m: float = 0.0
    """How far the arms press the bar up in the bottom."""
    stand_s: float = 1.5
    rest_before_s: float = 1.2
    rest_after_s: float = 1.0


@dataclass(frozen=True)
class JerkSpec:
    """What a simulated jerk is asked to do. Lengths in metres, forward positive."""

    kind: str = "split_jerk"
    rack_height_m: float = 1.40
    dip_m: float = 0.15
    dip_s: float = 0.42
    drive_speed_m_s: float = 1.95
    drop_m: float = 0.03
    ride_m: float = 0.03
    """Further way down from the meeting to the bottom."""
    press_m: float = 0.0
    """How far the arms press the bar up after the bottom."""
    settle_s: float = 0.4
    lockout_gain_m: float = 0.34
    fall_share: float = 0.6
    """Share of g at which the bar slows and falls once the legs are done: the arms push on while the lifter goes under."""
    rest_before_s: float = 1.0
    rest_after_s: float = 1.2


@dataclass(frozen=True)
class BarPath:
    """A bar path on a fine clock, `(samples,)` each: time s, x forward and y above the floor m, exact derivatives."""

    kind: str
    time_s: Floats
    x_m: Floats
    y_m: Floats
    vy_m_s: Floats
    ay_m_s2: Floats
    events_s: dict[str, float] = field(default_factory=dict)

    def at(self, time_s: float) -> tuple[float, float]:
        return float(np.interp(time_s, self.time_s, self.x_m)), float(np.interp(time_s, self.time_s, self.y_m))

    def until(self, end_s: float) -> BarPath:
        """The path as far as a time, with the events up to there."""
        count = int(np.searchsorted(self.time_s, end_s)) + 1
        kept = {name: at for name, at in self.events_s.items() if at <= end_s + 1e-9}
        return BarPath(self.kind, self.time_s[:count], self.x_m[:count], self.y_m[:count], self.vy_m_s[:count], self.ay_m_s2[:count], kept)


def pull_path(spec: PullSpec, build: Build) -> BarPath:
    """Bar path of a lift from the floor, or from higher up, to standing. Its x stays zero: the body settles it.

    Raises:
        ValueError: no bar can do what was asked; the message says what to ask instead.
    """
    high = spec.start_height_m > build.knee_height_m - 0.08
    pull_s = _high_pull_length_s(spec) if high else _pull_length_s(spec)
    pull = np.arange(0.0, pull_s + STEP_S / 2, STEP_S)
    ay = (_high_pull_acceleration if high else _pull_acceleration)(spec, pull, pull_s)
    vy, y = _integrate(pull, ay, 0.0, spec.start_height_m)
    if y.min() < spec.start_height_m - 1e-6:
        raise ValueError("A start as soft as that does not lift the bar; ask for a higher early ratio.")

    # After the largest speed the legs have nothing left to give: the push fades in 70 ms to a nearly free flight.
    fade_s, fall = 0.07, -G * spec.fall_share
    fade = np.arange(0.0, fade_s + STEP_S / 2, STEP_S)
    ay_fade = fall * np.sin(np.pi / 2 * fade / fade_s)
    vy_fade, y_fade = (part[1:] for part in _integrate(fade, ay_fade, vy[-1], y[-1]))
    ay_fade = ay_fade[1:]
    speed = vy_fade[-1]
    to_apex_s = -speed / fall
    apex = y_fade[-1] + speed**2 / (2 * -fall)
    down_s = float(np.sqrt(2 * spec.drop_m / -fall))
    free = np.arange(STEP_S, to_apex_s + down_s, STEP_S)
    vy_free, y_free = speed + fall * free, y_fade[-1] + speed * free + fall * free**2 / 2
    ay_free = np.full_like(free, fall)

    # Braked to the bottom, then stood up with; both with smooth acceleration.
    sink, meet_y = -vy_free[-1], y_free[-1]
    brake_y, brake_v, brake_a, _ = _brake(sink, spec.ride_m, fall)
    bottom_y = meet_y - spec.ride_m
    settle = np.arange(STEP_S, 0.35 if spec.press_m == 0 else 0.45, STEP_S)
    settle_y, settle_v, settle_a = _rebounding(spec.rebounds_m, bottom_y) if spec.rebounds_m else _pressed(settle, bottom_y, spec.press_m)
    rise_s = spec.stand_s
    rise = np.arange(STEP_S, rise_s, STEP_S)
    share = rise / rise_s
    low_y = float(settle_y[-1])
    span = spec.stand_height_m - low_y
    rise_y = low_y + span * (10 * share**3 - 15 * share**4 + 6 * share**5)
    rise_v = span / rise_s * (30 * share**2 - 60 * share**3 + 30 * share**4)
    rise_a = span / rise_s**2 * (60 * share - 180 * share**2 + 120 * share**3)
    hold = np.arange(STEP_S, spec.rest_after_s, STEP_S)

    before = np.arange(-spec.rest_before_s, 0.0, STEP_S)
    still = np.zeros_like
    parts_y = [
        np.full_like(before, spec.start_height_m),
        y,
        y_fade,
        y_free,
        meet_y + brake_y,
        settle_y,
        rise_y,
        np.full_like(hold, spec.stand_height_m),
    ]
    parts_v = [still(before), vy, vy_fade, vy_free, brake_v, settle_v, rise_v, still(hold)]
    parts_a = [still(before), ay, ay_fade, ay_free, brake_a, settle_a, rise_a, still(hold)]
    lengths = np.cumsum([len(part) for part in parts_y])
    y_all, v_all, a_all = (np.concatenate(parts) for parts in (parts_y, parts_v, parts_a))
    time = before[0] + STEP_S * np.arange(len(y_all))

    knee_s = float(np.interp(build.knee_height_m, y, pull))
    events = {
        "lift_off": float(np.interp(spec.start_height_m + CLEAR_OF_FLOOR_M, y, pull)),
        "knee": knee_s,
        "contact": pull_s - 0.10,
        "peak_speed": pull_s,
        "apex": pull_s + fade_s + to_apex_s,
        "meet": pull_s + fade_s + to_apex_s + down_s,
        "bottom": float(time[lengths[4] - 1]),
        "stand": float(time[lengths[6] - 1]),
    }
    if high:
        del events["knee"], events["lift_off"]
        events["pull_start"] = 0.0
    assert apex > spec.peak_speed_height_m
    return BarPath(spec.kind, time, np.zeros_like(time), y_all, v_all, a_all, events)


def jerk_path(spec: JerkSpec) -> BarPath:
    """Bar path of a jerk from the rack: dip, drive, flight, lockout, recovery. Its x stays zero: the body settles it.

    Raises:
        ValueError: the dip turns harder than a drive to that speed allows.
    """
    before = np.arange(-spec.rest_before_s, 0.0, STEP_S)
    dip = np.arange(0.0, spec.dip_s, STEP_S)
    share = dip / spec.dip_s
    # Down as 1 - cos, so that the dip starts and turns without a jolt.
    omega = np.pi / spec.dip_s
    dip_y = -spec.dip_m * (1 - np.cos(np.pi * share)) / 2
    dip_v = -spec.dip_m * omega * np.sin(np.pi * share) / 2
    dip_a = -spec.dip_m * omega**2 * np.cos(np.pi * share) / 2
    # Up again until the largest speed, a little above the rack, then a fade into the flight.
    gain = spec.dip_m + DRIVEN_ABOVE_RACK_M
    drive_s = 1.9 * gain / spec.drive_speed_m_s
    drive = np.arange(0.0, drive_s, STEP_S)
    u = drive / drive_s
    # a(u) from the dip's turning acceleration through a free parameter to zero: two unknowns for speed and way.
    a0 = spec.dip_m * omega**2 / 2
    shapes = [np.interp(u, [0, 0.35, 0.75, 1], nodes) for nodes in ([0, 1, 0, 0], [0, 0, 1, 0])]
    base = np.interp(u, [0, 0.35, 0.75, 1], [a0, 0, 0, 0])
    drive_a = _solve_mix(drive, base, shapes, spec.drive_speed_m_s, gain)
    drive_v, drive_y = _integrate(drive, drive_a, 0.0, -spec.dip_m)
    fade_s, fall = 0.06, -G * spec.fall_share
    fade = np.arange(0.0, fade_s, STEP_S)
    fade_a = fall * (1 - np.cos(np.pi * fade / fade_s)) / 2
    fade_v, fade_y = (part[1:] for part in _integrate(fade, fade_a, drive_v[-1], drive_y[-1]))
    fade_a = fade_a[1:]
    to_apex_s = fade_v[-1] / -fall
    down_s = float(np.sqrt(2 * spec.drop_m / -fall))
    free = np.arange(STEP_S, to_apex_s + down_s, STEP_S)
    free_v, free_y = fade_v[-1] + fall * free, fade_y[-1] + fade_v[-1] * free + fall * free**2 / 2
    brake_y, brake_v, brake_a, _ = _brake(-free_v[-1], spec.ride_m, fall)
    settle = np.arange(STEP_S, spec.settle_s, STEP_S)
    settle_y, settle_v, settle_a = _pressed(settle, 0.0, spec.press_m)
    rise_s = 1.5
    rise = np.arange(STEP_S, rise_s, STEP_S)
    r = rise / rise_s
    floor_y = free_y[-1] + brake_y[-1]
    span = spec.lockout_gain_m - spec.press_m
    rise_y = floor_y + spec.press_m + span * (10 * r**3 - 15 * r**4 + 6 * r**5)
    rise_v = span / rise_s * (30 * r**2 - 60 * r**3 + 30 * r**4)
    rise_a = span / rise_s**2 * (60 * r - 180 * r**2 + 120 * r**3)
    hold = np.arange(STEP_S, spec.rest_after_s, STEP_S)
    zero = np.zeros_like
    parts_y = [zero(before), dip_y, drive_y, fade_y, free_y, free_y[-1] + brake_y, floor_y + settle_y, rise_y,
               np.full_like(hold, floor_y + spec.lockout_gain_m)]  # fmt: skip
    parts_v = [zero(before), dip_v, drive_v, fade_v, free_v, brake_v, settle_v, rise_v, zero(hold)]
    parts_a = [zero(before), dip_a, drive_a, fade_a, np.full_like(free, fall), brake_a, settle_a, rise_a, zero(hold)]
    y = spec.rack_height_m + np.concatenate(parts_y)
    time = before[0] + STEP_S * np.arange(len(y))
    ends = np.cumsum([len(part) for part in parts_y])
    events = {
        "dip_start": 0.0,
        "dip_bottom": spec.dip_s,
        "drive_end": float(time[ends[2] - 1]),
        "apex": float(time[ends[3] - 1] + to_apex_s),
        "meet": float(time[ends[4] - 1]),
        "bottom": float(time[ends[5] - 1]),
        "settled": float(time[ends[6] - 1]),
        "recovered": float(time[ends[7] - 1]),
    }
    return BarPath(spec.kind, time, zero(time), y, np.concatenate(parts_v), np.concatenate(parts_a), events)


def jerk_rise_m(speed_m_s: float, fall_share: float) -> float:
    """How far the bar rises from where the legs gave it this speed: a push that fades in 60 ms, then flight."""
    fade_s, fall = 0.06, G * fall_share
    left = speed_m_s - fall * fade_s / 2
    return float(speed_m_s * fade_s - fall * fade_s**2 * (0.25 - 1 / np.pi**2) + left**2 / (2 * fall))


def _pull_length_s(spec: PullSpec) -> float:
    """How long the pull takes for the first pull to push as hard as asked."""

    def surplus(length_s: float) -> float:
        time = np.arange(0.0, length_s, STEP_S)
        return float(np.interp(0.30 * length_s, time, _pull_acceleration(spec, time, length_s))) - spec.middle_push_m_s2

    lengths = np.arange(0.4, 2.0, 0.05)
    surpluses = [surplus(float(length)) for length in lengths]
    found = []
    for shorter, longer, a, b in zip(lengths, lengths[1:], surpluses, surpluses[1:], strict=False):
        if a * b <= 0:
            length = float(brentq(surplus, shorter, longer, xtol=STEP_S))
            time = np.arange(0.0, length, STEP_S)
            push = _pull_acceleration(spec, time, length)
            early, late = float(np.interp(0.11, time, push)), float(np.interp(spec.late_share * length, time, push))
            found.append((abs((early + G) / max(late + G, 1e-6) - spec.early_ratio) if late > 0 else np.inf, length))
    if found and min(found)[0] < np.inf:
        return min(found)[1]
    raise ValueError("No pull of 0.4 to 2 s does what was asked; ask for less speed, less height or another push.")


def _pull_acceleration(spec: PullSpec, time: Floats, end: float) -> Floats:
    """Acceleration from lift-off to the largest speed, meeting that speed at the height asked.

    Nodes: 0 at lift-off, E at 0.11 s, M, a low T in the transition, P in the second pull, 0 at the end. E is tied to P by the
    early force ratio; M and P follow from the speed and the way, both linear in them.
    """
    nodes = [0.0, 0.11, 0.30 * end, 0.62 * end, spec.late_share * end, end]
    low = spec.transition_m_s2
    from_second_pull = _eased(time, nodes, [0, spec.early_ratio, 0, 0, 1, 0])
    from_middle = _eased(time, nodes, [0, 0, 1, 0, 0, 0])
    base = _eased(time, nodes, [0, (spec.early_ratio - 1) * G, 0, low, 0, 0])
    return _solve_mix(time, base, [from_second_pull, from_middle], spec.peak_speed_m_s, spec.peak_speed_height_m - spec.start_height_m)


def _high_pull_length_s(spec: PullSpec) -> float:
    return 2.35 * (spec.peak_speed_height_m - spec.start_height_m) / spec.peak_speed_m_s


def _high_pull_acceleration(spec: PullSpec, time: Floats, end: float) -> Floats:
    """From the knee or higher there is one push that grows until it fades."""
    nodes = [0.0, 0.30 * end, 0.92 * end, end]
    shapes = [_eased(time, nodes, values) for values in ([0.0, 1.0, 0.0, 0.0], [0.0, 0.0, 1.0, 0.0])]
    return _solve_mix(time, np.zeros_like(time), shapes, spec.peak_speed_m_s, spec.peak_speed_height_m - spec.start_height_m)


def _eased(time: Floats, nodes: list[float], values: list[float]) -> Floats:
    """Half-cosine interpolation between nodes, linear in the values. The first node is left and the last is reached with a slope
    (quarter sines): force passes the bar's weight at lift-off, and again at the largest speed, without lingering there."""
    index = np.clip(np.searchsorted(nodes, time, side="right") - 1, 0, len(nodes) - 2)
    left, right = np.asarray(nodes)[index], np.asarray(nodes)[index + 1]
    share = (time - left) / (right - left)
    weight = (1 - np.cos(np.pi * share)) / 2
    weight = np.where(index == 0, np.sin(np.pi / 2 * share), weight)
    weight = np.where(index == len(nodes) - 2, 1 - np.cos(np.pi / 2 * share), weight)
    held = np.asarray(values, float)
    return np.asarray(held[index] * (1 - weight) + held[index + 1] * weight)


def _solve_mix(time: Floats, base: Floats, shapes: list[Floats], speed: float, way: float) -> Floats:
    """Mix two shapes onto a base so that the integrals reach `speed` and `way` at the end."""
    rows = [(v[-1], s[-1]) for v, s in (_integrate(time, shape, 0.0, 0.0) for shape in shapes)]
    v0, s0 = (series[-1] for series in _integrate(time, base, 0.0, 0.0))
    mix = np.linalg.solve(np.array(rows).T, [speed - v0, way - s0])
    return np.asarray(base + mix[0] * shapes[0] + mix[1] * shapes[1])


def _integrate(time: Floats, a: Floats, v0: float, y0: float) -> tuple[Floats, Floats]:
    v = v0 + np.asarray(cumulative_trapezoid(a, time, initial=0))
    return v, y0 + np.asarray(cumulative_trapezoid(v, time, initial=0))


def _brake(sink_m_s: float, ride_m: float, start_a: float) -> tuple[Floats, Floats, Floats, Floats]:
    """From sinking at `sink_m_s` to rest over `ride_m`: way (from 0 downwards), speed, acceleration, time.

    The catch is a quick rise of force (30 ms) and then a long brake whose length is solved to use up the ride.
    """
    catch_s = 0.03

    def run(length_s: float) -> tuple[Floats, Floats, Floats, Floats]:
        time = np.arange(0.0, catch_s + length_s, STEP_S)
        shape = np.where(time < catch_s, time / catch_s, np.sqrt(np.clip(1 - (time - catch_s) / length_s, 0, 1)))
        early = np.where(time < catch_s, 1 - time / catch_s, 0.0)
        drift = start_a * early
        need = sink_m_s - np.trapezoid(drift, time)
        a = drift + shape * need / np.trapezoid(shape, time)
        v, y = _integrate(time, a, -sink_m_s, 0.0)
        return y[1:], v[1:], a[1:], time[1:]

    low, high = 0.02, 3.0
    for _ in range(50):
        middle = (low + high) / 2
        if -run(middle)[0][-1] < ride_m:
            low = middle
        else:
            high = middle
    return run(low)


def _pressed(time: Floats, from_m: float, way_m: float) -> tuple[Floats, Floats, Floats]:
    """At rest, and pressed up by a way from 0.05 s on."""
    share = np.clip((time - 0.05) / PRESS_S, 0, 1)
    y = from_m + way_m * (10 * share**3 - 15 * share**4 + 6 * share**5)
    v = way_m / PRESS_S * (30 * share**2 - 60 * share**3 + 30 * share**4)
    return y, v, way_m / PRESS_S**2 * (60 * share - 180 * share**2 + 120 * share**3)


def _rebounding(depths_m: tuple[float, ...], bottom_y: float) -> tuple[Floats, Floats, Floats]:
    """Up and down again in the bottom, once for every depth, 0.3 s each, as a raised cosine."""
    length_s = 0.3
    time = np.arange(STEP_S, length_s, STEP_S)
    turn = 2 * np.pi / length_s
    rise = (1 - np.cos(turn * time)) / 2
    speed, push = turn * np.sin(turn * time) / 2, turn**2 * np.cos(turn * time) / 2
    rest = np.zeros(round(0.1 / STEP_S))
    ys = [part for depth in depths_m for part in (depth * rise, rest)]
    vs = [part for depth in depths_m for part in (depth * speed, rest)]
    accelerations = [part for depth in depths_m for part in (depth * push, rest)]
    return bottom_y + np.concatenate(ys), np.concatenate(vs), np.concatenate(accelerations)


def dropped(height_m: float, speed_m_s: float = 0.0, rest_m: float = DISC_RADIUS_M) -> tuple[Floats, Floats, Floats]:
    """Let go at a height with an upward speed: free fall to where it comes to rest (floor or blocks), two dying bounces."""
    ys, vs, accelerations = [], [], []
    y, v = height_m, speed_m_s
    for rebound in (0.28, 0.2, 0.0):
        to_floor = (v + np.sqrt(v**2 + 2 * G * (y - rest_m))) / G
        t = np.arange(STEP_S, to_floor, STEP_S)
        ys.append(y + v * t - G * t**2 / 2)
        vs.append(v - G * t)
        accelerations.append(np.full_like(t, -G))
        v = rebound * (G * to_floor - v)
        y = rest_m
    rest = np.arange(STEP_S, 0.5, STEP_S)
    ys.append(np.full_like(rest, rest_m))
    vs.append(np.zeros_like(rest))
    accelerations.append(np.zeros_like(rest))
    return np.concatenate(ys), np.concatenate(vs), np.concatenate(accelerations)
