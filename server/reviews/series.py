"""An athlete's lifts laid together: what is kept of each, and what many of them tell."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from datetime import date
from math import isnan, nan
from typing import Any

import numpy as np
from django.db import transaction
from django.db.models import CharField, Count
from django.db.models.functions import Cast, Coalesce, Substr

from atleta.coaching import best_lift
from atleta.coaching.loading import POUND_KG
from atleta.events import FAMILY_OF_KIND, sequence_of
from atleta.events.families import RECEIVED
from atleta.measures import declarations
from atleta.series import (
    LEAST_LIFTS,
    LEAST_REPETITIONS,
    Difference,
    Lifts,
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
from .packed import unpacked
from .schools import catalogue_of

# Of differences no more than these are told, and of those only what shows.
MOST_DIFFERENCES = 6
SPEED = "peak_velocity"
# The day of a lift as text: when its clip was filmed, or else came in.
DAY = Substr(Coalesce(Cast("clip__filmed_on", CharField()), Cast("clip__added_at", CharField())), 1, 10)
# A clip's id as text, which SQLite keeps without its dashes.
CLIP = Cast("clip_id", CharField())
# Lifts that are made or missed.
ATTEMPTS = RECEIVED | frozenset(kind for kind, family in FAMILY_OF_KIND.items() if family == "jerk") | {"continental_clean"}


@transaction.atomic
def keep_numbers(clip: Clip, document: dict[str, Any]) -> None:
    """Keep what many lifts are laid together by; what was kept of this clip before goes."""
    clip.numbers.all().delete()
    LiftNumbers.objects.bulk_create(
        LiftNumbers(
            clip=clip, place=place, kind=lift["kind"], made=_made(lift),
            numbers={name: (one["value"], one["sd"]) for name, one in lift["measures"].items() if one["value"] is not None},
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


def in_kg(load: float, unit: str) -> float:
    return load * (POUND_KG if unit == "lb" else 1.0)


def load_kg(clip: Clip) -> float | None:
    return None if clip.load is None else in_kg(clip.load, clip.load_unit)


def day_of(clip: Clip) -> date:
    return clip.filmed_on or clip.added_at.date()


def lifts_of(athlete: Athlete, *kinds: str, weighed: bool = True, on: date | None = None, measures: Sequence[str] | None = None) -> Lifts:
    """The athlete's measured lifts, oldest first: of some kinds, or of all where none is named; those whose load is known, or all of them;
    of one day, where one is named. All measures that are kept of any of them, or some. One query, however many lifts there are."""
    rows = LiftNumbers.objects.filter(clip__athlete=athlete).annotate(day=DAY, of=CLIP)
    if kinds:
        rows = rows.filter(kind__in=kinds)
    if weighed:
        rows = rows.filter(clip__load__isnull=False)
    if on is not None:
        rows = rows.filter(day=on.isoformat())
    # Days, their order and ids come as text: a thousand times in the past are not made into objects for it.
    told = rows.order_by("day", "clip__added_at", "clip_id", "place").values_list(
        "day", "of", "place", "kind", "made", "clip__load", "clip__load_unit", "numbers"
    )
    names = tuple(one.id for one in declarations()) if measures is None else tuple(measures)
    days, clips, places, kinds, outcomes, loads, units, numbers = zip(*told, strict=True) if told else ((),) * 8
    clips = [f"{clip[:8]}-{clip[8:12]}-{clip[12:16]}-{clip[16:20]}-{clip[20:]}" for clip in clips]
    loads = [nan if load is None else in_kg(load, unit) for load, unit in zip(loads, units, strict=True)]
    known, values, sds = unpacked(numbers, names)
    return Lifts(
        np.array([f"{clip}:{place}" for clip, place in zip(clips, places, strict=True)], str), np.array(clips, str), np.array(kinds, str),
        np.array(days, "datetime64[D]"), np.array(loads, float), np.array([nan if made is None else made for made in outcomes], float),
        known, values, sds,
    )  # fmt: skip


def usual_speed(clip: Clip) -> tuple[float, float] | None:
    """The speed at which this athlete usually moves this clip's load and its spread, m/s: from their other lifts, once there are enough."""
    load = load_kg(clip)
    if load is None:
        return None
    lifts = lifts_of(clip.athlete, sequence_of(clip.lift)[0], measures=[SPEED])
    profile = load_speed_profile(lifts.where(lifts.set != str(clip.pk)))
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
        everything = lifts_of(clip.athlete, lift["kind"], weighed=False)
        others = everything.where(everything.set != str(clip.pk))
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


def series_of(
    athlete: Athlete, kind: str | None, since: date | None, until: date | None, measure: str = SPEED
) -> dict[str, Any]:  # fmt: skip
    """What an athlete's lifts of one kind (the one lifted most when none is named) tell together, with one measure of each lift."""
    counted = LiftNumbers.objects.filter(clip__athlete=athlete, clip__load__isnull=False).order_by().values_list("kind")
    kinds = dict(counted.annotate(times=Count("pk")).order_by("-times", "kind"))
    kind = kind or next(iter(kinds), "")
    row = lifts_of(athlete, kind)
    if since is not None:
        row = row.where(row.on >= np.datetime64(since))
    if until is not None:
        row = row.where(row.on <= np.datetime64(until))
    told = {d.id: d for d in declarations()}
    best = next((best.kilos for best in athlete.bests.all() if best.lift == best_lift(kind)), None) if kind else None
    profile = load_speed_profile(row)

    def named(measure: str) -> dict[str, str]:
        return {"measure": measure, "label": told[measure].label, "unit": told[measure].unit}

    def differences(found: list[Difference]) -> list[dict[str, Any]]:
        shown = [one for one in found if one.shown][:MOST_DIFFERENCES]
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
    known = dict(zip(row.measures, np.isfinite(row.value).any(0).tolist(), strict=True))
    shown = [name for name in told if name in judged and known.get(name)]
    measure = measure if measure in shown else next(iter(shown), SPEED)
    return {
        "kinds": [{"kind": name, "lifts": count} for name, count in kinds.items()],
        "kind": kind,
        "best_kg": best,
        "measure": measure,
        "lifts": _each(row, measure),
        "measures": [named(name) for name in shown],
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


def _each(row: Lifts, measure: str) -> list[dict[str, Any]]:
    """Every lift with its load and one of its measures."""
    values, sds = row.of(measure)
    columns = (row.id, row.on, row.load_kg.round(2), row.made, values, sds)
    return [
        {
            "clip": lift.rpartition(":")[0], "place": int(lift.rpartition(":")[2]), "on": on.isoformat(), "load_kg": load,
            "made": None if isnan(made) else bool(made), "value": None if isnan(value) else value, "sd": None if isnan(sd) else sd,
        }
        for lift, on, load, made, value, sd in zip(*(column.tolist() for column in columns), strict=True)
    ]  # fmt: skip


def _said(athlete: Athlete) -> dict[str, set[str]]:
    """By lift, as entries name them, the faults that stand on it by the coach's word."""
    said: dict[str, set[str]] = {}
    standing = Verdict.objects.filter(clip__athlete=athlete).exclude(decision=Verdict.Decision.DISMISSED)
    for clip, place, fault in standing.values_list("clip", "place", "fault"):
        said.setdefault(f"{clip}:{place}", set()).add(fault)
    return said


def _repetitions(row: Lifts, named: Any) -> list[dict[str, Any]]:
    """Trends over the repetitions of a set that show, set by set."""
    told = []
    clips, counts = np.unique(row.set, return_counts=True)
    for clip in clips[counts >= LEAST_REPETITIONS].tolist():
        reps = row.where(row.set == clip)
        for measure, (spread, slope) in over_repetitions(reps).items():
            if abs(slope.value) > 2 * slope.sd:
                told.append(named(measure) | {"clip": clip, "on": reps.day(0), "load_kg": float(reps.load_kg[0]), "repetitions": len(reps),
                                              "spread": spread, "each": slope.value, "sd": slope.sd})  # fmt: skip
    return sorted(told, key=lambda one: one["on"])
