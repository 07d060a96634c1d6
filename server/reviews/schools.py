"""A coach's positions where coaches disagree: for all of their athletes, or for one; what is not set stands as usual."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import Q

from atleta.faults import Catalogue, load_schools, taught
from atleta_site.refusals import Refused
from people.models import Athlete

from .models import Stance
from .own import own_faults_of, wordings_of
from .said import gathered, spread


class CannotTake(Refused):
    """There is no such question or position; the message says which."""


def stances_of(coach: AbstractBaseUser, athlete: Athlete | None = None) -> dict[str, Stance]:
    """The positions that stand for all of a coach's athletes, or for one: their own before those for everyone. What this version no
    longer asks is kept, and changes nothing."""
    rows = Stance.objects.filter(Q(athlete=None) | Q(athlete=athlete), coach=coach)
    ordered = sorted(rows, key=lambda row: row.athlete_id is not None)
    return {row.question: row for row in ordered if _known(row.question, row.position)}


def schools_of(athlete: Athlete) -> dict[str, str]:
    """The same as the analysis takes them."""
    return {question: row.position for question, row in stances_of(athlete.coach, athlete).items()}


def catalogue_of(athlete: Athlete) -> Catalogue:
    """The faults as this athlete's coach reads them, their own among them, in their own words."""
    return taught(schools_of(athlete), own_faults_of(athlete.coach_id), wordings_of(athlete.coach_id))


def shown(coach: AbstractBaseUser, athlete: Athlete | None) -> list[dict[str, Any]]:
    """Every question with its positions, and the one that stands."""
    stands = stances_of(coach, athlete)
    return [
        {
            "id": school.id,
            "asks": school.asks,
            "why": school.why,
            "positions": [{"id": one.id, "says": one.says} for one in school.positions],
            "position": stands[school.id].position if school.id in stands else school.usual.id,
            "everyone": stands[school.id].athlete_id is None if school.id in stands else None,
            "at": stands[school.id].at if school.id in stands else None,
        }
        for school in load_schools().values()
    ]


def check(question: str, position: str) -> None:
    """Whether a position can be taken.

    Raises:
        CannotTake: there is no such question or position.
    """
    try:
        taught({question: position})
    except ValueError as error:
        raise CannotTake(str(error)) from error


def stated(coach: AbstractBaseUser, question: str) -> dict[str, Any]:
    """What a coach said on a question: for everyone (None where nothing), and for single athletes by their key."""
    rows = Stance.objects.filter(coach=coach, question=question)
    return gathered({row.athlete_id: row.position for row in rows})


def state(coach: AbstractBaseUser, question: str, said: dict[str, Any]) -> None:
    """Put what a coach says on a question to what `stated` told."""
    Stance.objects.filter(coach=coach, question=question).delete()
    Stance.objects.bulk_create(
        Stance(coach=coach, athlete_id=key, question=question, position=position) for key, position in spread(coach.pk, said).items()
    )


def _known(question: str, position: str) -> bool:
    school = load_schools().get(question)
    return school is not None and any(one.id == position for one in school.positions)
