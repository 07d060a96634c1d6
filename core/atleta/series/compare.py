"""Groups of lifts against each other: made against missed, the first set against the last, one repetition after another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .lifts import Lifts, Number, median

# Misses are compared with made lifts that were not much lighter.
NEARLY_AS_HEAVY = 0.9
SAME_LOAD = 0.02
# A difference is shown when it is this many of its own standard deviations.
SHOWN_SD = 2.0
# Two repetitions have no spread about a trend.
LEAST_REPETITIONS = 3


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


def made_against_missed(lifts: Lifts) -> list[Difference]:
    """Missed lifts against made ones of about their load, by measure; those that differ most first."""
    missed = lifts.made == 0
    if not missed.any():
        return []
    heavy = lifts.load_kg >= NEARLY_AS_HEAVY * lifts.load_kg[missed].min()
    return _differences(lifts.where((lifts.made == 1) & heavy), lifts.where(missed))


def first_against_last(lifts: Lifts) -> list[Difference]:
    """The last set of a day against the first of the same load: what tires. The load with most sets between them is taken."""
    most: list[str] = []
    order = np.argsort(lifts.on, kind="stable")
    for left in np.split(order, np.flatnonzero(np.diff(lifts.on[order]).astype(int)) + 1):
        # One lift alone has no last set.
        while len(left) > 1:
            load = lifts.load_kg[left[0]]
            same = np.abs(lifts.load_kg[left] / load - 1) <= SAME_LOAD
            # A load that is not known is like no other.
            same[0] = True
            sets = list(dict.fromkeys(lifts.set[left[same]].tolist()))
            if len(sets) > len(most):
                most = sets
            left = left[~same]
    if len(most) < 2:
        return []
    return _differences(lifts.where(lifts.set == most[0]), lifts.where(lifts.set == most[-1]))


def over_repetitions(lifts: Lifts) -> dict[str, tuple[float, Number]]:
    """Of the repetitions of one set, by measure: their spread (one standard deviation), and the change from one to the next."""
    count, known = len(lifts), _common(lifts)
    if count < LEAST_REPETITIONS or not known.any():
        return {}
    values, place = lifts.value[:, known], np.arange(count) - (count - 1) / 2
    slopes = place @ values / (place @ place)
    about = values - values.mean(0) - place[:, None] * slopes
    sds = np.maximum(np.sqrt((about**2).sum(0) / (count - 2)), median(lifts.sd[:, known])) / np.sqrt(place @ place)
    names = [name for name, there in zip(lifts.measures, known, strict=True) if there]
    columns = zip(names, values.std(0, ddof=1), slopes, sds, strict=True)
    return {name: (float(spread), Number(float(slope), float(sd))) for name, spread, slope, sd in columns}


def _differences(first: Lifts, then: Lifts) -> list[Difference]:
    if not len(first) or not len(then):
        return []
    known = _common(first) & _common(then)
    means, sds = zip(*((group.value[:, known].mean(0), _doubt(group.value[:, known], group.sd[:, known])) for group in (first, then)),
                     strict=True)  # fmt: skip
    sd = np.hypot(*sds)
    names = [name for name, there in zip(first.measures, known, strict=True) if there]
    order = np.argsort(-np.abs(means[1] - means[0]) / np.maximum(sd, 1e-9), kind="stable")
    return [Difference(names[i], float(means[0][i]), float(means[1][i]), float(sd[i]), (len(first), len(then))) for i in order]


def _common(lifts: Lifts) -> np.ndarray:
    """Mask of the measures that every lift has."""
    return np.asarray(np.isfinite(lifts.value).all(0))


def _doubt(values: np.ndarray, sds: np.ndarray) -> np.ndarray:
    """Standard deviations of the means: from the scatter of their lifts, and never less than single lifts are known."""
    known = np.sqrt((sds**2).mean(0))
    scatter = values.std(0, ddof=1) if len(values) > 1 else np.zeros(values.shape[1])
    return np.asarray(np.maximum(known, scatter) / np.sqrt(len(values)))
