"""The analysis document: an open, versioned JSON object. Its schema is published beside this module."""

from __future__ import annotations

import csv
import io
import json
from functools import lru_cache
from importlib.resources import files
from typing import Any

import jsonschema
import numpy as np
from numpy.typing import NDArray

SCHEMA_ID = "atleta.analysis/1"
Document = dict[str, Any]


@lru_cache(maxsize=1)
def document_schema() -> dict[str, Any]:
    """The JSON Schema of the analysis document."""
    return dict(json.loads(files(__package__).joinpath("analysis.schema.json").read_text("utf-8")))


def validate_document(document: Document) -> None:
    """Check a document against its schema, and that its per-frame arrays have one entry for every frame.

    Raises:
        ValueError: it does not fit; the message names the place.
    """
    try:
        jsonschema.validate(document, document_schema())
    except jsonschema.ValidationError as error:
        raise ValueError(f"The analysis document does not fit its schema at {error.json_path}: {error.message}") from error
    frames = document["clip"]["frame_count"]
    for name, values in [("clip.frame_time_s", document["clip"]["frame_time_s"])] + [(f"disc.{k}", v) for k, v in document["disc"].items()]:
        if len(values) != frames:
            raise ValueError(f"{name} has {len(values)} entries for {frames} frames.")


def bar_csv(document: Document) -> str:
    """The bar's track as comma-separated text: one row a frame of each lift, in metres and seconds, and the disc's pixels."""
    columns = ("time_s", "x_m", "y_m", "vx_m_s", "vy_m_s", "ay_m_s2")
    disc, text = document["disc"], io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow(["lift", "frame", *columns, "disc_x_px", "disc_y_px", "confidence"])
    for number, lift in enumerate(document["lifts"], start=1):
        bar = lift["bar"]
        for row, values in enumerate(zip(*(bar[name] for name in columns), strict=True)):
            frame = bar["first_frame"] + row
            writer.writerow([number, frame, *values, disc["x_px"][frame], disc["y_px"][frame], disc["confidence"][frame]])
    return text.getvalue()


def rounded(value: float, digits: int) -> float:
    """A plain float with at most `digits` decimals."""
    return round(float(value), digits)


def series(values: NDArray[np.float64], digits: int) -> list[float | None]:
    """An array as JSON: rounded, null where unknown."""
    return [None if not np.isfinite(v) else round(float(v), digits) for v in values]
