"""An athlete's lifts laid together: what is kept of each, and what many of them tell."""

from __future__ import annotations

from dataclasses import asdict
from datetime import date
from math import nan
from typing import Any

from django.db import transaction
from django.db.models import Prefetch, Q, QuerySet
from django.db.models.fields.json import KT

from atleta.coaching import best_lift
from atleta.coaching.loading import POUND_KG
from atleta.events import FAMILY_OF_KIND, sequence_of
from atleta.events.families import RECEIVED
from atleta.measures import declarations
from atleta.series import (
    LEAST_LIFTS,
    Difference,
    Entry,
    Number,
    confirmed_over,
    first_against_last,
    leaves_first,
    load_speed_profile,
    made_against_missed,
    over_repetitions,
    usual_band,
)
from clips.models import Clip
from people.models import Athlete

from .limits import thresholds_of
from .models import LiftNumbers, Verdict
from .schools import catalogue_of

# Of differences no more than these are told, and of those only what shows.
MOST_DIFFERENCES = 6
SPEED = "peak_velocity"
# Lifts that are made or missed.
ATTEMPTS = RECEIVED | frozenset(kind for kind, family in FAMILY_OF_KIND.items() if family == "jerk") | {"continental_clean"}


@transaction.atomic
def keep_numbers(clip: Clip, document: dict[str, Any]) -> None:
    """Keep what many lifts are laid together by; what was kept of this clip before goes."""
    clip.numbers.all().delete()
    LiftNumbers.objects.bulk_create(
        LiftNumbers(
            clip=clip, place=place, kind=lift["kind"], made=_made(lift),
            numbers={name: [one["value"], one["sd"]] for name, one in lift["measures"].items() if one["value"] is not None},
        )
        for place, lift in enumerate(document["lifts"])
    )  # fmt: skip


def _made(lift: dict[str, Any]) -> bool | None:
    # A pull, a squat or a drill is neither made nor missed.
    if lift["kind"] not in ATTEMPTS:
        return None
    if lift["made"] is not None:
        return bool(lift["made"])
    return lift["outcome"]["made"] if lift.get("outcome") else None


def load_kg(clip: Clip) -> float | None:
    return None if clip.load is None else clip.load * (POUND_KG if clip.load_unit == "lb" else 1.0)


def day_of(clip: Clip) -> date:
    return clip.filmed_on or clip.added_at.date()


def entries_of(athlete: Athlete, kind: str | None = None, *, weighed: bool = True, on: date | None = None) -> list[Entry]:
    """The athlete's measured lifts, oldest first: those whose load is known, or all of them, with no number for a load that is not; of one
    day, where one is named. A constant number of queries, however many lifts there are."""
    for clip in _measured(athlete).filter(numbers__isnull=True).select_related("analysis"):
        keep_numbers(clip, clip.analysis.document)
    rows = LiftNumbers.objects.filter(kind=kind) if kind else LiftNumbers.objects.all()
    clips = _measured(athlete).prefetch_related(Prefetch("numbers", queryset=rows)).order_by("filmed_on", "added_at", "pk").distinct()
    if on is not None:
        clips = clips.filter(Q(filmed_on=on) | Q(filmed_on__isnull=True, added_at__date=on))
    made: list[Entry] = []
    for order, clip in enumerate(clips):
        load = load_kg(clip)
        if load is None and weighed:
            continue
        for row in clip.numbers.all():
            numbers = {name: Number(value, sd) for name, (value, sd) in row.numbers.items()}
            made.append(
                Entry(
                    f"{clip.pk}:{row.place}",
                    row.kind,
                    day_of(clip),
                    100 * order + row.place,
                    nan if load is None else load,
                    row.made,
                    numbers,
                    str(clip.pk),
                )
            )
    return sorted(made, key=lambda one: (one.on, one.order))


def numbers_by_load(athlete: Athlete, kind: str, measures: list[str]) -> list[tuple[float, list[float | None]]]:
    """Of every weighed lift of one kind its load (kg) and some of its measures, None where one is not known."""
    names = [f"m{place}" for place in range(len(measures))]
    told = {name: KT(f"numbers__{measure}__0") for name, measure in zip(names, measures, strict=True)}
    rows = LiftNumbers.objects.filter(clip__athlete=athlete, kind=kind, clip__load__isnull=False).annotate(**told)
    return [
        (load * (POUND_KG if unit == "lb" else 1.0), [None if value is None else float(value) for value in values])
        for load, unit, *values in rows.values_list("clip__load", "clip__load_unit", *names)
    ]


def _measured(athlete: Athlete) -> QuerySet[Clip]:
    return Clip.objects.filter(athlete=athlete, analysis__isnull=False).defer("info")


def usual_speed(clip: Clip) -> tuple[float, float] | None:
    """The speed at which this athlete usually moves this clip's load and its spread, m/s: from their other lifts, once there are enough."""
    load = load_kg(clip)
    if load is None:
        return None
    row = [one for one in entries_of(clip.athlete, sequence_of(clip.lift)[0]) if one.set != str(clip.pk)]
    profile = load_speed_profile(row)
    if profile is None or profile.lifts < LEAST_LIFTS:
        return None
    # Finer than this would have every clip judged anew with each that comes in.
    return round(profile.at(load), 2), round(profile.spread_m_s, 2)


def better_than_usual(clip: Clip, document: dict[str, Any]) -> dict[str, list[str] | None]:
    """By lift of a clip, the faults whose numbers are better than the band of the athlete's other lifts of that kind; None where too few of
    those are known."""
    told: dict[str, list[str] | None] = {}
    faults = catalogue_of(clip.athlete).faults.values()
    for place, lift in enumerate(document["lifts"]):
        others = [one for one in entries_of(clip.athlete, lift["kind"], weighed=False) if one.set != str(clip.pk)]
        if len(others) < LEAST_LIFTS:
            told[str(place)] = None
            continue
        better = []
        for fault in faults:
            if not fault.praise or lift["kind"] not in fault.kinds or not (asked := fault.asked(lift["kind"])):
                continue
            value, band = lift["measures"].get(asked[0].measure, {}).get("value"), usual_band(others, asked[0].measure, None)
            if value is not None and not isinstance(band, int) and (value < band.low if asked[0].above else value > band.high):
                better.append(fault.id)
        told[str(place)] = better
    return told


def series_of(athlete: Athlete, kind: str | None, since: date | None, until: date | None) -> dict[str, Any]:
    """What an athlete's lifts of one kind (the one lifted most when none is named) tell together."""
    everything = entries_of(athlete)
    kinds: dict[str, int] = {}
    for one in everything:
        kinds[one.kind] = kinds.get(one.kind, 0) + 1
    kind = kind or max(kinds, key=lambda name: kinds[name], default="")
    row = [one for one in everything if one.kind == kind and (since is None or one.on >= since) and (until is None or one.on <= until)]
    told = {d.id: d for d in declarations()}
    best = next((best.kilos for best in athlete.bests.all() if best.lift == best_lift(kind)), None) if kind else None
    profile = load_speed_profile(row)

    def named(measure: str) -> dict[str, str]:
        return {"measure": measure, "label": told[measure].label, "unit": told[measure].unit}

    def differences(found: list[Difference]) -> list[dict[str, Any]]:
        shown = [one for one in found if one.shown and one.measure in told][:MOST_DIFFERENCES]
        return [
            named(one.measure)
            | {"first": one.first, "then": one.then, "sd": one.sd, "first_lifts": one.counts[0], "then_lifts": one.counts[1]}
            for one in shown
        ]

    catalogue = catalogue_of(athlete)
    leaves = leaves_first(row, catalogue, thresholds=thresholds_of(athlete), stature_m=athlete.stature_m)
    faults = catalogue.faults
    judged = {c.measure for fault in faults.values() if kind in fault.kinds for c in fault.conditions} | {SPEED}
    bands = {measure: usual_band(row, measure, best) for measure in told if measure in judged}
    return {
        "kinds": [{"kind": name, "lifts": count} for name, count in sorted(kinds.items(), key=lambda item: -item[1])],
        "kind": kind,
        "best_kg": best,
        "lifts": [
            {
                "clip": one.set, "place": int(one.id.rpartition(":")[2]), "on": one.on, "load_kg": round(one.load_kg, 2), "made": one.made,
                "numbers": {name: [number.value, number.sd] for name, number in one.numbers.items() if name in judged},
            }
            for one in row
        ],
        "measures": [named(measure) for measure in told if measure in judged and any(measure in one.numbers for one in row)],
        "profile": asdict(profile) if profile else None,
        "breaks": [asdict(one) | named(one.measure) | {"name": faults[one.fault].name} for one in leaves],
        "confirmed": [
            asdict(one) | {"name": faults[one.fault].name}
            for one in confirmed_over(row, _said(athlete)) if one.fault in faults
        ],
        "missed": differences(made_against_missed(row)),
        "tired": differences(first_against_last(row)),
        "repetitions": _repetitions(row, named),
        "bands": [named(measure) | asdict(band) for measure, band in bands.items() if not isinstance(band, int)],
        "band_lifts": max((band if isinstance(band, int) else band.lifts for band in bands.values()), default=0),
        "band_needs": LEAST_LIFTS,
    }  # fmt: skip


def _said(athlete: Athlete) -> dict[str, set[str]]:
    """By lift, as entries name them, the faults that stand on it by the coach's word."""
    said: dict[str, set[str]] = {}
    standing = Verdict.objects.filter(clip__athlete=athlete).exclude(decision=Verdict.Decision.DISMISSED)
    for clip, place, fault in standing.values_list("clip", "place", "fault"):
        said.setdefault(f"{clip}:{place}", set()).add(fault)
    return said


def _repetitions(row: list[Entry], named: Any) -> list[dict[str, Any]]:
    """Trends over the repetitions of a set that show, set by set."""
    told = []
    for clip in dict.fromkeys(one.set for one in row):
        reps = [one for one in row if one.set == clip]
        for measure, (spread, slope) in over_repetitions(reps).items():
            if abs(slope.value) > 2 * slope.sd:
                told.append(named(measure) | {"clip": clip, "on": reps[0].on, "load_kg": reps[0].load_kg, "repetitions": len(reps),
                                              "spread": spread, "each": slope.value, "sd": slope.sd})  # fmt: skip
    return told
