"""What a coach adds to the catalogue: faults of their own, and their own words for those that ship."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import AbstractBaseUser

from atleta.coaching import load_library
from atleta.faults import OwnFault as Fault
from atleta.faults import Wording as Words
from atleta.faults import load_catalogue, own_fault
from atleta.faults.own import check_words
from atleta_site.names import own_id
from atleta_site.refusals import Refused

from .models import OwnFault, Verdict, Wording


class CannotName(Refused):
    """The fault cannot be kept as it was entered; the message says what to change."""


def own_faults_of(coach_id: int) -> tuple[Fault, ...]:
    """The coach's own faults, those put away too: where they were found they keep their name."""
    return tuple(own_fault(row.data) for row in OwnFault.objects.filter(coach_id=coach_id))


def wordings_of(coach_id: int) -> dict[str, Words]:
    """The coach's own words, by fault."""
    return {row.fault: Words(row.sentence, row.athlete, row.cue) for row in Wording.objects.filter(coach_id=coach_id)}


def written(coach_id: int) -> list[Any]:
    """The same as they are kept with an analysis, to tell whether it was judged by them."""
    words = [[row.fault, row.sentence, row.athlete, row.cue] for row in Wording.objects.filter(coach_id=coach_id)]
    return [list(OwnFault.objects.filter(coach_id=coach_id).values_list("data", flat=True)), words]


def put_own_fault(coach: AbstractBaseUser, data: dict[str, Any], fault: str = "") -> str:
    """Keep a fault of the coach's own, a new one or one that is there; its id.

    Raises:
        CannotName: it is not whole, or its name is taken.
    """
    mine = OwnFault.objects.filter(coach=coach)
    if fault and not mine.filter(fault=fault).exists():
        raise CannotName("You have no such fault of your own.")
    name = str(data.get("name", "")).strip()
    taken = {one.name.lower() for one in load_catalogue().faults.values()}
    taken |= {row.data["name"].lower() for row in mine.exclude(fault=fault)}
    if name.lower() in taken:
        raise CannotName(f"There is a fault called “{name}” already. Give yours another name.")
    id = fault or own_id(name, set(mine.values_list("fault", flat=True)), "fault")
    try:
        own_fault({**data, "id": id})
    except ValueError as error:
        raise CannotName(str(error)) from error
    if strange := set(data.get("drills", [])) - set(load_library()):
        raise CannotName(f"There is no exercise called {', '.join(sorted(strange))}. Choose drills from the library.")
    OwnFault.objects.update_or_create(coach=coach, fault=id, defaults={"data": {**data, "id": id}, "put_away": False})
    return id


def take_back_own_fault(coach: AbstractBaseUser, fault: str) -> None:
    """Give up a fault of the coach's own: put away where it stands on a clip, so that what was said keeps its name; else removed."""
    row = OwnFault.objects.filter(coach=coach, fault=fault).first()
    if row is None:
        return
    if Verdict.objects.filter(clip__athlete__coach=coach, fault=fault).exists():
        row.put_away = True
        row.save(update_fields=["put_away"])
    else:
        row.delete()


def put_wording(coach: AbstractBaseUser, fault: str, *, sentence: str = "", athlete: str = "", cue: str = "") -> None:
    """Say a fault in the coach's own words from now on; without any, as it ships.

    Raises:
        CannotName: there is no such fault, or the athlete's sentence has a number that cannot be felt.
    """
    if fault not in load_catalogue().faults:
        raise CannotName(f"There is no fault called {fault} that ships; change your own fault itself.")
    try:
        check_words(f"{athlete} {cue}")
    except ValueError as error:
        raise CannotName(str(error)) from error
    if not (sentence.strip() or athlete.strip() or cue.strip()):
        Wording.objects.filter(coach=coach, fault=fault).delete()
        return
    said = {"sentence": sentence.strip(), "athlete": athlete.strip(), "cue": cue.strip()}
    Wording.objects.update_or_create(coach=coach, fault=fault, defaults=said)
