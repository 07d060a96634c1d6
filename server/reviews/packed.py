"""Measures of a lift as they are kept: small enough that a thousand lifts are read at once."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any
from zlib import crc32

import numpy as np
from django.db import models

ROW = np.dtype([("measure", "<u4"), ("value", "<f8"), ("sd", "<f8")])


def marked(measure: str) -> int:
    """A measure's id as a number."""
    return crc32(measure.encode())


def packed(numbers: Mapping[str, Sequence[float]]) -> bytes:
    """By measure, value and standard deviation, as they are kept."""
    return np.array([(marked(measure), value, sd) for measure, (value, sd) in numbers.items()], ROW).tobytes()


def unpacked(kept: Iterable[bytes], measures: Sequence[str]) -> tuple[np.ndarray, np.ndarray]:
    """Of n lifts, n × m values and standard deviations of these measures; NaN where one is not kept."""
    kept = list(kept)
    rows = np.frombuffer(b"".join(kept), ROW)
    lift = np.repeat(np.arange(len(kept)), [len(one) // ROW.itemsize for one in kept])
    marks = np.array([marked(measure) for measure in measures], "<u4")
    order = np.argsort(marks)
    place = np.searchsorted(marks, rows["measure"], sorter=order).clip(max=max(len(marks) - 1, 0))
    column = order[place] if len(marks) else place
    known = marks[column] == rows["measure"] if len(marks) else np.zeros(len(rows), bool)
    told = np.full((2, len(kept), len(measures)), np.nan)
    told[:, lift[known], column[known]] = rows["value"][known], rows["sd"][known]
    return told[0], told[1]


class NumbersField(models.BinaryField):
    """By measure, value and standard deviation."""

    def get_prep_value(self, value: Any) -> Any:
        return super().get_prep_value(packed(value) if isinstance(value, Mapping) else value)
