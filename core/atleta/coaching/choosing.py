"""Which exercises answer what was found, each with the reason for its place, cautions first."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from ..events import FAMILY_OF_KIND
from ..events.families import FROM_RACK
from ..faults import Catalogue, Fault, load_catalogue
from .library import Exercise, load_library

PAIN_STOPS_AT = 4
EXPLAINED_COUNTS = 0.5
# What a fault's own list of drills says of an exercise that does not rate itself for the fault.
LISTED = 0.6
# What a list of the coach's own school says of its first exercise, and how much less of each that follows.
TAUGHT, NEXT_TAUGHT = 1.2, 0.1
# What fits the way a fault shows counts so much more: at every load it is a habit, above some load a weakness.
FITS = 1.5
HABIT_KINDS, WEAKNESS_KINDS = ("technique_drill", "teaching_step"), ("pull_variation", "strength")
# The parts of a lift from the top down, as they are taught in that order.
TOP_DOWN = ("overhead", "catch", "split", "turnover", "drive", "dip", "contact", "thigh", "knee", "floor")


@dataclass(frozen=True)
class Candidate:
    """An exercise offered for a lift, how well it answers, and why."""

    exercise: Exercise
    worth: float
    reason: str
    direct: bool = True
    """It answers the first cause itself, not only what that leads to."""


def drill_lift(kind: str) -> str:
    """The lift whose drills answer a kind of lift: snatch, clean or jerk."""
    if "snatch" in kind or kind == "overhead_squat":
        return "snatch"
    return "jerk" if FAMILY_OF_KIND.get(kind) in FROM_RACK or kind == "jerk" else "clean"


def best_lift(kind: str) -> str:
    """The lift whose best a kind of lift is held against, as bests are kept."""
    if kind in ("front_squat", "back_squat"):
        return kind
    return "clean_and_press" if FAMILY_OF_KIND.get(kind) in ("continental", "press") else drill_lift(kind)


def filmed_as(exercise: str, lift: str) -> str:
    """The kind of lift that a film of an exercise shows."""
    if exercise.startswith("axle"):
        return "press" if lift == "jerk" else "continental_clean"
    for kind in ("overhead_squat", "front_squat", "back_squat", "deadlift", "push_press", "high_pull"):
        if kind in exercise:
            return kind
    if lift == "jerk":
        return "power_jerk" if exercise.startswith("power_jerk") else "split_jerk"
    if "pull" in exercise:
        return f"{lift}_pull"
    if exercise in ("power_lift", "meet_high_power"):
        return f"power_{lift}"
    return f"muscle_{lift}" if exercise.startswith("muscle") else lift


def candidates(
    roots: Sequence[str],
    explained: Sequence[str],
    lift: str,
    *,
    pain: int = 0,
    contact_bruise: bool = False,
    tired: str = "",
    habit: bool | None = None,
    unchanged: Collection[str] = (),
    hidden: Collection[str] = (),
    own: Sequence[Exercise] = (),
    catalogue: Catalogue | None = None,
) -> tuple[list[Candidate], str]:
    """Exercises for a lift ("snatch", "clean" or "jerk") whose first causes and explained faults are given, best first, and a caution.

    Pain of 4 of 10 or more: nothing is offered. A bruise where the bar meets the body: nothing with contact. The caution says so,
    and is empty otherwise.

    Args:
        tired: what drifts over this session's last sets, in words: technical work is then over for today.
        habit: whether the first cause shows at every load (true), only above some load (false), or that is not known.
        unchanged: exercises that were done for the same cause for a block without the number moving; their neighbours take their place.
        hidden: exercises that the coach does not use.
        own: the coach's own exercises; one that has the id of the library's stands for it.
        catalogue: as the coach's school reads it; the usual one when left out. Of exercises that answer equally well, the one that
            school teaches first leads.
    """
    if pain >= PAIN_STOPS_AT:
        return [], "Pain of 4 out of 10 or more was reported: no drill is offered. Stop, and see a licensed clinician."
    if tired:
        return [], f"{tired[0].upper()}{tired[1:]} over the last sets of this session: technical work is over for today."
    catalogue = catalogue or load_catalogue()
    faults = catalogue.faults
    offered: list[Candidate] = []
    withheld = 0
    library = load_library() | {exercise.id: exercise for exercise in own}
    instead = {
        neighbour: old
        for old in unchanged
        if old in library
        for neighbour in (*library[old].harder, *library[old].easier)
        if neighbour not in unchanged
    }
    for exercise in library.values():
        if lift not in exercise.lifts or exercise.id in unchanged or exercise.id in hidden:
            continue
        direct = [fault for fault in roots if _answers(exercise, faults[fault])]
        indirect = [fault for fault in explained if _answers(exercise, faults[fault]) and fault not in direct]
        if not direct and not indirect:
            continue
        if exercise.contact and contact_bruise:
            withheld += 1
            continue
        fits = habit is not None and exercise.kind in (HABIT_KINDS if habit else WEAKNESS_KINDS)
        worth = sum(_answers(exercise, faults[f]) for f in direct) * (FITS if fits else 1.0)
        worth += EXPLAINED_COUNTS * sum(_answers(exercise, faults[f]) for f in indirect)
        named = " and ".join(f"“{faults[f].name.lower()}”" for f in direct or indirect)
        first = "the first cause" if direct else "what the first cause leads to"
        reason = f"Answers {named}, {first}; trains the {', '.join(exercise.positions)}."
        if fits and direct:
            reason += " It is there at every load: a habit, so a drill." if habit else " It comes back only as it gets heavy: strength."
        if exercise.id in instead:
            worth += LISTED
            reason += f" In place of “{library[instead[exercise.id]].named(lift).lower()}”, a block of which did not move the number."
        offered.append(Candidate(exercise, worth, reason, bool(direct)))
    caution = "A bruise where the bar meets the body was reported: work with contact is left out until it has healed." if withheld else ""
    order = TOP_DOWN if catalogue.order == "top_down" else TOP_DOWN[::-1]
    return sorted(offered, key=lambda one: (not one.direct, -round(one.worth, 6), min(map(order.index, one.exercise.positions)))), caution


def _answers(exercise: Exercise, fault: Fault) -> float:
    """How well an exercise answers a fault; about 1 at best."""
    if fault.drills != load_catalogue().faults[fault.id].drills:
        return TAUGHT - NEXT_TAUGHT * fault.drills.index(exercise.id) if exercise.id in fault.drills else 0.0
    return exercise.answers.get(fault.id, LISTED if exercise.id in fault.drills else 0.0)
