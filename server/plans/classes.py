"""A class on one ladder: who is on it, who has passed which step, and what their films of the next say. Ladders of the coach's own."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import Q
from django.utils import timezone

from atleta.coaching import Ladder, barred, exercise_in, filmed_as, follow_up, ladder_of, load_ladders
from atleta_site.names import own_id
from atleta_site.refusals import Refused
from clips.models import Clip
from people.models import Athlete

from .gates import gates_of
from .models import Climb, OnLadder, OwnLadder
from .shelf import library_of


class NoSuchStep(Refused):
    """There is no such ladder or step."""

    status = 404


class CannotClimb(Refused):
    """The ladder cannot be kept as it was entered; the message says what to change."""


def ladders_of(coach_id: int) -> dict[str, Ladder]:
    """Every ladder that a coach has: those that ship, and their own."""
    library = library_of(coach_id)
    return load_ladders() | {row.ladder: ladder_of(row.data, library) for row in OwnLadder.objects.filter(coach_id=coach_id)}


def one_of(coach_id: int, name: str, step: int | None = None) -> Ladder:
    """A coach's ladder by its id.

    Raises:
        NoSuchStep: there is none, or it has no such step.
    """
    ladder = ladders_of(coach_id).get(name)
    if ladder is None or (step is not None and not 0 <= step < len(ladder.steps)):
        raise NoSuchStep(f"There is no such step on a ladder called {name}.")
    return ladder


def put_ladder(coach: AbstractBaseUser, data: dict[str, Any], ladder: str = "") -> Ladder:
    """Keep a ladder of the coach's own, a new one or one that is there.

    Raises:
        CannotClimb: it is not whole, or names what does not exist; the message says which step and what to change.
    """
    own = OwnLadder.objects.filter(coach=coach)
    if ladder and not own.filter(ladder=ladder).exists():
        raise CannotClimb("You have no such ladder of your own. Those that ship stay as they are; write a new one beside it.")
    id = ladder or own_id(str(data.get("name", "")), set(own.values_list("ladder", flat=True)), "ladder")
    try:
        made = ladder_of({**data, "id": id}, library_of(coach.pk))
    except ValueError as error:
        raise CannotClimb(str(error)) from error
    OwnLadder.objects.update_or_create(coach=coach, ladder=id, defaults={"data": {**data, "id": id}})
    return made


def take_ladder_back(coach: AbstractBaseUser, ladder: str) -> None:
    """Give up a ladder of the coach's own.

    Raises:
        CannotClimb: somebody is on it.
    """
    if names := list(OnLadder.objects.filter(athlete__coach=coach, ladder=ladder).values_list("athlete__name", flat=True)):
        raise CannotClimb(f"{', '.join(names)} {'is' if len(names) == 1 else 'are'} on this ladder. Take them off it first.")
    OwnLadder.objects.filter(coach=coach, ladder=ladder).delete()


def put_on(athlete: Athlete, ladder: Ladder) -> None:
    """Put an athlete on a ladder."""
    OnLadder.objects.get_or_create(athlete=athlete, ladder=ladder.id, defaults={"since": timezone.localdate()})


def take_off(athlete: Athlete, ladder: Ladder) -> None:
    """Take an athlete off a ladder; the steps they passed are kept."""
    OnLadder.objects.filter(athlete=athlete, ladder=ladder.id).delete()


def class_of(coach_id: int, ladder: Ladder) -> dict[str, list[dict[str, Any]]]:
    """Everybody on a ladder: the steps they passed, the next, and what their last film of that step shows; and who else there is."""
    on = Q(ladders__ladder=ladder.id) | Q(climbs__ladder=ladder.id)
    here = set(Athlete.objects.filter(on, coach_id=coach_id).values_list("pk", flat=True))
    rows, others = [], []
    for athlete in Athlete.objects.filter(coach_id=coach_id).prefetch_related("climbs"):
        if athlete.pk not in here:
            others.append({"athlete": athlete.pk, "name": athlete.name})
            continue
        passed = {climb.step: climb.passed_on for climb in athlete.climbs.all() if climb.ladder == ladder.id}
        following = next((n for n in range(len(ladder.steps)) if n not in passed), None)
        rows.append({
            "athlete": athlete.pk, "name": athlete.name, "passed": [passed.get(n) for n in range(len(ladder.steps))], "next": following,
            **(_seen(athlete, ladder, following) if following is not None else {"clip": None, "says": "All passed.", "waits": ""}),
        })  # fmt: skip
    return {"rows": rows, "others": others}


def last_film(athlete: Athlete, exercise: str, lift: str) -> Clip | None:
    """The athlete's last measured film of an exercise: by the coach's word, by the work that a film follows up, or, of a
    film of which nobody said, by its lift."""
    said = Q(exercise=exercise) | Q(exercise="", follows__assignment__exercise=exercise)
    kind = filmed_as(exercise, lift)
    if exercise_in(kind) == exercise:
        said |= Q(exercise="", follows__isnull=True, lift=kind)
    return Clip.objects.filter(said, athlete=athlete, analysis__isnull=False).select_related("analysis").first()


def _seen(athlete: Athlete, ladder: Ladder, number: int) -> dict[str, Any]:
    step = ladder.steps[number]
    exercise = library_of(athlete.coach_id)[step.exercise]
    waits = barred(exercise, gates_of(athlete))
    film = last_film(athlete, step.exercise, ladder.lift)
    if film is None or not step.passes:
        return {"clip": None, "says": "Not filmed yet." if step.passes else "By the coach's eye.", "waits": waits}
    kept = best = 0
    for lift in film.analysis.document["lifts"]:
        measured = {name: (row["value"], row["sd"]) for name, row in lift["measures"].items() if row["value"] is not None}
        kept = kept + 1 if follow_up(step.passes, measured).passed else 0
        best = max(best, kept)
    return {
        "clip": str(film.pk),
        "says": f"{min(best, step.in_a_row)} of {step.in_a_row} in a row kept in the last film.",
        "waits": waits,
    }


def pass_step(athlete: Athlete, ladder: Ladder, step: int, passed: bool) -> None:
    """The coach's word on one step."""
    if passed:
        put_on(athlete, ladder)
        Climb.objects.get_or_create(athlete=athlete, ladder=ladder.id, step=step, defaults={"passed_on": timezone.localdate()})
    else:
        Climb.objects.filter(athlete=athlete, ladder=ladder.id, step=step).delete()
