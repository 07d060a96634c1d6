"""Which exercises answer what was found, each with the reason for its place, cautions first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..faults import load_catalogue
from .library import Exercise, load_library

PAIN_STOPS_AT = 4
EXPLAINED_COUNTS = 0.5


@dataclass(frozen=True)
class Candidate:
    """An exercise offered for a lift, how well it answers, and why."""

    exercise: Exercise
    worth: float
    reason: str


def candidates(
    roots: Sequence[str], explained: Sequence[str], lift: str, *, pain: int = 0, contact_bruise: bool = False
) -> tuple[list[Candidate], str]:
    """Exercises for a lift ("snatch" or "clean") whose first causes and explained faults are given, best first, and a caution.

    Pain of 4 of 10 or more: nothing is offered. A bruise where the bar meets the body: nothing with contact. The caution says so,
    and is empty otherwise.
    """
    if pain >= PAIN_STOPS_AT:
        return [], "Pain of 4 out of 10 or more was reported: no drill is offered. Stop, and see a licensed clinician."
    faults = load_catalogue().faults
    offered: list[Candidate] = []
    withheld = 0
    for exercise in load_library().values():
        if lift not in exercise.lifts:
            continue
        direct = [fault for fault in roots if fault in exercise.answers]
        indirect = [fault for fault in explained if fault in exercise.answers and fault not in direct]
        if not direct and not indirect:
            continue
        if exercise.contact and contact_bruise:
            withheld += 1
            continue
        worth = sum(exercise.answers[f] for f in direct) + EXPLAINED_COUNTS * sum(exercise.answers[f] for f in indirect)
        named = " and ".join(f"“{faults[f].name.lower()}”" for f in direct or indirect)
        first = "the first cause" if direct else "what the first cause leads to"
        offered.append(Candidate(exercise, worth, f"Answers {named}, {first}; trains the {', '.join(exercise.positions)}."))
    caution = "A bruise where the bar meets the body was reported: work with contact is left out until it has healed." if withheld else ""
    return sorted(offered, key=lambda one: -one.worth), caution
