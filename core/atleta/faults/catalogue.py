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
    seen_by_coach: bool
    kinds: tuple[str, ...]
    view: str
    says: str
    good: str
    cue: str
    drills: tuple[str, ...]
    conditions: tuple[Condition, ...]
    needs_all: bool
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
        return bool(self.conditions)


@dataclass(frozen=True)
class Catalogue:
    """All faults in the order in which a lift unfolds, and which leads to which."""

    faults: dict[str, Fault]
    effects: dict[str, tuple[str, ...]]
    order: str = "top_down"
    """In which order drills are taught."""
    model: str = "reference"
    """Which lift a technical model is: a made-up one, the athlete's own best, or one that the coach named."""


PHASES = (
    "set_up",
    "first_pull",
    "knee_to_contact",
    "contact_to_apex",
    "turnover",
    "catch",
    "dip",
    "drive",
    "lockout",
    "squat",
    "hold",
    "outcome",
)


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
    faults = {row["id"]: _fault(row) for row in held["fault"]}
    if len(faults) != len(held["fault"]):
        raise ValueError("Two faults share an id.")
    known_measures = {declaration.id for declaration in declarations()}
    for fault in faults.values():
        asked = {condition.measure for condition in fault.conditions} | {one.where[0] for one in fault.conditions if one.where}
        asked |= {support.measure for support in fault.supported}
        unknown = asked - known_measures
        if unknown:
            raise ValueError(f"{fault.id} asks for measures that do not exist: {sorted(unknown)}")
        if strange := set(fault.kinds) - set(FAMILY_OF_KIND):
            raise ValueError(f"{fault.id} names kinds of lift that do not exist: {sorted(strange)}")
    effects: dict[str, list[str]] = {}
    for row in held["leads"]:
        if strange := {*row["causes"], *row["effects"]} - set(faults):
            raise ValueError(f"The cause graph names faults that do not exist: {sorted(strange)}")
        for cause in row["causes"]:
            effects.setdefault(cause, []).extend(effect for effect in row["effects"] if effect not in effects.get(cause, []))
    ordered = dict(sorted(faults.items(), key=lambda item: PHASES.index(item[1].phase)))
    return Catalogue(ordered, {cause: tuple(row) for cause, row in effects.items()})


def _fault(row: dict[str, Any]) -> Fault:
    when = row.get("when", {})
    return Fault(
        id=row["id"],
        name=row["name"],
        phase=row["phase"],
        seen_by_coach=row.get("seen_by") == "coach",
        kinds=tuple(row.get("kinds", ())),
        view=row.get("view", "any"),
        says=row.get("says", ""),
        good=row.get("good", ""),
        cue=row.get("cue", ""),
        drills=tuple(row.get("drills", ())),
        conditions=tuple(condition_of(condition) for condition in when.get("all", when.get("any", ()))),
        needs_all="all" in when,
        supported=tuple(Support(**support) for support in row.get("supported", ())),
        refusable=row.get("refusable", False),
    )


def condition_of(row: dict[str, Any]) -> Condition:
    """A condition from its row in the data file."""
    above = "above" in row
    return Condition(
        row["measure"],
        above,
        Threshold(*row["above" if above else "below"]),
        {kind: Threshold(*pair) for kind, pair in row.get("by_kind", {}).items()},
        row.get("taller", 0.0),
        row.get("link", ""),
        (row["where"]["measure"], row["where"]["least"]) if "where" in row else None,
    )
