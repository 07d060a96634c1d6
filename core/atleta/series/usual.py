"""What is usual for this lifter: a band for a measure from their own made lifts, once there are enough."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .entry import Entry

LEAST_LIFTS = 8
LEAST_SHARE_OF_BEST = 0.6
# From the median distance of the median to one standard deviation of a normal spread.
MAD_TO_SD = 1.4826
BAND_SD = 2.0


@dataclass(frozen=True)
class Band:
    """Where a measure usually lies, in its unit; `lifts` is how many it rests on."""

    low: float
    middle: float
    high: float
    lifts: int


def usual_band(entries: Sequence[Entry], measure: str, best_kg: float | None) -> Band | int:
    """The lifter's own band, or how many lifts there are so far where that is fewer than eight.

    No missed lift counts, and only those at 60 % of the best or more; where no best is known, of the heaviest made lift.
    """
    made = [entry for entry in entries if entry.made is not False and measure in entry.numbers]
    least = LEAST_SHARE_OF_BEST * (best_kg or max((entry.load_kg for entry in made), default=0.0))
    numbers = [entry.numbers[measure] for entry in made if entry.load_kg >= least]
    if len(numbers) < LEAST_LIFTS:
        return len(numbers)
    values = np.array([number.value for number in numbers])
    middle = float(np.median(values))
    # No narrower than single numbers are known.
    sd = max(MAD_TO_SD * float(np.median(np.abs(values - middle))), float(np.median([number.sd for number in numbers])))
    return Band(middle - BAND_SD * sd, middle, middle + BAND_SD * sd, len(numbers))
