"""The coach's decisions on faults, limits and preferences: each kept as a change that can be undone, followed at once by the chain."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import AbstractBaseUser

from clips.models import Clip
from people.models import Athlete

from . import limits, schools
from .corrections import change_preference, correct
from .models import Analysis, Verdict
from .schools import catalogue_of
from .services import CannotReview


def put_verdict(
    clip: Clip, place: int, fault: str, decision: str, by: AbstractBaseUser, *, frame: int | None = None, note: str = ""
) -> Analysis:  # fmt: skip
    """The coach confirms, dismisses or adds a fault of one of the clip's lifts, counted from 0.

    Raises:
        CannotReview: no such lift or fault; or one is confirmed that the program did not find.
    """
    if fault not in catalogue_of(clip.athlete).faults:
        raise CannotReview(f"There is no fault called {fault}.")
    lifts = clip.analysis.document["lifts"]
    # Of a clip in which no lift was found the coach may have seen one.
    if place >= max(len(lifts), 1):
        raise CannotReview("The clip has no such lift.")
    found = {row["fault"] for lift in lifts[place : place + 1] for row in lift["findings"] if row["level"] in ("fault", "watch")}
    if decision == Verdict.Decision.CONFIRMED and fault not in found:
        raise CannotReview("Only what was found can be confirmed; add it as your own instead.")
    if frame is not None and frame >= clip.analysis.document["clip"]["frame_count"]:
        raise CannotReview("The clip has no such frame.")
    return correct(clip, f"verdict:{place}:{fault}", {"decision": decision, "frame": frame, "note": note}, by)


def take_back_verdict(clip: Clip, place: int, fault: str, by: AbstractBaseUser) -> Analysis:
    return correct(clip, f"verdict:{place}:{fault}", None, by)


def set_limit(
    clip: Clip, fault: str, measure: str, watch: float, fault_at: float, by: AbstractBaseUser, *, everyone: bool
) -> Analysis:  # fmt: skip
    """Judge a rule by the coach's own limits from now on: for the clip's athlete, or for everyone of the coach's.

    Raises:
        CannotLimit: they do not fit the rule.
    """
    limits.fits(catalogue_of(clip.athlete), fault, measure, watch, fault_at)

    def said(now: Clip) -> dict[str, Any]:
        stands, own = limits.stated(now, fault, measure), str(now.athlete_id)
        if everyone:
            stands["athletes"].pop(own, None)
            return stands | {"everyone": {"watch": watch, "fault_at": fault_at}}
        stands["athletes"][own] = {"watch": watch, "fault_at": fault_at}
        return stands

    return correct(clip, f"limit:{fault}:{measure}", said, by)


def take_back_limit(clip: Clip, fault: str, measure: str, by: AbstractBaseUser) -> Analysis:
    """The coach's own limit no longer stands for this athlete; what stood behind it does again."""

    def said(now: Clip) -> dict[str, Any]:
        stands = limits.stated(now, fault, measure)
        if stands["athletes"].pop(str(now.athlete_id), None) is None:
            stands["everyone"] = None
        return stands

    return correct(clip, f"limit:{fault}:{measure}", said, by)


def take_position(coach: AbstractBaseUser, athlete: Athlete | None, question: str, position: str, clip: Clip | None = None) -> None:
    """Take a position where coaches differ: for one athlete, or for everyone, who then has no other.

    Raises:
        CannotTake: there is no such question or position.
    """
    schools.check(question, position)

    def said() -> dict[str, Any]:
        if athlete is None:
            return {"everyone": position, "athletes": {}}
        stands = schools.stated(coach, question)
        stands["athletes"][str(athlete.pk)] = position
        return stands

    change_preference(coach, question, said, clip)


def leave_position(coach: AbstractBaseUser, athlete: Athlete | None, question: str, clip: Clip | None = None) -> None:
    """Take a position back: what stood behind it does again."""

    def said() -> dict[str, Any]:
        stands = schools.stated(coach, question)
        if athlete is None or stands["athletes"].pop(str(athlete.pk), None) is None:
            stands["everyone"] = None
        return stands

    change_preference(coach, question, said, clip)
