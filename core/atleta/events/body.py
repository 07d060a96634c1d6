"""Where the knee stands in for a joint that is not tracked, from stature alone, with the uncertainty that leaves."""

from __future__ import annotations

from dataclasses import dataclass

SOLE_M = 0.025
# Mean adult share of stature from a published segment-length table; people's own proportions scatter by about 2 % of stature.
KNEE_SHARE, KNEE_SD_SHARE = 0.285, 0.02


@dataclass(frozen=True)
class BodyHeights:
    """Height above the floor (m) at which the bar passes the knee joint, with its standard deviation."""

    knee_m: float
    knee_sd_m: float

    @property
    def stature_m(self) -> float:
        return (self.knee_m - SOLE_M) / KNEE_SHARE

    def shifted(self, knee_z: float) -> BodyHeights:
        """The same body with the knee off by so many standard deviations."""
        return BodyHeights(self.knee_m + knee_z * self.knee_sd_m, self.knee_sd_m)


def heights_from_stature(stature_m: float) -> BodyHeights:
    """Stand-in height for a lifter of this stature.

    Raises:
        ValueError: a stature outside 1.0 to 2.4 m.
    """
    if not 1.0 <= stature_m <= 2.4:
        raise ValueError(f"A stature of {stature_m:g} m is outside 1.00 to 2.40 m. Give it in metres.")
    return BodyHeights(KNEE_SHARE * stature_m + SOLE_M, KNEE_SD_SHARE * stature_m)
