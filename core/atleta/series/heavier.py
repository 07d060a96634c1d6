"""What breaks first as the load rises: which rule's number passes its limit at some load and stays beyond it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..faults import Catalogue, Threshold
from .compare import SHOWN_SD
from .lifts import Lifts, median

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
    lifts: Lifts,
    catalogue: Catalogue,
    *,
    thresholds: Mapping[tuple[str, str], Threshold] | None = None,
    stature_m: float | None = None,
) -> list[Leaving]:
    """Measures inside their limit at the lightest load and beyond it, by more than noise, from some load on: at the lowest load first, and
    then as the lift goes.

    Lifts of one kind; lifts of one load count by their median. Fewer than three loads break nothing.
    """
    if not len(lifts):
        return []
    kind, loads = str(lifts.kind[0]), np.unique(lifts.load_kg)
    groups = [lifts.load_kg == load for load in loads]
    values = np.array([median(lifts.value[group]) for group in groups])
    sds = np.array([median(lifts.sd[group]) for group in groups])
    place_of = {measure: place for place, measure in enumerate(lifts.measures)}
    found: list[Leaving] = []
    for fault in catalogue.faults.values():
        if fault.off or kind not in fault.kinds:
            continue
        for condition in fault.asked(kind):
            place = place_of.get(condition.measure)
            if place is None:
                continue
            known = np.isfinite(values[:, place])
            if known.sum() < LEAST_LOADS:
                continue
            at, value, sd = loads[known], values[known, place], sds[known, place]
            limit = (thresholds or {}).get((fault.id, condition.measure), condition.threshold(kind, stature_m)).watch
            beyond = value > limit if condition.above else value < limit
            # Where the run of loads begins that is beyond its limit to the heaviest.
            first = len(at) - int(np.argmin(np.append(beyond[::-1], False)))
            if beyond[0] or first == len(at):
                continue
            if abs(value[first] - value[0]) > SHOWN_SD * float(np.hypot(sd[first], sd[0])):
                told = (float(at[first]), float(value[0]), float(value[first]), float(value[-1]), limit)
                found.append(Leaving(fault.id, condition.measure, *told))
    order = list(catalogue.faults)
    return sorted(found, key=lambda one: (one.load_kg, order.index(one.fault)))
