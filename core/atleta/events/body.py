"""Where knee and thigh stand in for joints that are not tracked, from stature alone, with the uncertainty that leaves."""

from __future__ import annotations

from dataclasses import dataclass

from .families import SNATCHES

SOLE_M = 0.025
# Mean adult shares of stature from a published segment-length table; people's own proportions scatter by about 2 % of stature,
# and at contact the hip has not fully risen, which leaves another 2 %.
KNEE_SHARE, KNEE_SD_SHARE = 0.285, 0.02
HIP_AT_CONTACT_SHARE, CONTACT_SD_SHARE = 0.50, 0.03
# How far up from knee to hip the bar meets the thigh in a sound lift.
CONTACT_UP_THIGH = {"snatch": 0.90, "clean": 0.70}


@dataclass(frozen=True)
class BodyHeights:
    """Heights above the floor (m) at which the bar passes the knee joint and meets the thigh, with standard deviations."""

    knee_m: float
    knee_sd_m: float
    contact_m: float
    contact_sd_m: float

    def shifted(self, knee_z: float, contact_z: float) -> BodyHeights:
        """The same body with heights off by so many standard deviations."""
        return BodyHeights(
            self.knee_m + knee_z * self.knee_sd_m,
            self.knee_sd_m,
            self.contact_m + contact_z * self.contact_sd_m,
            self.contact_sd_m,
        )


def heights_from_stature(stature_m: float, kind: str) -> BodyHeights:
    """Stand-in heights for a lifter of this stature.

    Raises:
        ValueError: a stature outside 1.0 to 2.4 m.
    """
    if not 1.0 <= stature_m <= 2.4:
        raise ValueError(f"A stature of {stature_m:g} m is outside 1.00 to 2.40 m. Give it in metres.")
    knee = KNEE_SHARE * stature_m + SOLE_M
    hip = HIP_AT_CONTACT_SHARE * stature_m + SOLE_M
    up = CONTACT_UP_THIGH["snatch" if kind in SNATCHES else "clean"]
    return BodyHeights(knee, KNEE_SD_SHARE * stature_m, knee + up * (hip - knee), CONTACT_SD_SHARE * stature_m)
