"""A class on one ladder: who has passed which step, and what their films say of the next."""

from __future__ import annotations

from typing import Any

from django.utils import timezone

from atleta.coaching import Ladder, filmed_as, follow_up, load_ladders
from atleta_site.refusals import Refused
from clips.models import Clip
from people.models import Athlete

from .models import Climb


class NoSuchStep(Refused):
    """There is no such ladder or step."""

    status = 404


def ladder_of(name: str, step: int | None = None) -> Ladder:
    """A ladder by its id.

    Raises:
        NoSuchStep: there is none, or it has no such step.
    """
    ladder = load_ladders().get(name)
    if ladder is None or (step is not None and not 0 <= step < len(ladder.steps)):
        raise NoSuchStep(f"There is no such step on a ladder called {name}.")
    return ladder


def class_of(coach_id: int, ladder: Ladder) -> list[dict[str, Any]]:
    """Every athlete of a coach on a ladder: the steps they passed, the next, and what their last film of that step shows."""
    rows = []
    for athlete in Athlete.objects.filter(coach_id=coach_id).prefetch_related("climbs"):
        passed = {climb.step: climb.passed_on for climb in athlete.climbs.all() if climb.ladder == ladder.id}
        following = next((n for n in range(len(ladder.steps)) if n not in passed), None)
        rows.append({
            "athlete": athlete.pk, "name": athlete.name, "passed": [passed.get(n) for n in range(len(ladder.steps))], "next": following,
            **(_seen(athlete, ladder, following) if following is not None else {"clip": None, "says": "Every step is passed."}),
        })  # fmt: skip
    return rows


def _seen(athlete: Athlete, ladder: Ladder, number: int) -> dict[str, Any]:
    step = ladder.steps[number]
    kind = filmed_as(step.exercise, ladder.lift)
    clip = Clip.objects.filter(athlete=athlete, lift=kind, analysis__isnull=False).select_related("analysis").first()
    if clip is None or not step.passes:
        return {"clip": None, "says": "Not filmed yet." if step.passes else "By the coach's eye."}
    kept = 0
    for lift in clip.analysis.document["lifts"]:
        measured = {name: (row["value"], row["sd"]) for name, row in lift["measures"].items() if row["value"] is not None}
        kept = kept + 1 if follow_up(step.passes, measured).passed else 0
    return {"clip": str(clip.pk), "says": f"{min(kept, step.in_a_row)} of {step.in_a_row} in a row kept in the last film."}


def pass_step(athlete: Athlete, ladder: Ladder, step: int, passed: bool) -> None:
    """The coach's word on one step."""
    if passed:
        Climb.objects.get_or_create(athlete=athlete, ladder=ladder.id, step=step, defaults={"passed_on": timezone.localdate()})
    else:
        Climb.objects.filter(athlete=athlete, ladder=ladder.id, step=step).delete()
