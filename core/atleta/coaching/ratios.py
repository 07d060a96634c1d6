"""Bests against each other: which quality lags. Bands are where most trained lifters are, not a norm to be reached."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Ratio:
    """One best over another with its usual band, and what a value below or above it suggests."""

    over: str
    under: str
    low: float
    high: float
    when_low: str
    when_high: str


RATIOS = (
    Ratio("snatch", "jerk", 0.76, 0.84, "The snatch lags: look at its technique before its strength.",
          "The clean and jerk lags: legs or jerk."),
    Ratio("clean", "front_squat", 0.80, 0.92, "There is more strength than the clean uses: pull and meeting the bar.",
          "Standing up is near the limit: front squats."),
    Ratio("jerk", "clean", 0.96, 1.10, "The jerk loses what was cleaned: dip, drive and split.",
          "There is more jerk than clean: legs and pull."),
    Ratio("snatch", "back_squat", 0.58, 0.68, "Strong legs for this snatch: technique or mobility limits it.",
          "Legs are near their limit in the snatch."),
    Ratio("clean", "back_squat", 0.70, 0.80, "Strong legs for this clean: pull and rack limit it.",
          "A clean this close to the best squat is a grind to stand up with: squats first."),
)  # fmt: skip


def ratios_of(bests: Mapping[str, float]) -> list[tuple[Ratio, float, str]]:
    """The ratios that an athlete's bests (kg, by lift) allow, each with its value and what it suggests (empty inside the band)."""
    told = []
    for ratio in RATIOS:
        if ratio.over in bests and bests.get(ratio.under, 0) > 0:
            value = bests[ratio.over] / bests[ratio.under]
            told.append((ratio, value, ratio.when_low if value < ratio.low else ratio.when_high if value > ratio.high else ""))
    return told
