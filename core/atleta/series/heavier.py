"""What breaks first as the load rises: which rule's number passes its limit at some load and stays beyond it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..faults import Catalogue, Threshold
from .compare import SHOWN_SD
from .entry import Entry, Number

LEAST_LOADS = 3


@dataclass(frozen=True)
class Leaving:
    """A measure that leaves its band: at which load, from what to what, and the limit it passed (watch)."""

    fault: str
    measure: str
    load_kg: float
    lightest: float
    there: float
    heaviest: float
    limit: float


def leaves_first(
    entries: Sequence[Entry],
    catalogue: Catalogue,
    *,
    thresholds: Mapping[tuple[str, str], Threshold] | None = None,
    stature_m: float | None = None,
) -> list[Leaving]:
    """Measures inside their limit at the lightest load and beyond it, by more than noise, from some load on: at the lowest load first, and
    then as the lift goes.

    Lifts of one kind; lifts of one load count by their median. Fewer than three loads break nothing.
    """
    if not entries:
        return []
    kind = entries[0].kind
    found: list[Leaving] = []
    for fault in catalogue.faults.values():
        if fault.off or kind not in fault.kinds:
            continue
        for condition in fault.asked(kind):
            by_load: dict[float, list[Number]] = {}
            for entry in entries:
                if condition.measure in entry.numbers:
                    by_load.setdefault(entry.load_kg, []).append(entry.numbers[condition.measure])
            if len(by_load) < LEAST_LOADS:
                continue
            loads = sorted(by_load)
            values = [float(np.median([number.value for number in by_load[load]])) for load in loads]
            sds = [float(np.median([number.sd for number in by_load[load]])) for load in loads]
            limit = (thresholds or {}).get((fault.id, condition.measure), condition.threshold(kind, stature_m)).watch
            beyond = [value > limit if condition.above else value < limit for value in values]
            first = next((i for i in range(1, len(loads)) if all(beyond[i:]) and not beyond[i - 1]), None)
            if first is not None and not beyond[0] and abs(values[first] - values[0]) > SHOWN_SD * float(np.hypot(sds[first], sds[0])):
                found.append(Leaving(fault.id, condition.measure, loads[first], values[0], values[first], values[-1], limit))
    order = list(catalogue.faults)
    return sorted(found, key=lambda one: (one.load_kg, order.index(one.fault)))
