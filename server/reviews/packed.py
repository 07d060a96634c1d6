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
    lifts = list(kept)
    place = {marked(measure): column for column, measure in enumerate(measures)}
    told = np.full((2, len(lifts), len(measures)), np.nan)
    # Lifts of which the same measures are kept are read together.
    alike: dict[bytes, list[int]] = {}
    for row, one in enumerate(lifts):
        alike.setdefault(np.frombuffer(one, ROW)["measure"].tobytes(), []).append(row)
    for names, rows in alike.items():
        columns = np.array([place.get(mark, -1) for mark in np.frombuffer(names, "<u4").tolist()], int)
        asked = columns >= 0
        table = np.frombuffer(b"".join(lifts[row] for row in rows), ROW).reshape(len(rows), -1)[:, asked]
        for side, name in enumerate(("value", "sd")):
            told[side, np.array(rows)[:, None], columns[asked]] = table[name]
    return told[0], told[1]


class NumbersField(models.BinaryField):
    """By measure, value and standard deviation."""

    def get_prep_value(self, value: Any) -> Any:
        return super().get_prep_value(packed(value) if isinstance(value, Mapping) else value)
