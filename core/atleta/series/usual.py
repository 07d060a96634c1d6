"""What is usual for this lifter: a band for a measure from their own made lifts, once there are enough."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .lifts import Lifts

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


def usual_band(lifts: Lifts, measure: str, best_kg: float | None) -> Band | int:
    """The lifter's own band, or how many lifts there are so far where that is fewer than eight.

    No missed lift counts, and only those at 60 % of the best or more; where no best is known, of the heaviest made lift.
    """
    values, sds = lifts.of(measure)
    made = lifts.not_missed & np.isfinite(values)
    loads = lifts.load_kg[made & np.isfinite(lifts.load_kg)]
    least = LEAST_SHARE_OF_BEST * (best_kg or float(loads.max(initial=0.0)))
    heavy = made & (lifts.load_kg >= least)
    if heavy.sum() < LEAST_LIFTS:
        return int(heavy.sum())
    values = values[heavy]
    middle = float(np.median(values))
    # No narrower than single numbers are known.
    sd = max(MAD_TO_SD * float(np.median(np.abs(values - middle))), float(np.median(sds[heavy])))
    return Band(middle - BAND_SD * sd, middle, middle + BAND_SD * sd, len(values))
