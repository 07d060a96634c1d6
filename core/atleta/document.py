"""The analysis document: an open, versioned JSON object. Its schema is published beside this module."""

from __future__ import annotations

import csv
import io
import json
import tempfile
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Any

import ezc3d
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
    for name, values in [("clip.frame_time_s", document["clip"]["frame_time_s"])] + [
        (f"{part}.{k}", v) for part in ("disc", "front") for k, v in (document.get(part) or {}).items()
    ]:
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


# A marker of the joints' file stands still where the joint is unknown: programs that read such files take an empty field for that.
_TRC_UNITS, _MM = "mm", 1000.0
CAPTION_S = 2.5


def joint_places_mm(document: Document) -> tuple[tuple[str, ...], NDArray[np.float64], float]:
    """Bar and joints by name, their places `(frames, points, 2)` and the frames a second: forward from the first place of the bar and up
    from the picture's lowest line, millimetres at the lifter's own scale; NaN where unknown.

    Raises:
        ValueError: nothing tells the scale; or the clip is from the front, where forward does not show.
    """
    clip, scale = document["clip"], document["scale"]
    if clip["view"]["kind"] in ("front", "back"):
        raise ValueError("Joints are kept of films from the side: from the front it does not show how far forward they are.")
    if not scale:
        raise ValueError("Without a scale there are no millimetres: set the disc's size first.")
    mm_per_px = _MM * (scale.get("body_m_per_px") or scale["m_per_px"])
    lean = np.radians(scale.get("plumb_deg") or 0.0)
    forward = 1.0 if clip["facing"] == "right" else -1.0
    points = {"bar": document["disc"], **document["joints"]}
    x, y = (np.array([point[axis] for point in points.values()], float).reshape(len(points), -1).T for axis in ("x_px", "y_px"))
    known = x[np.isfinite(x[:, 0]), 0]
    across, up = x - (known[0] if len(known) else 0.0), clip["height"] - y
    # The plumb line leans by so much to the right as it goes up.
    ahead, height = forward * (across * np.cos(lean) - up * np.sin(lean)), up * np.cos(lean) + across * np.sin(lean)
    times = clip["frame_time_s"]
    rate = (len(times) - 1) / (times[-1] - times[0]) if len(times) > 1 else 0.0
    return tuple(points), mm_per_px * np.stack([ahead, height], axis=-1), rate


def joints_trc(document: Document) -> str:
    """Bar and joints over the clip's frames as a TRC file: X forward, Y up, Z zero, as `joint_places_mm`; empty where unknown.

    Raises:
        ValueError: nothing tells the scale.
    """
    names, places, rate = joint_places_mm(document)
    text = io.StringIO(newline="")
    writer = csv.writer(text, delimiter="\t", lineterminator="\n")
    frames = len(places)
    writer.writerow(["PathFileType", 4, "(X/Y/Z)", "joints.trc"])
    writer.writerow(["DataRate", "CameraRate", "NumFrames", "NumMarkers", "Units", "OrigDataRate", "OrigDataStartFrame", "OrigNumFrames"])
    writer.writerow([f"{rate:.4f}", f"{rate:.4f}", frames, len(names), _TRC_UNITS, f"{rate:.4f}", 1, frames])
    writer.writerow(["Frame#", "Time", *(cell for name in names for cell in (name, "", ""))])
    writer.writerow(["", "", *(f"{axis}{n}" for n in range(1, len(names) + 1) for axis in "XYZ")])
    writer.writerow([])
    for frame, (time_s, row) in enumerate(zip(document["clip"]["frame_time_s"], places, strict=True)):
        cells = (cell for x, y in row for cell in ((f"{x:.2f}", f"{y:.2f}", "0.00") if np.isfinite(x + y) else ("", "", "")))
        writer.writerow([frame + 1, f"{time_s:.5f}", *cells])
    return text.getvalue()


def joints_c3d(document: Document) -> bytes:
    """Bar and joints over the clip's frames as a C3D file: X forward, Y to the lifter's left (zero), Z up, as `joint_places_mm`; NaN where
    unknown, with a residual of -1.

    Raises:
        ValueError: nothing tells the scale.
    """
    names, places, rate = joint_places_mm(document)
    known = np.isfinite(places).all(axis=-1)
    points = np.full((4, len(names), len(places)), np.nan)
    points[0], points[2] = places[..., 0].T, places[..., 1].T
    points[1], points[3] = np.where(known, 0.0, np.nan).T, 1.0
    made = ezc3d.c3d()
    made["parameters"]["POINT"]["RATE"]["value"] = [rate]
    made["parameters"]["POINT"]["UNITS"]["value"] = [_TRC_UNITS]
    made["parameters"]["POINT"]["LABELS"]["value"] = list(names)
    made["data"]["points"] = points
    made["data"]["meta_points"]["residuals"] = np.where(known, 0.0, -1.0).T[None]
    with tempfile.TemporaryDirectory() as folder:
        target = Path(folder) / "joints.c3d"
        made.write(str(target))
        return target.read_bytes()


def captions(document: Document, notes: list[tuple[int, str]]) -> str:
    """Words at frames as captions (WebVTT): each stands from its frame on until the next, at most 2.5 s."""
    times = document["clip"]["frame_time_s"]
    rows = sorted((float(times[min(frame, len(times) - 1)]), words) for frame, words in notes)
    told = ["WEBVTT", ""]
    for place, (start, words) in enumerate(rows):
        following = rows[place + 1][0] if place + 1 < len(rows) else np.inf
        stop = max(min(start + CAPTION_S, following), start + 0.1)
        told += [f"{_stamp(start)} --> {_stamp(stop)}", words.replace("-->", "→").strip(), ""]
    return "\n".join(told)


def _stamp(time_s: float) -> str:
    whole = round(1000 * time_s)
    return f"{whole // 3_600_000:02d}:{whole // 60_000 % 60:02d}:{whole // 1000 % 60:02d}.{whole % 1000:03d}"


def rounded(value: float, digits: int) -> float:
    """A plain float with at most `digits` decimals."""
    return round(float(value), digits)


def series(values: NDArray[np.float64], digits: int) -> list[float | None]:
    """An array as JSON: rounded, null where unknown."""
    told: list[float | None] = np.round(np.asarray(values, np.float64), digits).tolist()
    for where in np.flatnonzero(~np.isfinite(values)):
        told[where] = None
    return told
