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
    lifts, asked = list(kept), [marked(measure) for measure in measures]
    told = np.full((2, len(lifts), len(measures)), np.nan)
    # Lifts of which the same measures are kept are read together.
    alike: dict[bytes, list[int]] = {}
    for row, one in enumerate(lifts):
        alike.setdefault(np.frombuffer(one, ROW)["measure"].tobytes(), []).append(row)
    for names, rows in alike.items():
        at = {mark: column for column, mark in enumerate(np.frombuffer(names, "<u4").tolist())}
        columns = [column for column, mark in enumerate(asked) if mark in at]
        table = np.frombuffer(b"".join(lifts[row] for row in rows), ROW).reshape(len(rows), -1)
        for side, name in enumerate(("value", "sd")):
            there = np.full((len(rows), len(measures)), np.nan)
            there[:, columns] = table[name].take([at[asked[column]] for column in columns], axis=1)
            told[side, rows] = there
    return told[0], told[1]


class NumbersField(models.BinaryField):
    """By measure, value and standard deviation."""

    def get_prep_value(self, value: Any) -> Any:
        return super().get_prep_value(packed(value) if isinstance(value, Mapping) else value)
