"""Athletes and their bests out of a table of comma-separated text, with a look at what it would do first."""

from __future__ import annotations

import csv
import io
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from atleta.coaching.loading import POUND_KG
from atleta_site.refusals import Refused

from .models import Athlete, Best

LIFTS = tuple(lift for lift, _ in Best.LIFTS)
COLUMNS = ("name", "stature_cm", "unit", *LIFTS)
MOST_ROWS = 500
LEAST_CM, MOST_CM, MOST_KG = 100.0, 230.0, 600.0


class CannotReadIn(Refused):
    """The text is no such table; the message says in which line and why."""


def rows_of(coach: AbstractBaseUser, text: str) -> list[dict[str, Any]]:
    """What the table says of each athlete, and whether they are there already; nothing is kept.

    Raises:
        CannotReadIn: a line cannot be read.
    """
    try:
        table = list(csv.DictReader(io.StringIO(text.lstrip("\ufeff"))))
    except csv.Error as error:
        raise CannotReadIn(f"This is no table of comma-separated text: {error}.") from None
    if not table or "name" not in table[0]:
        raise CannotReadIn(f"The first line must name the columns, at least name. Known: {', '.join(COLUMNS)}.")
    if len(table) > MOST_ROWS:
        raise CannotReadIn(f"{len(table)} rows are more than {MOST_ROWS}: bring them in in parts.")
    there = set(Athlete.objects.filter(coach_id=coach.pk).values_list("name", flat=True))
    rows = [_row_of(line, row) for line, row in enumerate(table, 2)]
    names = [row["name"] for row in rows]
    if twice := next((name for name in names if names.count(name) > 1), None):
        raise CannotReadIn(f"{twice} stands in the table twice. Give each athlete one line.")
    return [row | {"there": row["name"] in there} for row in rows]


@transaction.atomic
def read_in(coach: AbstractBaseUser, text: str) -> list[dict[str, Any]]:
    """Keep what `rows_of` tells: who is new is added, of who is there what the table says is set. Raises as it does."""
    rows = rows_of(coach, text)
    today = timezone.localdate()
    for row in rows:
        athlete, _ = Athlete.objects.get_or_create(coach_id=coach.pk, name=row["name"])
        if row["stature_m"] is not None:
            athlete.stature_m = row["stature_m"]
            athlete.save(update_fields=["stature_m"])
        for lift, kilos in row["bests"].items():
            Best.objects.update_or_create(athlete=athlete, lift=lift, defaults={"kilos": kilos, "on": today})
    return rows


def _row_of(line: int, row: dict[str, str | None]) -> dict[str, Any]:
    def told(name: str) -> str:
        return (row.get(name) or "").strip()

    if not told("name"):
        raise CannotReadIn(f"Line {line} names nobody.")
    unit = told("unit") or "kg"
    if unit not in ("kg", "lb"):
        raise CannotReadIn(f"Line {line}: the unit is kg or lb, not “{unit}”.")
    stature = _number(line, "stature_cm", told("stature_cm"), LEAST_CM, MOST_CM)
    in_kg = POUND_KG if unit == "lb" else 1.0
    bests = {lift: _number(line, lift, told(lift), 1.0, MOST_KG / in_kg) for lift in LIFTS}
    return {
        "name": told("name")[:80],
        "stature_m": None if stature is None else stature / 100,
        "bests": {lift: round(load * in_kg, 3) for lift, load in bests.items() if load is not None},
    }


def _number(line: int, name: str, written: str, least: float, most: float) -> float | None:
    if not written:
        return None
    try:
        value = float(written)
    except ValueError:
        raise CannotReadIn(f"Line {line}: {name.replace('_', ' ')} “{written}” is no number.") from None
    if not least <= value <= most:
        raise CannotReadIn(f"Line {line}: {name.replace('_', ' ')} {value:g} is not between {least:g} and {most:g}.")
    return value
