"""Set work: candidates for what a clip showed, and the load worked out from bests and the discs on hand."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from django.db import transaction
from django.utils import timezone

from atleta.coaching import Candidate, Exercise, Rack, barred, candidates, drill_lift, load_bar, three
from atleta.coaching.loading import POUND_KG
from atleta.measures import declarations
from atleta.series import first_against_last
from atleta_site.refusals import Refused
from clips.models import Clip
from people.models import Athlete, GymRack
from reviews.schools import catalogue_of
from reviews.series import day_of, lifts_of

from .gates import REASON_LETTERS, gates_of
from .models import Assignment, Block
from .shelf import hidden_of, library_of, own_of

# Lifts this much lighter than the heaviest tell a habit from what only weight brings out, and so many of them.
LIGHTER, FEWEST_LIGHT = 0.85, 2


class CannotAssign(Refused):
    """The work cannot be set; the message says why and what to do."""


@dataclass(frozen=True)
class Dose:
    """A load worked out for one athlete."""

    basis: str
    best_kilos: float | None
    unit: str
    total: float | None
    per_side: tuple[float, ...]


@dataclass(frozen=True)
class Offer:
    """An exercise offered on a clip, the lift of it that it is for (`snatch`, `clean`, `jerk`), and its starting load."""

    candidate: Candidate
    lift: str
    dose: Dose
    first: bool = False
    """One of the three that are shown first: the best of its sort."""


def offered(clip: Clip) -> tuple[list[Offer], str]:
    """Exercises for what stands on this clip after the coach's verdicts, each with its starting load, and the caution that applies. Every
    lift of a complex is answered by drills of its own."""
    athlete, tired = clip.athlete, tired_today(clip)
    gates, hidden, own, catalogue = gates_of(athlete), hidden_of(athlete.coach_id), own_of(athlete.coach_id), catalogue_of(athlete)
    found: dict[str, tuple[Candidate, str]] = {}
    cautions: list[str] = []
    for lift, (roots, others) in causes_by_lift(clip).items():
        lasting, from_kg = habit(clip, lift, roots[0]) if roots else (None, None)
        answers, caution = candidates(
            roots, others, lift, gates=gates, tired=tired, habit=lasting, returns_at_kg=from_kg, unchanged=unchanged_by(athlete, roots),
            hidden=hidden, own=own, catalogue=catalogue,
        )  # fmt: skip
        cautions += [caution] if caution and caution not in cautions else []
        for one in answers:
            known = found.get(one.exercise.id)
            if known is None or one.direct > known[0].direct:
                found[one.exercise.id] = one, lift
    if athlete.clearance:
        cautions.insert(0, f"{athlete.clearance}: ask for clearance from a licensed professional before work is set.")
    # What answers a first cause leads; otherwise each lift's stay in the order they were found in.
    best = sorted(found.values(), key=lambda pair: (pair[0].another_day, not pair[0].direct))
    library = library_of(athlete.coach_id)
    already = {library[task.exercise].sort for task in clip.assignments.all() if task.exercise in library}
    first = three([one for one, _ in best], already)
    bests, rack = {row.lift: row.kilos for row in athlete.bests.all()}, rack_of(athlete.coach_id)
    return [Offer(one, lift, _dose(one.exercise.basis_for(lift), one.percent, bests, rack), one in first) for one, lift in best], " ".join(
        cautions
    )


def causes_of(clip: Clip) -> tuple[list[str], list[str]]:
    """The first causes that stand on a clip after the coach's verdicts, and what they lead to."""
    by_lift = causes_by_lift(clip).values()
    return [fault for roots, _ in by_lift for fault in roots], [fault for _, others in by_lift for fault in others]


def causes_by_lift(clip: Clip) -> dict[str, tuple[list[str], list[str]]]:
    """The same by the lift whose drills answer them, in the order the lifts were done in; what no lift was found in has one, too."""
    dismissed = set(clip.verdicts.filter(decision="dismissed").values_list("place", "fault"))
    lifts = clip.analysis.document["lifts"]
    by_lift: dict[str, tuple[list[str], list[str]]] = {} if lifts else {drill_lift(clip.lift): ([], [])}
    for place, lift in enumerate(lifts):
        causes = by_lift.setdefault(drill_lift(lift["kind"]), ([], []))
        for row in lift["findings"]:
            if row["level"] in ("fault", "watch", "seen") and (place, row["fault"]) not in dismissed:
                causes[0 if row["root"] else 1].append(row["fault"])
    # A lone watch asks for work only where there is no fault.
    lone = {row["fault"] for lift in lifts for row in lift["findings"] if row["level"] == "watch" and not row["link"]}
    return {lift: (roots, [one for one in others if not roots or one not in lone]) for lift, (roots, others) in by_lift.items()}


def lift_for(clip: Clip, exercise: Exercise) -> str:
    """The lift of a clip that an exercise is done for, as it is offered: the first of which it answers a first cause; or else what that
    leads to; or else that it trains."""
    by_lift, coach = causes_by_lift(clip), clip.athlete.coach_id
    direct, indirect = [], []
    for lift, (roots, others) in by_lift.items():
        for one in candidates(roots, others, lift, own=own_of(coach), catalogue=catalogue_of(clip.athlete))[0]:
            if one.exercise.id == exercise.id:
                (direct if one.direct else indirect).append(lift)
    return next(iter([*direct, *indirect, *(lift for lift in by_lift if lift in exercise.lifts)]), drill_lift(clip.lift))


def habit(clip: Clip, lift: str, fault: str) -> tuple[bool | None, float | None]:
    """Whether a fault shows in this athlete's lighter lifts of the kind too (a habit), only in heavy ones, or that is not known; and where
    it shows only in heavy ones, from which load on (kg)."""
    athlete = clip.athlete
    known = catalogue_of(athlete).faults.get(fault)
    if known is None or not known.measured:
        return None, None
    asked = {kind: known.asked(kind) for kind in known.kinds if drill_lift(kind) == lift}
    if not asked:
        return None, None
    every = lifts_of(athlete, *asked, measures=list(dict.fromkeys(one.measure for conditions in asked.values() for one in conditions)))
    shown: list[tuple[float, bool]] = []
    for kind, conditions in asked.items():
        limits = [one.threshold(kind, athlete.stature_m).fault for one in conditions]
        lifts = every.where(every.kind == kind)
        values = np.stack([lifts.of(one.measure)[0] for one in conditions], axis=1)
        above = np.array([one.above for one in conditions], bool)
        beyond = np.where(above, values > limits, values < limits)
        there = (beyond.all if known.needs_all else beyond.any)(1)
        told = np.isfinite(values).all(1)
        shown += zip(lifts.load_kg[told].tolist(), there[told].tolist(), strict=True)
    heaviest = max((kilos for kilos, _ in shown), default=0.0)
    light = [there for kilos, there in shown if kilos <= LIGHTER * heaviest]
    if len(light) < FEWEST_LIGHT or (any(light) and not all(light)):
        return None, None
    if all(light):
        return True, None
    heavy = [kilos for kilos, there in shown if there]
    return (False, min(heavy)) if heavy else (None, None)


def unchanged_by(athlete: Athlete, faults: list[str]) -> set[str]:
    """Exercises of ended blocks for one of these causes whose number was not shown to move."""
    blocks = Block.objects.filter(athlete=athlete, closed_at__isnull=False, fault__in=faults).prefetch_related("assignments")
    return {
        assignment.exercise
        for block in blocks
        if block.result and block.result.get("word") in ("not_shown", "worse")
        for assignment in block.assignments.all()
    }


def tired_today(clip: Clip) -> str:
    """What got worse over the last sets of this clip's session when that is today, in words; empty otherwise."""
    if day_of(clip) != timezone.localdate():
        return ""
    told = {declaration.id: declaration for declaration in declarations()}
    for kind in dict.fromkeys(lift["kind"] for lift in clip.analysis.document["lifts"]):
        today = lifts_of(clip.athlete, kind, on=day_of(clip))
        above = {
            condition.measure: condition.above
            for fault in catalogue_of(clip.athlete).faults.values() if kind in fault.kinds for condition in fault.conditions
        }  # fmt: skip
        for one in first_against_last(today):
            if one.shown and one.measure in above and (one.then > one.first) == above[one.measure]:
                unit = told[one.measure].unit
                return f"“{told[one.measure].label.lower()}” went from {one.first:.1f} to {one.then:.1f} {unit}"
    return ""


def work_out(athlete: Athlete, exercise: Exercise, lift: str, percent: float) -> Dose:
    """The load for an exercise of a lift at a share of the athlete's best, rounded down to what can be loaded."""
    return dose_for(athlete, exercise.basis_for(lift), percent)


def dose_for(athlete: Athlete, basis: str, percent: float) -> Dose:
    """A share of an athlete's best in a lift, rounded down to what can be loaded; no load without a best, or for work without a share."""
    return _dose(basis, percent, {row.lift: row.kilos for row in athlete.bests.all()}, rack_of(athlete.coach_id))


def rack_of(coach_id: int) -> Rack:
    """The bar and plates of a coach's gym."""
    return GymRack.objects.get_or_create(coach_id=coach_id)[0].as_rack()


def _dose(basis: str, percent: float, bests: Mapping[str, float], rack: Rack) -> Dose:
    best = bests.get(basis)
    if best is None or basis == "none":
        return Dose(basis, None, rack.unit, None, ())
    target_kg = best * percent / 100
    loading = load_bar(target_kg if rack.unit == "kg" else target_kg / POUND_KG, rack)
    return Dose(basis, best, rack.unit, loading.total, loading.per_side)


def allowed(clip: Clip, exercise_id: str, percent: float, in_spite_of: str = "") -> tuple[Exercise, str, Dose]:
    """An exercise at a share of the best, if it may be set on this clip, with the lift that it is done for and its load.

    Args:
        in_spite_of: the coach's reason for setting it against a caution. No reason stands against pain.

    Raises:
        CannotAssign: no such exercise, a caution forbids it and no reason was given, or the load is above the exercise's ceiling.
    """
    athlete = clip.athlete
    exercise = library_of(athlete.coach_id).get(exercise_id)
    if exercise is None:
        raise CannotAssign(f"There is no exercise called {exercise_id}.")
    lift = lift_for(clip, exercise)
    gates = gates_of(athlete)
    if gates.stop:
        raise CannotAssign(barred(exercise, gates))
    if len(in_spite_of.strip()) < REASON_LETTERS:
        if why := barred(exercise, gates):
            raise CannotAssign(f"{why} Choose other work, or type your reason.")
        if athlete.clearance:
            raise CannotAssign(f"{athlete.clearance}: work is set once a licensed professional has cleared it, or with your reason typed.")
    if percent > exercise.percent[1]:
        raise CannotAssign(f"{exercise.named(lift)} goes up to {exercise.percent[1]:.0f} % of the best {exercise.basis_for(lift)}.")
    return exercise, lift, work_out(athlete, exercise, lift, percent)


@transaction.atomic
def assign(
    clip: Clip, exercise_id: str, *, sets: int, reps: int, percent: float, per_week: int, weeks: int, note: str = "", in_spite_of: str = ""
) -> Assignment:
    """Set an exercise on a clip; refused as `allowed` refuses it."""
    _, lift, dose = allowed(clip, exercise_id, percent, in_spite_of)
    return Assignment.objects.create(
        clip=clip, exercise=exercise_id, lift=lift, sets=sets, reps=reps, percent=percent, per_week=per_week, weeks=weeks,
        note=note, in_spite_of=in_spite_of.strip(), basis=dose.basis, best_kilos=dose.best_kilos, unit=dose.unit, total=dose.total,
        per_side=list(dose.per_side),
    )  # fmt: skip
