"""Faults that a coach confirmed or added, over many lifts: how often, and at which loads."""

from __future__ import annotations

from collections.abc import Mapping
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from datetime import date

from .lifts import Lifts


@dataclass(frozen=True)
class Confirmed:
    """A fault that stands on some of the lifts: on which, between which loads (kg), and on which day last."""

    fault: str
    entries: tuple[str, ...]
    """Their ids, oldest first."""
    lightest_kg: float
    heaviest_kg: float
    last_on: date


def confirmed_over(lifts: Lifts, said: Mapping[str, AbstractSet[str]]) -> list[Confirmed]:
    """Every fault that stands on one of these lifts by the coach's word, `said` by the lifts' ids: the most frequent first."""
    by_fault: dict[str, list[int]] = {}
    for place, lift in enumerate(lifts.id.tolist()):
        for fault in said.get(lift, ()):
            by_fault.setdefault(fault, []).append(place)
    told = []
    for fault, places in by_fault.items():
        loads = lifts.load_kg[places]
        told.append(Confirmed(fault, tuple(lifts.id[places].tolist()), float(loads.min()), float(loads.max()), lifts.day(places[-1])))
    return sorted(told, key=lambda one: (-len(one.entries), one.fault))
