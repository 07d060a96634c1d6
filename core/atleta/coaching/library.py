"""The exercise library: read from its data file, checked, and held ready."""

from __future__ import annotations

import json
import tomllib
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any

import jsonschema

from ..faults import load_catalogue
from ..measures import declarations


@dataclass(frozen=True)
class Exercise:
    """One exercise with its usual dose. `percent` is the range of loads, share of the best in `basis`."""

    id: str
    name: str
    kind: str
    lifts: tuple[str, ...]
    positions: tuple[str, ...]
    answers: dict[str, float]
    watch: tuple[str, ...]
    sets: int
    reps: int
    pause_s: int
    rest_s: int
    per_week: int
    weeks: int
    basis: str
    percent: tuple[float, float]
    start_percent: float
    film: str
    how: str
    cue: str
    cautions: tuple[str, ...]
    contact: bool = False
    """The bar meets hip or thigh: not with a bruise there."""
    low_back: bool = False

    def named(self, lift: str) -> str:
        """The exercise's name for a lift, capitalised."""
        name = self.name.format(lift=lift)
        return name[0].upper() + name[1:]

    def basis_for(self, lift: str) -> str:
        return lift if self.basis == "lift" else self.basis


@lru_cache(maxsize=1)
def load_library() -> dict[str, Exercise]:
    """The exercises that ship with Atleta, by id.

    Raises:
        ValueError: the data file does not fit its schema, or names a fault or measure that does not exist.
    """
    here = files(__package__)
    held = tomllib.loads(here.joinpath("exercises.toml").read_text("utf-8"))
    try:
        jsonschema.validate(held, json.loads(here.joinpath("exercises.schema.json").read_text("utf-8")))
    except jsonschema.ValidationError as error:
        raise ValueError(f"The exercise library does not fit its schema at {error.json_path}: {error.message}") from error
    faults, measures = load_catalogue().faults, {declaration.id for declaration in declarations()}
    library = {}
    for row in held["exercise"]:
        if strange := set(row["answers"]) - set(faults) | set(row["watch"]) - measures:
            raise ValueError(f"{row['id']} names faults or measures that do not exist: {sorted(strange)}")
        if not row["percent"][0] <= row["start_percent"] <= row["percent"][1]:
            raise ValueError(f"{row['id']} starts outside its own range of loads.")
        fields: dict[str, Any] = {name: tuple(value) if isinstance(value, list) else value for name, value in row.items()}
        library[row["id"]] = Exercise(**fields)
    for fault in faults.values():
        if missing := set(fault.drills) - set(library):
            raise ValueError(f"{fault.id} names drills that do not exist: {sorted(missing)}")
    return library
