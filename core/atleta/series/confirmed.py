"""Faults that a coach confirmed or added, over many lifts: how often, and at which loads."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from datetime import date

from .entry import Entry


@dataclass(frozen=True)
class Confirmed:
    """A fault that stands on some of the lifts: on which, between which loads (kg), and on which day last."""

    fault: str
    entries: tuple[str, ...]
    """Their ids, oldest first."""
    lightest_kg: float
    heaviest_kg: float
    last_on: date


def confirmed_over(entries: Sequence[Entry], said: Mapping[str, AbstractSet[str]]) -> list[Confirmed]:
    """Every fault that stands on one of these lifts by the coach's word, `said` by the lifts' ids: the most frequent first."""
    by_fault: dict[str, list[Entry]] = {}
    for entry in sorted(entries, key=lambda one: (one.on, one.order)):
        for fault in said.get(entry.id, ()):
            by_fault.setdefault(fault, []).append(entry)
    told = [
        Confirmed(
            fault,
            tuple(one.id for one in row),
            min(one.load_kg for one in row),
            max(one.load_kg for one in row),
            row[-1].on,
        )
        for fault, row in by_fault.items()
    ]
    return sorted(told, key=lambda one: (-len(one.entries), one.fault))
