"""Which exercises answer what was found, each with the reason for its place, cautions first."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from ..events import FAMILY_OF_KIND
from ..events.families import FROM_RACK
from ..faults import Catalogue, Fault, load_catalogue
from .gates import LIGHTER_PERCENT, OPEN, STOP, Gates, barred, heavy
from .library import Exercise, load_library

EXPLAINED_COUNTS = 0.5
# What a fault's own list of drills says of an exercise that does not rate itself for the fault.
LISTED = 0.6
# What a list of the coach's own school says of its first exercise, and how much less of each that follows.
TAUGHT, NEXT_TAUGHT = 1.2, 0.1
# What fits the way a fault shows counts so much more: at every load it is a habit, above some load a weakness.
FITS = 1.5
HABIT_KINDS, WEAKNESS_KINDS = ("technique_drill", "teaching_step"), ("pull_variation", "strength")
# The sorts of work in the order in which they are shown.
SORTS = ("drill", "pull", "support")
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
    percent: float = 0.0
    """Where it starts, percent of the best in its basis."""
    another_day: bool = False
    """Offered for a day of better readiness."""


# Exercises whose film shows a lift that their own name does not tell.
FILMED_AS = {
    "axle_clean_and_press": "continental_clean",
    "rack_place": "front_squat",
    "knees_unlock_first": "front_squat",
    "clean_and_jerk_drill": "clean_and_jerk",
}


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


# Which exercise a film of a lift shows where nobody said.
SHOWN = {"snatch": "full_lift", "clean": "full_lift", "power_snatch": "power_lift", "power_clean": "power_lift", "split_jerk": "rack_jerk",
         "jerk": "rack_jerk", "power_jerk": "power_jerk_drill", "snatch_pull": "pull_from_floor", "clean_pull": "pull_from_floor",
         "muscle_snatch": "muscle_lift", "muscle_clean": "muscle_lift", "clean_and_jerk": "clean_and_jerk_drill",
         "continental_clean": "axle_clean_and_press", "press": "axle_press"}  # fmt: skip


def exercise_in(kind: str) -> str:
    """The exercise that a film of a kind of lift shows where nobody said which; empty where there is none."""
    return SHOWN.get(kind, kind if kind in load_library() else "")


def filmed_as(exercise: str, lift: str) -> str:
    """The kind of lift that a film of an exercise shows."""
    if exercise.startswith("axle"):
        return "press" if lift == "jerk" else "continental_clean"
    if exercise in FILMED_AS:
        return FILMED_AS[exercise]
    for kind in ("overhead_squat", "front_squat", "back_squat", "deadlift", "push_press", "high_pull"):
        if kind in exercise:
            return kind
    if "squat" in exercise:
        return "back_squat"
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
    gates: Gates = OPEN,
    tired: str = "",
    habit: bool | None = None,
    returns_at_kg: float | None = None,
    unchanged: Collection[str] = (),
    hidden: Collection[str] = (),
    own: Sequence[Exercise] = (),
    catalogue: Catalogue | None = None,
) -> tuple[list[Candidate], str]:
    """Exercises for a lift ("snatch", "clean" or "jerk") whose first causes and explained faults are given, best first, and a caution.

    What the athlete's state forbids is left out, and the caution says so; it is empty otherwise. With low readiness technical work is one
    step easier and lighter, and pulls and heavy squats are for another day.

    Args:
        tired: what drifts over this session's last sets, in words: technical work is then over for today.
        habit: whether the first cause shows at every load (true), only above some load (false), or that is not known.
        returns_at_kg: the load from which the first cause shows, where that is known.
        unchanged: exercises that were done for the same cause for a block without the number moving; their neighbours take their place.
        hidden: exercises that the coach does not use.
        own: the coach's own exercises; one that has the id of the library's stands for it.
        catalogue: as the coach's school reads it; the usual one when left out. Of exercises that answer equally well, the one that
            school teaches first leads.
    """
    if gates.stop:
        return [], STOP
    if tired:
        return [], f"{tired[0].upper()}{tired[1:]} over the last sets of this session: technical work is over for today."
    catalogue = catalogue or load_catalogue()
    faults = catalogue.faults
    offered: list[Candidate] = []
    withheld: list[str] = []
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
        if why := barred(exercise, gates):
            withheld += [why] if why not in withheld else []
            continue
        fits = habit is not None and exercise.kind in (HABIT_KINDS if habit else WEAKNESS_KINDS)
        worth = sum(_answers(exercise, faults[f]) for f in direct) * (FITS if fits else 1.0)
        worth += EXPLAINED_COUNTS * sum(_answers(exercise, faults[f]) for f in indirect)
        named = " and ".join(f"“{faults[f].name.lower()}”" for f in direct or indirect)
        place = "the one to fix first" if direct else "which follows from it" if roots else "to keep an eye on"
        reason = f"Answers {named}, {place}; trains the {', '.join(exercise.positions)}."
        if fits and direct:
            heavy_only = f"from {returns_at_kg:g} kg on" if returns_at_kg else "only when it gets heavy"
            from_kg = f" It comes back {heavy_only}: strength."
            reason += " It is there at every load: a habit, so a drill." if habit else from_kg
        if exercise.id in instead:
            worth += LISTED
            reason += f" In place of “{library[instead[exercise.id]].named(lift).lower()}”, a block of which did not move the number."
        offered.append(Candidate(exercise, worth, reason, bool(direct), exercise.start_percent))
    order = TOP_DOWN if catalogue.order == "top_down" else TOP_DOWN[::-1]
    offered.sort(key=lambda one: (not one.direct, -round(one.worth, 6), min(map(order.index, one.exercise.positions))))
    cautions = [f"{why} Such work is left out." for why in withheld]
    if gates.low_readiness:
        offered = _calmer(offered, lift, gates, library, hidden)
        cautions.append(
            f"{gates.low_readiness[0].upper()}{gates.low_readiness[1:]}: technical work is offered a step easier and "
            f"{LIGHTER_PERCENT:g} % lighter, pulls and heavy squats for another day. You decide."
        )
    return offered, " ".join(cautions)


def three(offered: Sequence[Candidate], already: Collection[str] = ()) -> list[Candidate]:
    """The offers to show first: the best of each sort, a position drill, a pull variation and support; for today, where there is one.
    Of the sorts that are set `already` none is put forward."""
    best: dict[str, Candidate] = {}
    for one in sorted(offered, key=lambda one: one.another_day):
        best.setdefault(one.exercise.sort, one)
    return [best[sort] for sort in SORTS if sort in best and sort not in already]


def _calmer(
    offered: Sequence[Candidate], lift: str, gates: Gates, library: Mapping[str, Exercise], hidden: Collection[str]
) -> list[Candidate]:
    """The same offers for a day of low readiness."""
    calm: dict[str, Candidate] = {}
    for one in offered:
        exercise = one.exercise
        if heavy(exercise):
            calm.setdefault(exercise.id, replace(one, another_day=True, reason=f"{one.reason} For another day: {gates.low_readiness}."))
            continue
        if exercise.kind in HABIT_KINDS:
            easier = next(
                (
                    library[id]
                    for id in exercise.easier
                    if lift in library[id].lifts and id not in hidden and not barred(library[id], gates) and not heavy(library[id])
                ),
                exercise,
            )
            if easier is not exercise:
                why = f"{one.reason} A step easier than “{exercise.named(lift).lower()}”: {gates.low_readiness}."
                one = replace(one, exercise=easier, percent=easier.start_percent, reason=why)
            one = replace(one, percent=max(one.percent - LIGHTER_PERCENT, 0.0))
        calm.setdefault(one.exercise.id, one)
    return sorted(calm.values(), key=lambda one: one.another_day)


def _answers(exercise: Exercise, fault: Fault) -> float:
    """How well an exercise answers a fault; about 1 at best."""
    shipped = load_catalogue().faults.get(fault.id)
    if shipped is None or fault.drills != shipped.drills:
        return TAUGHT - NEXT_TAUGHT * fault.drills.index(exercise.id) if exercise.id in fault.drills else 0.0
    return exercise.answers.get(fault.id, LISTED if exercise.id in fault.drills else 0.0)
