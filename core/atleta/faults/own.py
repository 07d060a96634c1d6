"""What a coach adds to the catalogue: faults of their own, and their own words for those that ship."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import jsonschema

from ..events import LIFT_KINDS
from .catalogue import PHASES, Catalogue, Fault, load_catalogue

WORDS = {"type": "string", "minLength": 3, "maxLength": 300}
ITEMS = {"type": "array", "items": {"type": "string"}, "uniqueItems": True}
FIELDS = ("id", "name", "phase", "kinds", "view", "coach", "athlete", "cue", "why", "good", "drills", "causes", "effects")
SCHEMA = {
    "type": "object",
    "required": list(FIELDS),
    "additionalProperties": False,
    "properties": {
        "id": {"type": "string", "pattern": "^own_[a-z0-9_]{1,50}$"},
        "name": {"type": "string", "minLength": 3, "maxLength": 60},
        "phase": {"enum": list(PHASES)},
        "kinds": {**ITEMS, "minItems": 1},
        "view": {"enum": ["side", "front", "45", "any"]},
        **dict.fromkeys(("coach", "athlete", "cue", "why", "good"), WORDS),
        "drills": ITEMS,
        "causes": ITEMS,
        "effects": ITEMS,
    },
}
CHECKER = jsonschema.Draft202012Validator(SCHEMA)
# What the athlete reads has no number that cannot be felt.
NOT_FOR_ATHLETES = ("±", "%", " ms")
CALLED = {"coach": "sentence for the coach", "athlete": "sentence for the athlete", "why": "reason why it matters", "good": "praise",
          "kinds": "lifts it can occur in", "view": "view that shows it"}  # fmt: skip


@dataclass(frozen=True)
class OwnFault:
    """A coach's own fault, and its place in the cause graph."""

    fault: Fault
    causes: tuple[str, ...]
    effects: tuple[str, ...]


@dataclass(frozen=True)
class Wording:
    """A coach's own words for a fault; what is empty stands as it ships."""

    coach: str = ""
    athlete: str = ""
    cue: str = ""


def own_fault(row: Mapping[str, Any]) -> OwnFault:
    """A coach's own fault from what they entered.

    Raises:
        ValueError: a field is missing or does not fit, it names a lift or fault that does not exist, or its links run against time; the
            message says what to change.
    """
    if missing := next((field for field in FIELDS if field not in row), ""):
        raise ValueError(f"The {CALLED.get(missing, missing)} is missing. Fill it in and save again.")
    for error in CHECKER.iter_errors(dict(row)):
        raise ValueError(_in_words(error))
    check_words(row["athlete"])
    if strange := set(row["kinds"]) - set(LIFT_KINDS):
        raise ValueError(f"There is no lift called {', '.join(sorted(strange))}. Choose the lifts from the list.")
    faults = load_catalogue().faults
    for other in (*row["causes"], *row["effects"]):
        if other not in faults:
            raise ValueError(f"There is no fault called {other}. Choose it from the list.")
    when = PHASES.index(row["phase"])
    for name, words, when_it_is in (("causes", "leads to it", "later"), ("effects", "follows from it", "earlier")):
        for other in row[name]:
            its = PHASES.index(faults[other].phase)
            if its > when if name == "causes" else its < when:
                raise ValueError(
                    f"“{faults[other].name}” cannot be what {words}: it happens {when_it_is} in the lift. "
                    "Take it off the list, or choose another part of the lift."
                )
    texts = {name: row[name].strip() for name in ("name", "coach", "athlete", "cue", "why", "good")}
    fault = Fault(id=row["id"], phase=row["phase"], kinds=tuple(row["kinds"]), view=row["view"], drills=tuple(row["drills"]), own=True,
                  praise=False, **texts)  # fmt: skip
    return OwnFault(fault, tuple(row["causes"]), tuple(row["effects"]))


def check_words(athlete: str) -> None:
    """
    Raises:
        ValueError: the athlete's sentence has a number that cannot be felt.
    """
    if found := next((sign for sign in NOT_FOR_ATHLETES if sign in athlete), None):
        raise ValueError(f"The sentence for the athlete has “{found.strip()}” in it. Say it without: what to feel, and what to do.")


def extended(catalogue: Catalogue, own: Sequence[OwnFault], wordings: Mapping[str, Wording]) -> Catalogue:
    """A catalogue with a coach's own faults in their place in the lift, and faults said in the coach's words."""
    if not own and not wordings:
        return catalogue
    faults = dict(catalogue.faults)
    for id, words in wordings.items():
        if id in faults:
            said = {name: value for name in ("coach", "athlete", "cue") if (value := getattr(words, name))}
            faults[id] = replace(faults[id], **said)
    effects = dict(catalogue.effects)
    for one in own:
        faults[one.fault.id] = one.fault
        effects[one.fault.id] = tuple(effect for effect in one.effects if effect in faults)
        for cause in one.causes:
            if cause in faults:
                effects[cause] = (*effects.get(cause, ()), one.fault.id)
    ordered = dict(sorted(faults.items(), key=lambda item: PHASES.index(item[1].phase)))
    return replace(catalogue, faults=ordered, effects=effects)


def _in_words(error: jsonschema.ValidationError) -> str:
    """What is wrong with an entered fault, in a sentence that says what to change."""
    name = str(error.absolute_path[0]) if error.absolute_path else ""
    called = CALLED.get(name, name or "fault")
    if error.validator == "minLength":
        return f"The {called} is too short: write at least {error.validator_value} letters."
    if error.validator == "maxLength":
        return f"The {called} is too long: keep it under {error.validator_value} letters."
    if error.validator == "minItems":
        return f"Choose at least one of the {called}."
    return f"The {called} is not one of the choices. Choose from the list."
