"""What people said about a clip."""

from __future__ import annotations

from dataclasses import dataclass, field

from ..events import sequence_of
from ..faults import OwnFault, Threshold, Wording, load_schools
from ..motion import JointPoint
from ..tracking import PointCorrection


@dataclass(frozen=True)
class EventPoint:
    """An event set by hand: of the lift in which the frame lies."""

    name: str
    frame: int


@dataclass(frozen=True)
class Settings:
    """What people said about a clip. None means: work it out, or do without."""

    lift: str = "other"
    load_kg: float | None = None
    stature_m: float | None = None
    made: bool | None = None
    facing: str | None = None
    plumb_deg: float | None = None
    disc_diameter_m: float = 0.45
    capture_rate_hz: float | None = None
    corrections: tuple[PointCorrection, ...] = ()
    joint_points: tuple[JointPoint, ...] = ()
    events: tuple[EventPoint, ...] = ()
    m_per_px: float | None = None
    """Scale in the disc's plane, from two points of known distance; without it the disc tells."""
    distrusted: tuple[tuple[int, int], ...] = ()
    """Stretches of frames, first and last, in which the disc's track is not to be believed."""
    trim: tuple[int, int] | None = None
    """First and last frame that belong to the lift; what lies outside is left alone."""
    dismissed: frozenset[tuple[int, str]] = frozenset()
    """What the coach has ruled out: on which lift of the clip, counted from 0, and which fault."""
    added: frozenset[tuple[int, str]] = frozenset()
    """What the coach has seen, in the same way."""
    thresholds: dict[tuple[str, str], Threshold] = field(default_factory=dict)
    """The coach's own limits, by fault and measure."""
    usual_speed: tuple[float, float] | None = None
    """How fast this lifter's bar usually is at this load, and the spread about it, m/s; None while too few of their lifts are known."""
    schools: dict[str, str] = field(default_factory=dict)
    """The coach's positions where coaches disagree, by question; what is not named stands as usual."""
    own_faults: tuple[OwnFault, ...] = ()
    """Faults of the coach's own."""
    wordings: dict[str, Wording] = field(default_factory=dict)
    """The coach's own words, by fault."""

    def __post_init__(self) -> None:
        sequence_of(self.lift)
        for question, position in self.schools.items():
            if question not in load_schools():
                raise ValueError(f"There is no question called {question}.")
            load_schools()[question].position(position)
        for name, low, high, unit in (
            ("load_kg", 0.5, 600, "kg"), ("stature_m", 1.0, 2.4, "m"), ("disc_diameter_m", 0.1, 1.0, "m"),
            ("capture_rate_hz", 5, 2000, "Hz"),
            ("plumb_deg", -45, 45, "°"), ("m_per_px", 1e-5, 0.1, "m"),
        ):  # fmt: skip
            value = getattr(self, name)
            if value is not None and not low <= value <= high:
                raise ValueError(
                    f"{name.rsplit('_', 1)[0].replace('_', ' ').capitalize()} {value:g} {unit} is outside {low:g} to {high:g} {unit}."
                )
        if self.facing not in (None, "left", "right"):
            raise ValueError("Facing is 'left' or 'right'.")
