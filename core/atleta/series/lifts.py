"""Lifts of one athlete laid together, as columns: row by row the same lift."""

from __future__ import annotations

from dataclasses import dataclass, fields
from datetime import date

import numpy as np


@dataclass(frozen=True)
class Number:
    """A measured value with its standard deviation, both in the measure's unit."""

    value: float
    sd: float


@dataclass(frozen=True)
class Lifts:
    """Lifts, oldest first, and their measures."""

    id: np.ndarray
    """n strings."""
    set: np.ndarray
    """n strings: lifts of one clip are one set."""
    kind: np.ndarray
    """n strings."""
    on: np.ndarray
    """n days (datetime64[D])."""
    load_kg: np.ndarray
    """n floats, NaN where the load is not known."""
    made: np.ndarray
    """n floats: 1 made, 0 missed, NaN where nobody said."""
    measures: tuple[str, ...]
    value: np.ndarray
    """n × m floats in the measures' units, NaN where one could not be taken."""
    sd: np.ndarray
    """n × m standard deviations."""

    def __len__(self) -> int:
        return len(self.id)

    def where(self, chosen: np.ndarray) -> Lifts:
        """The lifts of a mask, or of places in that order."""
        columns = {field.name: getattr(self, field.name) for field in fields(self)}
        return Lifts(**{name: column if name == "measures" else column[chosen] for name, column in columns.items()})

    def of(self, measure: str) -> tuple[np.ndarray, np.ndarray]:
        """A measure's values and standard deviations, lift by lift."""
        if measure not in self.measures:
            return np.full(len(self), np.nan), np.full(len(self), np.nan)
        place = self.measures.index(measure)
        return self.value[:, place], self.sd[:, place]

    def having(self, measure: str) -> Lifts:
        """Those of which a measure is known."""
        return self.where(np.isfinite(self.of(measure)[0]))

    def day(self, place: int) -> date:
        return self.on[place].item()  # type: ignore[no-any-return]

    @property
    def not_missed(self) -> np.ndarray:
        """Mask of the lifts that were made, or of which nobody said."""
        return np.asarray(self.made != 0)


def median(columns: np.ndarray) -> np.ndarray:
    """Medians down the columns of an n × m table without its NaN; NaN where a column has nothing else."""
    if not len(columns):
        return np.full(columns.shape[1], np.nan)
    ordered, known = np.sort(columns, axis=0), np.isfinite(columns).sum(0)
    low, high = np.maximum(known - 1, 0) // 2, np.minimum(known // 2, len(columns) - 1)
    across = np.arange(columns.shape[1])
    return np.asarray((ordered[low, across] + ordered[high, across]) / 2)
