"""One lift as a series needs it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True)
class Number:
    """A measured value with its standard deviation, both in the measure's unit."""

    value: float
    sd: float


@dataclass(frozen=True)
class Entry:
    """A lift among others: when, how heavy, made or missed, and its measures (those that could be taken)."""

    id: str
    kind: str
    on: date
    order: int
    """Grows from lift to lift of a day."""
    load_kg: float
    made: bool | None
    numbers: Mapping[str, Number]
    set: str = ""
    """Lifts of one clip are one set."""
