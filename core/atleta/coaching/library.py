"""The exercise library and the teaching ladders: read from their data files, checked, and held ready."""

from __future__ import annotations

import json
import tomllib
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from functools import lru_cache
from importlib.resources import files
from typing import Any

import jsonschema

from ..faults import load_catalogue
from ..measures import declarations


@dataclass(frozen=True)
class Pass:
    """What a film must show of an exercise: a measure at least, or at most, so large (in its own unit)."""

    measure: str
    at_least: float | None = None
    at_most: float | None = None


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
    start: str
    """Where the bar is when it begins."""
    equipment: tuple[str, ...]
    muscles: tuple[str, ...]
    easier: tuple[str, ...]
    harder: tuple[str, ...]
    before: tuple[str, ...]
    """What must be there before it is set."""
    film: str
    how: str
    cue: str
    cautions: tuple[str, ...]
    passes: tuple[Pass, ...] = ()
    load: str = ""
    """What to take for work without a share of a best."""
    contact: str = "strike"
    """Whether the bar meets thigh or hip: `none`, `brush` (in touch) or `strike` (at speed). What is not known is a strike."""
    safety: str = ""
    """Which of the safeties stands beside it."""
    low_back: bool = False

    def named(self, lift: str) -> str:
        """The exercise's name for a lift, capitalised."""
        name = self.name.format(lift=lift)
        return name[0].upper() + name[1:]

    @property
    def safeties(self) -> str:
        """How it is done safely under a load; empty where there is none."""
        return load_safeties()[self.safety] if self.safety else ""

    @property
    def sort(self) -> str:
        """Which of the three sorts of work it is: a position drill, a pull variation, or support."""
        return {"pull_variation": "pull", "strength": "support", "mobility": "support"}.get(self.kind, "drill")

    def basis_for(self, lift: str) -> str:
        return lift if self.basis == "lift" else self.basis


@dataclass(frozen=True)
class Step:
    """One rung: what is done, with which implement and dose, and what must be seen before the next."""

    exercise: str
    says: str
    implement: str
    sets: int
    reps: int
    passes: tuple[Pass, ...] = ()
    in_a_row: int = 3
    """Repetitions one after the other that must pass."""


@dataclass(frozen=True)
class Ladder:
    """A teaching order."""

    id: str
    name: str
    lift: str
    about: str
    steps: tuple[Step, ...] = field(default_factory=tuple)


@lru_cache(maxsize=1)
def load_library() -> dict[str, Exercise]:
    """The exercises that ship with Atleta, by id.

    Raises:
        ValueError: the data file does not fit its schema, or names a fault, measure or exercise that does not exist.
    """
    rows = _held()["exercise"]
    library = {row["id"]: exercise_of(row) for row in rows}
    if len(library) != len(rows):
        raise ValueError("Two exercises share an id.")
    for exercise in library.values():
        if strange := {*exercise.easier, *exercise.harder} - set(library):
            raise ValueError(f"{exercise.id} has neighbours that do not exist: {sorted(strange)}")
    for fault in load_catalogue().faults.values():
        if missing := set(fault.drills) - set(library):
            raise ValueError(f"{fault.id} names drills that do not exist: {sorted(missing)}")
    return library


@lru_cache(maxsize=1)
def _held() -> dict[str, Any]:
    return tomllib.loads(files(__package__).joinpath("exercises.toml").read_text("utf-8"))


@lru_cache(maxsize=1)
def load_safeties() -> dict[str, str]:
    """How work under a load is done safely, by the id that exercises name."""
    return {row["id"]: row["says"] for row in _held()["safety"]}


@lru_cache(maxsize=1)
def load_ladders() -> dict[str, Ladder]:
    """The teaching ladders that ship with Atleta, by id.

    Raises:
        ValueError: the data file does not fit its schema, or names an exercise or measure that does not exist.
    """
    held = tomllib.loads(files(__package__).joinpath("ladders.toml").read_text("utf-8"))
    return {row["id"]: ladder_of(row, load_library()) for row in held["ladder"]}


def ladder_of(row: dict[str, Any], library: Mapping[str, Exercise]) -> Ladder:
    """A ladder from a row of data.

    Raises:
        ValueError: the row does not fit the schema, or a step names an exercise or measure that does not exist, or one that is not for this
            lift; the message says which step and what to change.
    """
    called = f"“{row.get('name') or row.get('id') or 'This ladder'}”"
    _fits(row, _ladder_checker(), called)
    measures = {declaration.id for declaration in declarations()}
    steps = tuple(Step(**{**step, "passes": _passes(step)}) for step in row["step"])
    for number, step in enumerate(steps, 1):
        if step.exercise not in library:
            raise ValueError(
                f"Step {number} of {called} names an exercise that does not exist: {step.exercise}. Choose one from the library."
            )
        if strange := {one.measure for one in step.passes} - measures:
            raise ValueError(f"Step {number} of {called} asks for a measure that does not exist: {', '.join(sorted(strange))}.")
        if any((one.at_least is None) == (one.at_most is None) for one in step.passes):
            raise ValueError(f"Step {number} of {called}: each rule has either a least or a most.")
    return Ladder(row["id"], row["name"], row["lift"], row["about"], steps)


def exercise_of(row: dict[str, Any]) -> Exercise:
    """An exercise from a row of data.

    Raises:
        ValueError: the row does not fit the schema, or names a fault or measure that does not exist; the message says where.
    """
    called = str(row.get("name") or row.get("id") or "The exercise")
    _fits(row, _exercise_checker(), called)
    held: dict[str, Any] = {name: tuple(value) if isinstance(value, list) else value for name, value in row.items()}
    exercise = Exercise(**{**held, "passes": _passes(row)})
    faults, measures = load_catalogue().faults, {declaration.id for declaration in declarations()}
    asked = set(exercise.watch) | {one.measure for one in exercise.passes}
    if strange := set(exercise.answers) - set(faults) | asked - measures:
        raise ValueError(f"{called} names faults or measures that do not exist: {', '.join(sorted(strange))}.")
    if not exercise.percent[0] <= exercise.start_percent <= exercise.percent[1]:
        raise ValueError(f"{called} starts outside its own range of loads.")
    if (exercise.basis == "none") != bool(exercise.load):
        raise ValueError(f"{called} has either a share of a best or words on what to take.")
    return exercise


def _fits(held: Any, checker: jsonschema.protocols.Validator, called: str) -> None:
    for error in checker.iter_errors(held):
        where = error.json_path.removeprefix("$").removeprefix(".")
        raise ValueError(f"{called} is not as it should be{f' at {where}' if where else ''}: {error.message}.")


def _checker(name: str, *inside: str) -> jsonschema.protocols.Validator:
    """What checks data against a schema of this folder, or a part of it."""
    schema = json.loads(files(__package__).joinpath(name).read_text("utf-8"))
    for key in inside:
        schema = schema[key]
    return jsonschema.Draft202012Validator(schema)


@lru_cache(maxsize=1)
def _exercise_checker() -> jsonschema.protocols.Validator:
    return _checker("exercises.schema.json", "properties", "exercise", "items")


@lru_cache(maxsize=1)
def _ladder_checker() -> jsonschema.protocols.Validator:
    return _checker("ladders.schema.json", "properties", "ladder", "items")


def as_data(held: Exercise | Ladder) -> dict[str, Any]:
    """An exercise or ladder as plain data; an exercise with its safeties in words."""
    return asdict(held) | ({"safeties": held.safeties} if isinstance(held, Exercise) else {})


def _passes(row: dict[str, Any]) -> tuple[Pass, ...]:
    return tuple(Pass(**one) for one in row.get("passes", ()))
