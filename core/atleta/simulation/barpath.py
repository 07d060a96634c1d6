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

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from scipy.integrate import cumulative_trapezoid
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import gaussian_filter1d
from scipy.optimize import brentq

from .build import DISC_RADIUS_M, Build

G = 9.81
STEP_S = 0.0005
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
    fall_share: float = 0.97
    """Share of g at which the bar falls while nothing holds it."""
    rest_before_s: float = 1.2
    rest_after_s: float = 1.0
    release: bool = True


@dataclass(frozen=True)
class JerkSpec:
    """What a simulated jerk is asked to do."""

    kind: str = "split_jerk"
    rack_height_m: float = 1.40
    dip_m: float = 0.15
    dip_s: float = 0.42
    drive_speed_m_s: float = 1.95
    drop_m: float = 0.03
    lockout_gain_m: float = 0.34
    forward_m: float = 0.0
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


def snatch_spec(build: Build, **changes: float | bool | str) -> PullSpec:
    """A sound snatch for this build."""
    tall = build.stature_m
    return replace(
        PullSpec("snatch", 1.17 * tall, 0.655 * tall, 0.055, 0.045 * tall, 1.165 * tall),
        **changes,  # type: ignore[arg-type]
    )


def clean_spec(build: Build, **changes: float | bool | str) -> PullSpec:
    """A sound clean for this build."""
    tall = build.stature_m
    return replace(
        PullSpec("clean", 0.84 * tall, 0.52 * tall, 0.055, 0.13 * tall, 0.84 * tall, 0.86, loop_forward_m=0.035, loop_back_m=0.03),
        **changes,  # type: ignore[arg-type]
    )


def pull_path(spec: PullSpec, build: Build) -> BarPath:
    """Bar path of a lift from the floor to standing, and its fall afterwards when the spec releases it.

    Raises:
        ValueError: no bar can do what was asked; the message says what to ask instead.
    """
    pull_s = _pull_length_s(spec)
    pull = np.arange(0.0, pull_s + STEP_S / 2, STEP_S)
    ay = _pull_acceleration(spec, pull, pull_s)
    vy, y = _integrate(pull, ay, 0.0, DISC_RADIUS_M)
    if y.min() < DISC_RADIUS_M - 1e-6:
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
    settle = np.arange(STEP_S, 0.35, STEP_S)
    rise_s = 1.5
    rise = np.arange(STEP_S, rise_s, STEP_S)
    share = rise / rise_s
    span = spec.stand_height_m - bottom_y
    rise_y = bottom_y + span * (10 * share**3 - 15 * share**4 + 6 * share**5)
    rise_v = span / rise_s * (30 * share**2 - 60 * share**3 + 30 * share**4)
    rise_a = span / rise_s**2 * (60 * share - 180 * share**2 + 120 * share**3)
    hold = np.arange(STEP_S, spec.rest_after_s, STEP_S)

    before = np.arange(-spec.rest_before_s, 0.0, STEP_S)
    still = np.zeros_like
    parts_y = [
        np.full_like(before, DISC_RADIUS_M),
        y,
        y_fade,
        y_free,
        meet_y + brake_y,
        np.full_like(settle, bottom_y),
        rise_y,
        np.full_like(hold, spec.stand_height_m),
    ]
    parts_v = [still(before), vy, vy_fade, vy_free, brake_v, still(settle), rise_v, still(hold)]
    parts_a = [still(before), ay, ay_fade, ay_free, brake_a, still(settle), rise_a, still(hold)]
    lengths = np.cumsum([len(part) for part in parts_y])
    if spec.release:
        fall_y, fall_v, fall_a = _dropped(spec.stand_height_m)
        parts_y.append(fall_y)
        parts_v.append(fall_v)
        parts_a.append(fall_a)
    y_all, v_all, a_all = (np.concatenate(parts) for parts in (parts_y, parts_v, parts_a))
    time = before[0] + STEP_S * np.arange(len(y_all))

    knee_s = float(np.interp(build.knee_height_m, y, pull))
    events = {
        "lift_off": float(np.interp(DISC_RADIUS_M + CLEAR_OF_FLOOR_M, y, pull)),
        "knee": knee_s,
        "contact": pull_s - 0.10,
        "peak_speed": pull_s,
        "apex": pull_s + fade_s + to_apex_s,
        "meet": pull_s + fade_s + to_apex_s + down_s,
        "bottom": float(time[lengths[4] - 1]),
        "stand": float(time[lengths[6] - 1]),
    }
    if spec.release:
        events["release"] = float(time[lengths[7] - 1])
    x_all = gaussian_filter1d(_pull_x(spec, events, float(time[0]), float(time[-1]))(time), 0.03 / STEP_S)
    assert apex > spec.peak_speed_height_m
    return BarPath(spec.kind, time, x_all, y_all, v_all, a_all, events)


def jerk_path(spec: JerkSpec) -> BarPath:
    """Bar path of a jerk from the rack: dip, drive, flight, lockout."""
    before = np.arange(-spec.rest_before_s, 0.0, STEP_S)
    dip = np.arange(0.0, spec.dip_s, STEP_S)
    share = dip / spec.dip_s
    # Down as 1 - cos, so that the dip starts and turns without a jolt.
    omega = np.pi / spec.dip_s
    dip_y = -spec.dip_m * (1 - np.cos(np.pi * share)) / 2
    dip_v = -spec.dip_m * omega * np.sin(np.pi * share) / 2
    dip_a = -spec.dip_m * omega**2 * np.cos(np.pi * share) / 2
    # Up again until the largest speed, a little above the rack, then a fade into the flight.
    gain = spec.dip_m + 0.02
    drive_s = 1.9 * gain / spec.drive_speed_m_s
    drive = np.arange(0.0, drive_s, STEP_S)
    u = drive / drive_s
    # a(u) from the dip's turning acceleration through a free parameter to zero: two unknowns for speed and way.
    a0 = spec.dip_m * omega**2 / 2
    shapes = [np.interp(u, [0, 0.35, 0.75, 1], nodes) for nodes in ([0, 1, 0, 0], [0, 0, 1, 0])]
    base = np.interp(u, [0, 0.35, 0.75, 1], [a0, 0, 0, 0])
    drive_a = _solve_mix(drive, base, shapes, spec.drive_speed_m_s, gain)
    drive_v, drive_y = _integrate(drive, drive_a, 0.0, -spec.dip_m)
    fade_s, fall = 0.06, -G * 0.95
    fade = np.arange(0.0, fade_s, STEP_S)
    fade_a = fall * (1 - np.cos(np.pi * fade / fade_s)) / 2
    fade_v, fade_y = (part[1:] for part in _integrate(fade, fade_a, drive_v[-1], drive_y[-1]))
    fade_a = fade_a[1:]
    to_apex_s = fade_v[-1] / -fall
    down_s = float(np.sqrt(2 * spec.drop_m / -fall))
    free = np.arange(STEP_S, to_apex_s + down_s, STEP_S)
    free_v, free_y = fade_v[-1] + fall * free, fade_y[-1] + fade_v[-1] * free + fall * free**2 / 2
    brake_y, brake_v, brake_a, _ = _brake(-free_v[-1], 0.03, fall)
    settle = np.arange(STEP_S, 0.4, STEP_S)
    rise_s = 1.3
    rise = np.arange(STEP_S, rise_s, STEP_S)
    r = rise / rise_s
    floor_y = free_y[-1] + brake_y[-1]
    span = spec.lockout_gain_m
    rise_y = floor_y + span * (10 * r**3 - 15 * r**4 + 6 * r**5)
    rise_v = span / rise_s * (30 * r**2 - 60 * r**3 + 30 * r**4)
    rise_a = span / rise_s**2 * (60 * r - 180 * r**2 + 120 * r**3)
    hold = np.arange(STEP_S, spec.rest_after_s, STEP_S)
    zero = np.zeros_like
    parts_y = [
        zero(before),
        dip_y,
        drive_y,
        fade_y,
        free_y,
        free_y[-1] + brake_y,
        np.full_like(settle, floor_y),
        rise_y,
        np.full_like(hold, floor_y + span),
    ]
    parts_v = [zero(before), dip_v, drive_v, fade_v, free_v, brake_v, zero(settle), rise_v, zero(hold)]
    parts_a = [
        zero(before),
        dip_a,
        drive_a,
        fade_a,
        np.full_like(free, fall),
        brake_a,
        zero(settle),
        rise_a,
        zero(hold),
    ]
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
        "recovered": float(time[ends[7] - 1]),
    }
    x = PchipInterpolator(
        [time[0], 0.0, events["dip_bottom"], events["apex"], events["bottom"], time[-1]],
        [0.0, 0.0, 0.4 * spec.forward_m, spec.forward_m, spec.forward_m - 0.02, spec.forward_m - 0.03],
    )(time)
    return BarPath(spec.kind, time, x, y, np.concatenate(parts_v), np.concatenate(parts_a), events)


def _pull_length_s(spec: PullSpec) -> float:
    """How long the pull takes for the first pull to push as hard as asked."""

    def surplus(length_s: float) -> float:
        time = np.arange(0.0, length_s, STEP_S)
        return float(np.interp(0.30 * length_s, time, _pull_acceleration(spec, time, length_s))) - spec.middle_push_m_s2

    lengths = np.arange(0.4, 2.0, 0.05)
    surpluses = [surplus(float(length)) for length in lengths]
    for shorter, longer, a, b in zip(lengths, lengths[1:], surpluses, surpluses[1:], strict=False):
        if a * b <= 0:
            return float(brentq(surplus, shorter, longer, xtol=STEP_S))
    raise ValueError("No pull of 0.4 to 2 s does what was asked; ask for less speed, less height or another push.")


def _pull_acceleration(spec: PullSpec, time: Floats, end: float) -> Floats:
    """Acceleration from lift-off to the largest speed, meeting that speed at the height asked.

    Nodes: 0 at lift-off, E at 0.11 s, M, a low T in the transition, P in the second pull, 0 at the end. E is tied to P by the
    early force ratio; M and P follow from the speed and the way, both linear in them.
    """
    nodes = [0.0, 0.11, 0.30 * end, 0.58 * end, 0.83 * end, end]
    low = 0.4
    from_second_pull = _eased(time, nodes, [0, spec.early_ratio, 0, 0, 1, 0])
    from_middle = _eased(time, nodes, [0, 0, 1, 0, 0, 0])
    base = _eased(time, nodes, [0, (spec.early_ratio - 1) * G, 0, low, 0, 0])
    return _solve_mix(time, base, [from_second_pull, from_middle], spec.peak_speed_m_s, spec.peak_speed_height_m - DISC_RADIUS_M)


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


def _dropped(height_m: float) -> tuple[Floats, Floats, Floats]:
    """Let go at the top: free fall to the floor, two dying bounces, rest."""
    ys, vs, accelerations = [], [], []
    y, v = height_m, 0.0
    for rebound in (0.28, 0.2, 0.0):
        to_floor = (v + np.sqrt(v**2 + 2 * G * (y - DISC_RADIUS_M))) / G
        t = np.arange(STEP_S, to_floor, STEP_S)
        ys.append(y + v * t - G * t**2 / 2)
        vs.append(v - G * t)
        accelerations.append(np.full_like(t, -G))
        v = rebound * (G * to_floor - v)
        y = DISC_RADIUS_M
    rest = np.arange(STEP_S, 0.5, STEP_S)
    ys.append(np.full_like(rest, DISC_RADIUS_M))
    vs.append(np.zeros_like(rest))
    accelerations.append(np.zeros_like(rest))
    return np.concatenate(ys), np.concatenate(vs), np.concatenate(accelerations)


def _pull_x(spec: PullSpec, events: dict[str, float], start_s: float, end_s: float) -> PchipInterpolator:
    """Forward path through the asked extremes, monotone between them; smoothed afterwards, since a loaded bar turns no corners."""
    knee, contact, apex, meet = (events[name] for name in ("knee", "contact", "apex", "meet"))
    top = -spec.back_at_contact_m + spec.loop_forward_m
    caught = top - spec.loop_back_m
    return PchipInterpolator(
        [
            start_s,
            0.0,
            0.45 * knee,
            knee,
            contact,
            contact + 0.6 * (apex - contact),
            meet,
            events["bottom"],
            events["stand"],
            end_s + 1,
        ],
        [
            0.0,
            0.0,
            spec.forward_off_floor_m,
            -spec.back_at_knee_m,
            -spec.back_at_contact_m,
            top,
            caught,
            caught,
            caught + 0.01,
            caught + 0.01,
        ],
    )
