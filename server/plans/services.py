"""Set work: candidates for what a clip showed, and the load worked out from bests and the discs on hand."""

from __future__ import annotations

from dataclasses import dataclass

from django.db import transaction

from atleta.coaching import Candidate, Exercise, candidates, drill_lift, load_bar, load_library
from atleta.coaching.choosing import PAIN_STOPS_AT
from atleta.coaching.loading import POUND_KG
from atleta_site.refusals import Refused
from clips.models import Clip
from people.models import GymRack
from reviews.schools import catalogue_of

from .models import Assignment


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


def offered(clip: Clip) -> tuple[list[tuple[Candidate, Dose]], str]:
    """Exercises for what stands on this clip after the coach's verdicts, each with its starting load, and the caution that applies."""
    rows = [row for lift in clip.analysis.document["lifts"] for row in lift["findings"] if row["level"] in ("fault", "watch", "seen")]
    dismissed = set(clip.verdicts.filter(decision="dismissed").values_list("fault", flat=True))
    rows = [row for row in rows if row["fault"] not in dismissed]
    roots = [row["fault"] for row in rows if row["root"]]
    others = [row["fault"] for row in rows if not row["root"]]
    athlete = clip.athlete
    found, caution = candidates(
        roots, others, drill_lift(clip.lift), pain=athlete.pain, contact_bruise=athlete.contact_bruise, catalogue=catalogue_of(athlete)
    )
    return [(one, work_out(clip, one.exercise, one.exercise.start_percent)) for one in found], caution


def work_out(clip: Clip, exercise: Exercise, percent: float) -> Dose:
    """The load for an exercise at a share of the athlete's best, rounded down to what can be loaded."""
    basis = exercise.basis_for(drill_lift(clip.lift))
    rack = GymRack.objects.get_or_create(coach_id=clip.athlete.coach_id)[0].as_rack()
    best = next((best.kilos for best in clip.athlete.bests.all() if best.lift == basis), None)
    if best is None:
        return Dose(basis, None, rack.unit, None, ())
    target_kg = best * percent / 100
    loading = load_bar(target_kg if rack.unit == "kg" else target_kg / POUND_KG, rack)
    return Dose(basis, best, rack.unit, loading.total, loading.per_side)


def allowed(clip: Clip, exercise_id: str, percent: float) -> tuple[Exercise, Dose]:
    """An exercise at a share of the best, if it may be set on this clip, with its load.

    Raises:
        CannotAssign: no such exercise, pain or a bruise forbids it, or the load is above the exercise's ceiling.
    """
    exercise = load_library().get(exercise_id)
    if exercise is None:
        raise CannotAssign(f"There is no exercise called {exercise_id}.")
    lift = drill_lift(clip.lift)
    if clip.athlete.pain >= PAIN_STOPS_AT:
        raise CannotAssign("Pain of 4 out of 10 or more was reported: no drill is set. Stop, and see a licensed clinician.")
    if clip.athlete.contact_bruise and exercise.contact:
        raise CannotAssign("A bruise where the bar meets the body was reported: set work without contact until it has healed.")
    if percent > exercise.percent[1]:
        raise CannotAssign(f"{exercise.named(lift)} goes up to {exercise.percent[1]:.0f} % of the best {exercise.basis_for(lift)}.")
    return exercise, work_out(clip, exercise, percent)


@transaction.atomic
def assign(clip: Clip, exercise_id: str, *, sets: int, reps: int, percent: float, per_week: int, weeks: int, note: str = "") -> Assignment:
    """Set an exercise on a clip; refused as `allowed` refuses it."""
    _, dose = allowed(clip, exercise_id, percent)
    return Assignment.objects.create(
        clip=clip, exercise=exercise_id, lift=drill_lift(clip.lift), sets=sets, reps=reps, percent=percent, per_week=per_week, weeks=weeks,
        note=note, basis=dose.basis, best_kilos=dose.best_kilos, unit=dose.unit, total=dose.total, per_side=list(dose.per_side),
    )  # fmt: skip
