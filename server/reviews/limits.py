"""A coach's own limits of the rules: set on a clip, valid for its athlete or for all of the coach's, kept beside the usual ones."""

from __future__ import annotations

from typing import Any

from django.db.models import Q

from atleta.faults import Catalogue, Condition, Threshold
from atleta_site.refusals import Refused
from clips.models import Clip
from people.models import Athlete

from .models import Limit
from .said import gathered, spread
from .schools import catalogue_of


class CannotLimit(Refused):
    """What was asked does not fit the rule; the message says why."""


def limits_of(athlete: Athlete) -> dict[tuple[str, str], Limit]:
    """The limits that stand for an athlete, by fault and measure: their own before those for everyone. Those of rules that this version
    no longer has are kept, and judge nothing."""
    rows = Limit.objects.filter(Q(athlete=None) | Q(athlete=athlete), coach=athlete.coach_id)
    ordered = sorted(rows, key=lambda row: row.athlete_id is not None)
    if not ordered:
        return {}
    catalogue = catalogue_of(athlete)
    return {(row.fault, row.measure): row for row in ordered if _rule(catalogue, row.fault, row.measure) is not None}


def thresholds_of(athlete: Athlete) -> dict[tuple[str, str], Threshold]:
    """The same as the analysis takes them."""
    return {rule: Threshold(row.watch, row.fault_at) for rule, row in limits_of(athlete).items()}


def written(athlete: Athlete) -> list[list[Any]]:
    """The same as they are kept with an analysis, to tell whether it was judged by them."""
    return sorted([*rule, row.watch, row.fault_at] for rule, row in limits_of(athlete).items())


def shown(clip: Clip) -> list[dict[str, Any]]:
    """The limits that stand for a clip, beside the usual ones."""
    kinds = [lift["kind"] for lift in clip.analysis.document["lifts"]]
    catalogue = catalogue_of(clip.athlete)
    rows = []
    for (fault, measure), row in limits_of(clip.athlete).items():
        kind = next((kind for kind in kinds if kind in catalogue.faults[fault].kinds), "")
        usual = _condition(catalogue, fault, measure).threshold(kind, clip.athlete.stature_m)
        rows.append(
            {
                "fault": fault, "measure": measure, "watch": row.watch, "fault_at": row.fault_at, "usual_watch": usual.watch,
                "usual_fault_at": usual.fault, "everyone": row.athlete_id is None, "at": row.at,
            }
        )  # fmt: skip
    return rows


def stated(clip: Clip, fault: str, measure: str) -> dict[str, Any]:
    """What the clip's coach said of a limit: for everyone (None where nothing), and for single athletes by their key."""
    rows = Limit.objects.filter(coach=clip.athlete.coach_id, fault=fault, measure=measure)
    return gathered({row.athlete_id: {"watch": row.watch, "fault_at": row.fault_at} for row in rows})


def state(clip: Clip, fault: str, measure: str, said: dict[str, Any]) -> None:
    """Put a limit to what `stated` told."""
    coach = clip.athlete.coach_id
    Limit.objects.filter(coach=coach, fault=fault, measure=measure).delete()
    Limit.objects.bulk_create(
        Limit(coach_id=coach, athlete_id=key, fault=fault, measure=measure, **value) for key, value in spread(coach, said).items()
    )


def fits(catalogue: Catalogue, fault: str, measure: str, watch: float, fault_at: float) -> None:
    """
    Raises:
        CannotLimit: the rule does not exist, or the limits are the wrong way round.
    """
    above = _condition(catalogue, fault, measure).above
    if (fault_at <= watch) if above else (fault_at >= watch):
        way = "higher" if above else "lower"
        raise CannotLimit(f"What is a fault lies beyond what is watched: its limit must be {way} than the other.")


def _rule(catalogue: Catalogue, fault: str, measure: str) -> Condition | None:
    known = catalogue.faults.get(fault)
    return next((one for one in known.conditions if one.measure == measure), None) if known else None


def _condition(catalogue: Catalogue, fault: str, measure: str) -> Condition:
    found = _rule(catalogue, fault, measure)
    if found is None:
        raise CannotLimit(f"No rule called {fault} rests on {measure}.")
    return found
