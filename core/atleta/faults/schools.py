"""Where coaches disagree: questions with positions, and what each position changes in the catalogue of faults."""

from __future__ import annotations

import json
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib.resources import files
from typing import Any

import jsonschema

from ..measures import declarations
from .catalogue import Catalogue, Condition, Fault, Threshold, condition_of, load_catalogue
from .own import OwnFault, Wording, extended

# What a position says otherwise of a fault that it judges otherwise.
SAID = ("name", "coach", "athlete", "cue", "good")


@dataclass(frozen=True)
class Position:
    """One answer to a question: how it is put, and what it changes (rows as in `schools.toml`)."""

    id: str
    says: str
    changes: Mapping[str, Any]

    @property
    def faults(self) -> frozenset[str]:
        """The faults whose rule, cue or drills it changes."""
        rows = {row["fault"] for name in ("limits", "rule") for row in self.changes.get(name, ())}
        plain = {fault for name in ("off", "remark", "cue", "drills") for fault in self.changes.get(name, ())}
        return frozenset(rows | plain)


@dataclass(frozen=True)
class School:
    """A question on which coaches differ. The first position is the usual one, for the reason in `why`."""

    id: str
    asks: str
    why: str
    positions: tuple[Position, ...]

    @property
    def usual(self) -> Position:
        return self.positions[0]

    def position(self, id: str) -> Position:
        """
        Raises:
            ValueError: there is no such position.
        """
        found = next((one for one in self.positions if one.id == id), None)
        if found is None:
            raise ValueError(f"“{self.asks}” has no position called {id}. It has: {', '.join(one.id for one in self.positions)}.")
        return found


@lru_cache(maxsize=1)
def load_schools() -> dict[str, School]:
    """The questions that ship with Atleta, by id.

    Raises:
        ValueError: the data file does not fit its schema, or names a fault, condition, kind or measure that does not exist.
    """
    here = files(__package__)
    held = tomllib.loads(here.joinpath("schools.toml").read_text("utf-8"))
    try:
        jsonschema.validate(held, json.loads(here.joinpath("schools.schema.json").read_text("utf-8")))
    except jsonschema.ValidationError as error:
        raise ValueError(f"The schools do not fit their schema at {error.json_path}: {error.message}") from error
    schools = {row["id"]: School(row["id"], row["asks"], row["why"], tuple(map(_position, row["position"]))) for row in held["school"]}
    faults, measures = load_catalogue().faults, {declaration.id for declaration in declarations()}
    for school in schools.values():
        for position in school.positions:
            where = f"{school.id}: {position.id}"
            if strange := set(position.faults) - set(faults):
                raise ValueError(f"{where} names faults that do not exist: {sorted(strange)}")
            for row in position.changes.get("limits", ()):
                sides = [one.above for one in faults[row["fault"]].conditions if one.measure == row["measure"]]
                if sides != ["above" in row]:
                    raise ValueError(f"{where} moves a limit that {row['fault']} does not have: {row['measure']}")
                if strange := set(row.get("kinds", ())) - set(faults[row["fault"]].kinds):
                    raise ValueError(f"{where} names kinds of lift that {row['fault']} is not judged in: {sorted(strange)}")
            for row in position.changes.get("rule", ()):
                if strange := {one["measure"] for one in row["any"]} - measures:
                    raise ValueError(f"{where} asks for measures that do not exist: {sorted(strange)}")
    return schools


def _position(row: dict[str, Any]) -> Position:
    return Position(row["id"], row["says"], {name: value for name, value in row.items() if name not in ("id", "says")})


def taught(chosen: Mapping[str, str], own: Sequence[OwnFault] = (), wordings: Mapping[str, Wording] | None = None) -> Catalogue:
    """The catalogue as a coach with these positions reads it (question to position; what is not named stands as usual), with faults of
    their own and their own words. Every fault that a position other than the usual one changed carries that question.

    Raises:
        ValueError: no such question or position.
    """
    catalogue = load_catalogue()
    faults = dict(catalogue.faults)
    order, model = catalogue.order, catalogue.model
    for question, answer in chosen.items():
        if question not in load_schools():
            raise ValueError(f"There is no question called {question}.")
        school = load_schools()[question]
        position = school.position(answer)
        if position is school.usual:
            continue
        order, model = position.changes.get("order", order), position.changes.get("model", model)
        for fault in position.faults:
            faults[fault] = _changed(faults[fault], position, question)
    return extended(replace(catalogue, faults=faults, order=order, model=model), own, wordings or {})


def _changed(fault: Fault, position: Position, question: str) -> Fault:
    changes = position.changes
    for row in changes.get("rule", ()):
        if row["fault"] == fault.id:
            conditions = tuple(condition_of(one) for one in row["any"])
            fault = replace(fault, conditions=conditions, needs_all=False, **{name: row[name] for name in SAID if name in row})
    for row in changes.get("limits", ()):
        if row["fault"] == fault.id:
            fault = replace(fault, conditions=tuple(_moved(one, row) for one in fault.conditions))
    return replace(
        fault,
        off=fault.off or fault.id in changes.get("off", ()),
        remark=fault.remark or fault.id in changes.get("remark", ()),
        cue=changes.get("cue", {}).get(fault.id, fault.cue),
        drills=tuple(changes.get("drills", {}).get(fault.id, fault.drills)),
        schools=(*fault.schools, question),
    )


def _moved(condition: Condition, row: Mapping[str, Any]) -> Condition:
    if condition.measure != row["measure"]:
        return condition
    limits = Threshold(*(row["above"] if condition.above else row["below"]))
    if kinds := row.get("kinds"):
        return replace(condition, by_kind={**condition.by_kind, **dict.fromkeys(kinds, limits)})
    return replace(condition, usual=limits, by_kind={})
