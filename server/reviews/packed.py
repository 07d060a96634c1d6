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


def unpacked(kept: Iterable[bytes], measures: Sequence[str]) -> tuple[tuple[str, ...], np.ndarray, np.ndarray]:
    """Of n lifts, those m of these measures that are kept of any, with n × m values and standard deviations; NaN where one is not kept."""
    lifts = list(kept)
    # Lifts of which the same measures are kept are read together.
    alike: dict[bytes, list[int]] = {}
    for row, one in enumerate(lifts):
        alike.setdefault(np.frombuffer(one, ROW)["measure"].tobytes(), []).append(row)
    places = {names: {mark: place for place, mark in enumerate(np.frombuffer(names, "<u4").tolist())} for names in alike}
    told = tuple(one for one in measures if any(marked(one) in at for at in places.values()))
    values, sds = np.full((2, len(lifts), len(told)), np.nan)
    for names, rows in alike.items():
        table = np.frombuffer(b"".join(lifts[row] for row in rows), ROW).reshape(len(rows), -1)
        found = [(column, place) for column, one in enumerate(told) if (place := places[names].get(marked(one))) is not None]
        columns, taken = (list(each) for each in zip(*found, strict=True)) if found else ([], [])
        at = (rows, slice(None)) if len(columns) == len(told) else np.ix_(rows, columns)
        values[at], sds[at] = table["value"].take(taken, axis=1), table["sd"].take(taken, axis=1)
    return told, values, sds


class NumbersField(models.BinaryField):
    """By measure, value and standard deviation."""

    def get_prep_value(self, value: Any) -> Any:
        return super().get_prep_value(packed(value) if isinstance(value, Mapping) else value)
