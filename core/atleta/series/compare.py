"""Groups of lifts against each other: made against missed, the first set against the last, one repetition after another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .entry import Entry, Number

# Misses are compared with made lifts that were not much lighter.
NEARLY_AS_HEAVY = 0.9
SAME_LOAD = 0.02
# A difference is shown when it is this many of its own standard deviations.
SHOWN_SD = 2.0


@dataclass(frozen=True)
class Difference:
    """How much a measure differs between two groups (second less first), with its standard deviation, and whether that shows."""

    measure: str
    first: float
    then: float
    sd: float
    counts: tuple[int, int]

    @property
    def shown(self) -> bool:
        return abs(self.then - self.first) > SHOWN_SD * self.sd


def made_against_missed(entries: Sequence[Entry]) -> list[Difference]:
    """Missed lifts against made ones of about their load, by measure; those that differ most first."""
    missed = [entry for entry in entries if entry.made is False]
    if not missed:
        return []
    least = NEARLY_AS_HEAVY * min(entry.load_kg for entry in missed)
    return _differences([entry for entry in entries if entry.made and entry.load_kg >= least], missed)


def first_against_last(entries: Sequence[Entry]) -> list[Difference]:
    """The last set of a day against the first of the same load: what tires. The load with most sets between them is taken."""
    days: dict[tuple[object, float], list[Entry]] = {}
    for entry in sorted(entries, key=lambda one: (one.on, one.order)):
        same = next((key for key in days if key[0] == entry.on and abs(key[1] / entry.load_kg - 1) <= SAME_LOAD), (entry.on, entry.load_kg))
        days.setdefault(same, []).append(entry)
    sets = {key: list(dict.fromkeys(entry.set for entry in row)) for key, row in days.items()}
    most = max(sets, key=lambda key: len(sets[key]), default=None)
    if most is None or len(sets[most]) < 2:
        return []
    first, last = sets[most][0], sets[most][-1]
    return _differences([one for one in days[most] if one.set == first], [one for one in days[most] if one.set == last])


def over_repetitions(entries: Sequence[Entry]) -> dict[str, tuple[float, Number]]:
    """Of the repetitions of one set, by measure: their spread (one standard deviation), and the change from one to the next with its own.

    Two repetitions have no spread about a trend: three are the fewest.
    """
    told: dict[str, tuple[float, Number]] = {}
    row = sorted(entries, key=lambda one: one.order)
    for measure in _common(row):
        numbers = [entry.numbers[measure] for entry in row]
        if len(numbers) < 3:
            continue
        values, place = np.array([number.value for number in numbers]), np.arange(len(numbers)) - (len(numbers) - 1) / 2
        slope = float(place @ values / (place @ place))
        about = values - values.mean() - slope * place
        sd = max(float(np.sqrt(about @ about / (len(values) - 2))), float(np.median([number.sd for number in numbers])))
        told[measure] = (float(values.std(ddof=1)), Number(slope, sd / float(np.sqrt(place @ place))))
    return told


def _differences(first: Sequence[Entry], then: Sequence[Entry]) -> list[Difference]:
    if not first or not then:
        return []
    found = []
    for measure in _common([*first, *then]):
        a, b = ([entry.numbers[measure] for entry in group] for group in (first, then))
        sd = float(np.hypot(_doubt(a), _doubt(b)))
        found.append(Difference(measure, _mean(a), _mean(b), sd, (len(a), len(b))))
    return sorted(found, key=lambda one: -abs(one.then - one.first) / max(one.sd, 1e-9))


def _common(entries: Sequence[Entry]) -> list[str]:
    return [measure for measure in entries[0].numbers if all(measure in entry.numbers for entry in entries)] if entries else []


def _mean(numbers: Sequence[Number]) -> float:
    return float(np.mean([number.value for number in numbers]))


def _doubt(numbers: Sequence[Number]) -> float:
    """Standard deviation of a mean: from the scatter of its lifts, and never less than single lifts are known."""
    known = float(np.sqrt(np.mean([number.sd**2 for number in numbers])))
    scatter = float(np.std([number.value for number in numbers], ddof=1)) if len(numbers) > 1 else 0.0
    return max(known, scatter) / float(np.sqrt(len(numbers)))
