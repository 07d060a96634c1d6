"""The exercise library as one coach has it: what ships with Atleta, with what they changed, added and put away."""

from __future__ import annotations

from typing import Any

from atleta.coaching import Exercise, exercise_of, load_library
from atleta_site.refusals import Refused

from .models import Assignment, Shelf


class CannotShelve(Refused):
    """The exercise cannot be kept as it was given; the message says why."""


def library_of(coach_id: int) -> dict[str, Exercise]:
    """Every exercise this coach's athletes can be set or were set, hidden ones too, by id."""
    return load_library() | {exercise.id: exercise for exercise in own_of(coach_id)}


def own_of(coach_id: int) -> list[Exercise]:
    return [exercise_of(row.data) for row in Shelf.objects.filter(coach_id=coach_id, data__isnull=False)]


def hidden_of(coach_id: int) -> set[str]:
    return set(Shelf.objects.filter(coach_id=coach_id, hidden=True).values_list("exercise", flat=True))


def shelve(coach_id: int, exercise: str, data: dict[str, Any]) -> Exercise:
    """Keep the coach's own exercise, or their own version of one.

    Raises:
        CannotShelve: it is not a whole exercise.
    """
    try:
        made = exercise_of({**data, "id": exercise})
    except ValueError as error:
        raise CannotShelve(str(error)) from error
    if strange := {*made.easier, *made.harder} - set(library_of(coach_id)) - {exercise}:
        raise CannotShelve(f"There is no exercise called {', '.join(sorted(strange))}.")
    Shelf.objects.update_or_create(coach_id=coach_id, exercise=exercise, defaults={"data": {**data, "id": exercise}})
    return made


def put_back(coach_id: int, exercise: str) -> None:
    """Give up the coach's own version; one that ships with Atleta is then as it shipped.

    Raises:
        CannotShelve: it is set somewhere and nothing would be left of it.
    """
    if exercise not in load_library() and Assignment.objects.filter(clip__athlete__coach_id=coach_id, exercise=exercise).exists():
        raise CannotShelve("This exercise has been set for athletes: hide it instead, so that what they did keeps its name.")
    row = Shelf.objects.filter(coach_id=coach_id, exercise=exercise).first()
    if row and row.hidden and exercise in load_library():
        row.data = None
        row.save(update_fields=["data"])
    elif row:
        row.delete()


def hide(coach_id: int, exercise: str, hidden: bool) -> None:
    """Put an exercise away, so that it is no longer offered, or bring it back.

    Raises:
        CannotShelve: there is no such exercise.
    """
    if exercise not in library_of(coach_id):
        raise CannotShelve(f"There is no exercise called {exercise}.")
    Shelf.objects.update_or_create(coach_id=coach_id, exercise=exercise, defaults={"hidden": hidden})
    Shelf.objects.filter(coach_id=coach_id, data__isnull=True, hidden=False).delete()


def used_by(coach_id: int) -> dict[str, list[str]]:
    """Whom each exercise was set for, by name."""
    rows = Assignment.objects.filter(clip__athlete__coach_id=coach_id).values_list("exercise", "clip__athlete__name").distinct()
    used: dict[str, list[str]] = {}
    for exercise, name in sorted(set(rows)):
        used.setdefault(exercise, []).append(name)
    return used
