"""The fault catalogue: read from its data file, checked, and held ready."""

from __future__ import annotations

import json
import tomllib
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any

import jsonschema

from ..events import FAMILY_OF_KIND
from ..measures import declarations

# Allowances for tall lifters begin above this stature.
TALL_M = 1.80


@dataclass(frozen=True)
class Threshold:
    """Where watching begins and where it is a fault, in the measure's unit."""

    watch: float
    fault: float


@dataclass(frozen=True)
class Condition:
    """One measure against its thresholds. `above` false means that small values are the fault."""

    measure: str
    above: bool
    usual: Threshold
    by_kind: dict[str, Threshold]
    taller: float = 0.0
    """Added to both thresholds for every 10 cm of stature above 1.80 m."""
    link: str = ""
    """The condition as one link of the chain of causes."""
    number: str = ""
    """Its number in words; empty where the number's size alone says it."""
    aim: str = ""
    """Its target in words; empty where that is the watch threshold."""
    shown: str = ""
    """A measure that says it better than the one judged; the target is scaled alike."""
    phase: str = ""
    """When it happens, where that is not when the fault as a whole does."""
    kinds: tuple[str, ...] = ()
    """The only kinds of lift it is asked of; empty for all of the fault's."""
    where: tuple[str, float] | None = None
    """A measure and the least of it at which the condition counts at all; None where it always does."""

    def threshold(self, kind: str, stature_m: float | None = None) -> Threshold:
        usual = self.by_kind.get(kind, self.usual)
        more = self.taller * max((stature_m or TALL_M) - TALL_M, 0.0) / 0.10
        return Threshold(usual.watch + more, usual.fault + more)


@dataclass(frozen=True)
class Support:
    """What makes a fault likelier, seen or heard with it: a measure that is `least` or more multiplies its odds. Alone it is no fault."""

    measure: str
    least: float
    odds: float
    says: str


@dataclass(frozen=True)
class Fault:
    """One fault: how it is called, when in the lift it happens, and, if it is measured, by what."""

    id: str
    name: str
    phase: str
    kinds: tuple[str, ...]
    view: str
    """From where a film shows it: `side`, `front`, `45` or `any`."""
    coach: str
    """The point as the coach says it; the number and its target are added from the condition that tells most."""
    athlete: str
    """What to feel and do, without numbers."""
    cue: str
    why: str
    good: str
    """What is said when it is done well."""
    drills: tuple[str, ...]
    conditions: tuple[Condition, ...] = ()
    needs_all: bool = False
    praise: bool = False
    """Done well it deserves to be said: an athlete has to work for it."""
    result: bool = False
    """It comes of technique and is none itself: it is never named first while a fault of technique stands."""
    own: bool = False
    """A coach's own fault."""
    supported: tuple[Support, ...] = ()
    refusable: bool = False
    """Referees may refuse the lift for it."""
    schools: tuple[str, ...] = ()
    """Questions on which the coach's position, not being the usual one, changed this fault."""
    off: bool = False
    """Not judged in this school; the coach may still see it."""
    remark: bool = False
    """Never more than something to watch in this school."""

    @property
    def measured(self) -> bool:
        """Whether a film tells if it is there; otherwise only the coach's eye does."""
        return bool(self.conditions)

    def asked(self, kind: str) -> tuple[Condition, ...]:
        """Its conditions on a kind of lift."""
        return tuple(one for one in self.conditions if not one.kinds or kind in one.kinds)


@dataclass(frozen=True)
class Catalogue:
    """All faults in the order in which a lift unfolds, and which leads to which."""

    faults: dict[str, Fault]
    effects: dict[str, tuple[str, ...]]
    order: str = "top_down"
    """In which order drills are taught."""
    model: str = "reference"
    """Which lift a technical model is: a made-up one, the athlete's own best, or one that the coach named."""


# The parts of a lift in the order in which they can follow each other: no fault leads to one of an earlier part.
PHASE_NAMES = {
    "set_up": "Set-up", "first_pull": "Floor to knee", "knee_to_contact": "Knee to contact", "contact_to_apex": "Contact to the top",
    "dip": "Dip", "drive": "Drive", "turnover": "Turnover", "squat": "Way down", "catch": "Catch", "lockout": "Lockout and split",
    "recovery": "Standing up", "hold": "Hold", "outcome": "Outcome",
}  # fmt: skip
PHASES = tuple(PHASE_NAMES)
# Of two faults that each may lead to the other, the one whose frame is earlier does.
EITHER_WAY = frozenset({"hips_rise_first", "shins_vertical_early"})


@lru_cache(maxsize=1)
def load_catalogue() -> Catalogue:
    """The catalogue that ships with Atleta.

    Raises:
        ValueError: the data file does not fit its schema, or names a measure, kind or fault that does not exist.
    """
    here = files(__package__)
    return read_catalogue(
        tomllib.loads(here.joinpath("faults.toml").read_text("utf-8")),
        json.loads(here.joinpath("faults.schema.json").read_text("utf-8")),
    )


def read_catalogue(held: dict[str, Any], schema: dict[str, Any]) -> Catalogue:
    """A catalogue from parsed data; see `load_catalogue` for what is refused."""
    try:
        jsonschema.validate(held, schema)
    except jsonschema.ValidationError as error:
        raise ValueError(f"The fault catalogue does not fit its schema at {error.json_path}: {error.message}") from error
    faults = {row["id"]: _fault(row, held["groups"]) for row in held["fault"]}
    if len(faults) != len(held["fault"]):
        raise ValueError("Two faults share an id.")
    known_measures = {declaration.id for declaration in declarations()}
    for fault in faults.values():
        asked = {condition.measure for condition in fault.conditions} | {one.where[0] for one in fault.conditions if one.where}
        asked |= {support.measure for support in fault.supported} | {one.shown for one in fault.conditions if one.shown}
        unknown = asked - known_measures
        if unknown:
            raise ValueError(f"{fault.id} asks for measures that do not exist: {sorted(unknown)}")
        if strange := set(fault.kinds) - set(FAMILY_OF_KIND):
            raise ValueError(f"{fault.id} names kinds of lift that do not exist: {sorted(strange)}")
    order = list(faults)
    if (phases := [PHASES.index(fault.phase) for fault in faults.values()]) != sorted(phases):
        raise ValueError("The faults are not in the order in which a lift unfolds.")
    effects: dict[str, list[str]] = {}
    for row in held["leads"]:
        if strange := {*row["causes"], *row["effects"]} - set(faults):
            raise ValueError(f"The cause graph names faults that do not exist: {sorted(strange)}")
        for cause in row["causes"]:
            for effect in row["effects"]:
                if order.index(cause) >= order.index(effect) and {cause, effect} != EITHER_WAY:
                    raise ValueError(f"The cause graph runs against time: {cause} comes after {effect}.")
            effects.setdefault(cause, []).extend(effect for effect in row["effects"] if effect not in effects.get(cause, []))
    return Catalogue(faults, {cause: tuple(row) for cause, row in effects.items()})


def _fault(row: dict[str, Any], groups: dict[str, list[str]]) -> Fault:
    when = row.get("when", {})
    return Fault(
        id=row["id"],
        name=row["name"],
        phase=row["phase"],
        kinds=_kinds(row["kinds"], groups),
        view=row["view"],
        coach=row["coach"],
        athlete=row["athlete"],
        cue=row["cue"],
        why=row["why"],
        good=row["good"],
        drills=tuple(row["drills"]),
        conditions=tuple(condition_of(condition, groups) for condition in when.get("all", when.get("any", ()))),
        needs_all="all" in when,
        praise=row.get("praise", False),
        result=row.get("result", False),
        supported=tuple(Support(**support) for support in row.get("supported", ())),
        refusable=row.get("refusable", False),
    )


def _kinds(named: list[str], groups: dict[str, list[str]]) -> tuple[str, ...]:
    """Kinds of lift, those of a named group in its place."""
    return tuple(dict.fromkeys(kind for name in named for kind in groups.get(name, [name])))


def condition_of(row: dict[str, Any], groups: dict[str, list[str]] | None = None) -> Condition:
    """A condition from its row in the data file."""
    above = "above" in row
    return Condition(
        measure=row["measure"],
        above=above,
        usual=Threshold(*row["above" if above else "below"]),
        by_kind={kind: Threshold(*pair) for kind, pair in row.get("by_kind", {}).items()},
        taller=row.get("taller", 0.0),
        where=(row["where"]["measure"], row["where"]["least"]) if "where" in row else None,
        kinds=_kinds(row.get("kinds", []), groups or {}),
        **{name: row.get(name, "") for name in ("link", "number", "aim", "shown", "phase")},
    )
