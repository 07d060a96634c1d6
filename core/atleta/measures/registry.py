"""Measures register themselves here with all that is said about them; computing a lift's measures is one call."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..footage import Clicks
from ..motion import BarMotion, BodyMotion, FrontMotion, between_frames

Floats = NDArray[np.float64]
# Into so many instants two frames' time is divided where a largest value is looked for between them.
BETWEEN_FRAMES = 33


@dataclass(frozen=True)
class Value:
    """A measure's value in its declared unit and the time (s) that shows it."""

    value: float
    time_s: float


@dataclass(frozen=True)
class LiftData:
    """All that a measure may read: the bar's motion with x from the bar's place at the start and y above the floor (m; for a lift
    from the rack, above the rack), the events (s), and what is known of the lift."""

    motion: BarMotion
    events_s: dict[str, float]
    height_known: bool
    disc_radius_m: float
    load_kg: float | None
    stature_m: float | None
    kind: str = "other"
    body: BodyMotion | None = None
    """The lifter on the bar's clock; None where nobody was seen, or from where the view does not allow it."""
    no_body: str = "the lifter's joints were not seen"
    """Why there is no body, when there is none."""
    usual_speed: tuple[float, float] | None = None
    """Peak velocity that is usual for this lifter at this load, and its spread, m/s; None where too few lifts tell."""
    clicks: Clicks | None = None
    """What clicks in the clip's sound."""
    sound_late_s: float = 0.0
    """How long the sound takes to the phone."""
    front: FrontMotion | None = None
    """What a clip from the front shows; of one from the side None."""

    @property
    def lifter(self) -> BodyMotion:
        """The body, for measures that declared that they cannot do without."""
        assert self.body is not None
        return self.body

    @property
    def seen_from_front(self) -> FrontMotion:
        """What shows from the front, for measures that declared that they cannot do without."""
        assert self.front is not None
        return self.front

    def between(self, start: str, stop: str) -> NDArray[np.intp]:
        """Indices of the frames from one event to another, both inside; of two that fall between the same frames, the nearest one."""
        t = self.motion.time_s
        inside = np.flatnonzero((t >= self.events_s[start]) & (t <= self.events_s[stop]))
        return inside if len(inside) else np.array([np.argmin(np.abs(t - self.events_s[start]))])

    def fastest(self, start: str, stop: str, *, up: bool = True) -> Value:
        """The bar's largest speed up (or down, told positive) from one event to another, m/s, and when. Looked for between frames too: the
        largest of the frames was low by up to 4 % in films of 30 frames a second."""
        t, speed = self.motion.time_s, self.motion.vy_m_s if up else -self.motion.vy_m_s
        path = self.between(start, stop)
        top = int(path[np.argmax(speed[path])])
        first = int(np.clip(top - 2, 0, max(len(t) - 5, 0)))
        near = slice(first, first + 5)
        if len(t[near]) < 5:
            return Value(float(speed[top]), float(t[top]))
        # No further than the events, wherever a coach has put them.
        around = np.clip([t[max(top - 1, 0)], t[min(top + 1, len(t) - 1)]], self.events_s[start], self.events_s[stop])
        grid = np.linspace(around[0], around[1], BETWEEN_FRAMES)
        values = between_frames(t[near], speed[near], grid, through=5)
        best = int(np.argmax(values))
        return Value(float(values[best]), float(grid[best]))

    def forward_between_frames(self, start_s: float, stop_s: float) -> tuple[Floats, Floats]:
        """Times from one to another, many between two frames, and the bar's forward speed then, m/s, by a cubic through the frames: a thigh
        turns the bar round in less time than passes between two of them."""
        t = self.motion.time_s
        at = np.linspace(max(start_s, t[0]), min(stop_s, t[-1]), BETWEEN_FRAMES)
        return at, between_frames(t, self.motion.vx_m_s, at, through=4)

    def finely(self, start: str, stop: str) -> Floats:
        """Times from one event to another, both inside, four to a frame: much may happen between an event and the frame next to it."""
        inside = len(self.between(start, stop))
        return np.linspace(self.events_s[start], self.events_s[stop], 4 * inside + 5)

    def at(self, column: str, event: str) -> float:
        return self.motion.at(column, self.events_s[event])


@dataclass(frozen=True)
class Declaration:
    """What a measure is: its id, unit, families of lift, and what it cannot do without."""

    id: str
    label: str
    unit: str
    families: tuple[str, ...]
    needs: tuple[str, ...]
    """Events it is defined by."""
    requires: tuple[str, ...]
    """Facts besides: 'load', 'stature', 'floor', 'joints', 'usual_speed', 'sound', 'front' (or from behind), 'face'. What needs no view
    from the front is told from the side alone."""
    kinds: frozenset[str] | None
    """Kinds of lift it is defined for; None for all of its families."""
    about: str
    compute: Callable[[LiftData], Value | None]


_REGISTRY: dict[str, Declaration] = {}

SIDE_ONLY = "it shows only from the side: film this from the side"
_REASONS = {
    "load": "the load was not given",
    "stature": "the athlete's stature was not given",
    "floor": "the bar's height above the floor is not known in this lift",
    "joints": "the lifter's joints were not seen",
    "front": "it shows only from the front: film this from the front",
    "face": "it is not seen well from behind: film this from the front",
    "sound": "the clip has no sound, or a slow-motion file's that is not on the pictures' clock",
    "usual_speed": "fewer than eight made lifts over four loads tell how fast this athlete's bar usually is",
}
_KNOWN: dict[str, Callable[[LiftData], bool]] = {
    "load": lambda data: data.load_kg is not None,
    "stature": lambda data: data.stature_m is not None,
    "floor": lambda data: data.height_known,
    "joints": lambda data: data.body is not None,
    "front": lambda data: data.front is not None,
    "face": lambda data: data.front is not None and not data.front.from_behind,
    "sound": lambda data: bool(data.clicks),
    "usual_speed": lambda data: data.usual_speed is not None,
}
_EVENT_REASONS = {
    "lift_off": "the bar was not seen leaving the floor",
    "knee": "where the bar passes the knee is not known: give the athlete's stature",
    "contact": "where the thigh meets the bar does not show in the bar's path",
    "rebend": "the knees were not seen to bend again under the bar",
    "lockout": "the elbows were not seen to lock",
    "front_foot_down": "the front foot was not seen to land",
    "back_foot_down": "the back foot was not seen to land",
    "hold_start": "the bar is not held still in this lift",
    "apex": "the bar's highest point is not in the clip",
    "meet": "the lifter was not seen taking the load again",
    "bottom": "the lowest point of the catch is not in the clip",
    "stand": "standing up with the bar is not in the clip",
    "release": "letting go of the bar is not in the clip",
}


def measure(
    id: str,
    label: str,
    unit: str,
    *,
    families: tuple[str, ...] = ("pull",),
    needs: tuple[str, ...] = (),
    requires: tuple[str, ...] = (),
    kinds: frozenset[str] | None = None,
) -> Callable[[Callable[[LiftData], Value | None]], Callable[[LiftData], Value | None]]:
    """Register a function as a measure. Its docstring's first line becomes the explanation shown with it.

    Raises:
        ValueError: the id is taken.
    """

    def register(compute: Callable[[LiftData], Value | None]) -> Callable[[LiftData], Value | None]:
        if id in _REGISTRY:
            raise ValueError(f"A measure named {id} exists already.")
        about = (compute.__doc__ or "").strip().splitlines()[0]
        _REGISTRY[id] = Declaration(id, label, unit, families, needs, requires, kinds, about, compute)
        return compute

    return register


def declarations(family: str | None = None, kind: str | None = None) -> list[Declaration]:
    """All measures, or those of one family and one kind of lift, in the order they were declared."""
    return [
        d for d in _REGISTRY.values() if (family is None or family in d.families) and (kind is None or d.kinds is None or kind in d.kinds)
    ]


def missing(declaration: Declaration, data: LiftData) -> str | None:
    """Why this measure cannot be taken from this lift, or None."""
    if data.front is not None and "front" not in declaration.requires:
        return SIDE_ONLY
    for fact in declaration.requires:
        if not _KNOWN[fact](data):
            return data.no_body if fact == "joints" else _REASONS[fact]
    for event in declaration.needs:
        if event not in data.events_s:
            return _EVENT_REASONS.get(event, f"the {event.replace('_', ' ')} is not in the clip")
    return None


def measure_lift(family: str, data: LiftData) -> dict[str, Value | str]:
    """Every measure of the family: its value, or the reason there is none."""
    results: dict[str, Value | str] = {}
    for declaration in declarations(family, data.kind):
        reason = missing(declaration, data)
        if reason is None:
            value = declaration.compute(data)
            seen = "the lifter was" if "joints" in declaration.requires else "the bar was"
            results[declaration.id] = value if value is not None and math.isfinite(value.value) else f"{seen} not seen well enough here"
        else:
            results[declaration.id] = reason
    return results
