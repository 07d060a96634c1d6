"""The truth of a filmed clip in the shape of the analysis document: what an analysis without error would say."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .barbell import near_face_m
from .build import DISC_RADIUS_M
from .camera import Camera
from .script import Performance
from .skeleton import soled
from .truth import LiftTruth
from .verdict import limits, verdicts

Floats = NDArray[np.float64]
JOINTS = (
    "nose",
    *(
        f"{side}_{name}"
        for side in ("left", "right")
        for name in ("ear", "shoulder", "elbow", "wrist", "hip", "knee", "ankle", "heel", "toe")
    ),
)
UNITS = (
    (r"^speed_under_usual$", "%"),
    (r"^(drive_)?peak_velocity$|velocity|speed", "m/s"),
    (r"^peak_velocity_height$|^peak_height$|^bar_travel$", "m"),
    (r"power", "W"),
    (r"acceleration", "m/s²"),
    (r"share|contact_height|force_fade", "%"),
    (r"lead|lag|delay|air_time|foot_order", "ms"),
    (r"ratio|bounces|recovery_order", ""),
    (r"angle|trunk|lean|extension|press_out|elbow|tilt|rebend|torso|off_vertical|shin_off|hip_at_knee", "°"),
    (r"^time_|^dip_time|_time$|^hold_missing", "s"),
)


def unit_of(measure: str) -> str:
    """Unit of a true measure: what it is not listed for is a length in cm."""
    if measure in ("peak_velocity_height", "peak_height"):
        return "m"
    if measure in ("trunk_opened_early", "hip_at_knee_extension", "knee_rebend_pull"):
        return "°"
    return next((unit for pattern, unit in UNITS if re.search(pattern, measure)), "cm")


def truth_document(
    done: Performance,
    lifts: list[LiftTruth],
    cameras: list[Camera],
    times_s: Floats,
    shown_s: Floats,
    hidden: Mapping[str, list[bool]],
    joints: Mapping[str, Floats],
    *,
    near_m: float,
    asked: dict[str, Any],
) -> dict[str, Any]:
    """The document for frames taken at `times_s` (on the performance's clock) and shown at `shown_s` (on the file's).

    Args:
        cameras: where the phone was at every frame.
        hidden: by joint, whether something stands before it.
        joints: places `(3, frames)` by name, of the lifter as simulated.
        near_m: outer face of the outermost full-size disc.
        asked: what the clip was made from, kept under `simulation`.
    """
    camera = cameras[0]
    bar = joints["bar"]
    centre, half = _outline(bar, joints["bar_right"] - bar, cameras, near_m)
    start = float(times_s[0])
    since = [round(float(t) - start, 6) for t in times_s]
    body_px = np.median([c.scale_at(np.array([x, y, 0.0])) for c, x, y in zip(cameras[::10], bar[0][::10], bar[1][::10], strict=True)])
    return {
        "schema": "atleta.analysis/1",
        "made_by": {"simulation": "truth"},
        "clip": {
            "sha256": "0" * 64,
            "frame_count": len(times_s),
            "width": camera.width_px,
            "height": camera.height_px,
            "duration_s": float(shown_s[-1] - shown_s[0]),
            "capture_rate_hz": camera.fps,
            "frame_time_s": since,
            "rotation_deg": camera.turned_deg,
            "view": {"kind": "side" if abs(camera.yaw_deg) <= 15 else "oblique", "yaw_deg": camera.yaw_deg},
            "facing": camera.facing,
        },
        "scale": {
            "m_per_px": float(DISC_RADIUS_M / np.median(half)),
            "sd": 0.0,
            "source": "disc",
            "disc_diameter_m": 2 * DISC_RADIUS_M,
            "plumb_deg": camera.roll_deg,
            "body_m_per_px": float(1 / body_px),
        },
        "disc": {
            "confidence": [1.0] * len(times_s),
            "x_px": _rounded(centre[:, 0], 3),
            "y_px": _rounded(centre[:, 1], 3),
            "radius_px": _rounded(half, 3),
        },
        "joints": _joints(soled(joints, done.build), cameras, hidden),
        "lifts": [_lift(done, lift, times_s) for lift in lifts],
        "warnings": [],
        "simulation": asked
        | {
            "stature_m": done.build.stature_m,
            "load_kg": done.load_kg,
            "body_kg": round(done.body_kg, 1),
            "start_s": start,
            "shown_time_s": [round(float(t), 6) for t in shown_s],
            "near_face_m": near_m,
        },
    }


def _outline(bar: Floats, along: Floats, cameras: list[Camera], near_m: float) -> tuple[Floats, Floats]:
    """Middle of the outline of the disc's outer face, and half its height, for every frame."""
    angle = np.linspace(0, 2 * np.pi, 360, endpoint=False)
    up = np.stack([np.zeros(along.shape[1]), along[2], -along[1]])
    ring = DISC_RADIUS_M * (np.cos(angle)[:, None, None] * np.array([[1.0], [0], [0]]) + np.sin(angle)[:, None, None] * up)
    seen = _projected(cameras, bar + near_m * along + ring)
    low, high = seen.min(0), seen.max(0)
    return (low + high) / 2, (high[:, 1] - low[:, 1]) / 2


def _projected(cameras: list[Camera], places: Floats) -> Floats:
    """Pixels `(…, frames, 2)` of places `(…, 3, frames)`, each frame by its own camera; all at once for one that stood still."""
    if all(camera is cameras[0] for camera in cameras):
        flat = np.moveaxis(places, -2, -1)
        return cameras[0].project(flat.reshape(-1, 3)).reshape(*flat.shape[:-1], 2)
    seen = [camera.project(np.atleast_2d(places[..., i].reshape(-1, 3))) for i, camera in enumerate(cameras)]
    return np.moveaxis(np.array(seen), 0, 1).reshape(*places.shape[:-2], len(cameras), 2)


def _joints(joints: Mapping[str, Floats], cameras: list[Camera], hidden: Mapping[str, list[bool]]) -> dict[str, Any]:
    made = {}
    for name in JOINTS:
        # A lifter who faces left in the picture is the mirror image: what was simulated as the right side is the left one.
        shown = name
        if cameras[0].facing == "left" and "_" in name:
            side, _, part = name.partition("_")
            shown = f"{'left' if side == 'right' else 'right'}_{part}"
        place = joints[name]
        pixels = _projected(cameras, place)
        behind = [int(flag) for flag in hidden[name]]
        made[shown] = {
            "x_px": _rounded(pixels[:, 0], 2),
            "y_px": _rounded(pixels[:, 1], 2),
            "confidence": [1 - flag for flag in behind],
            "occluded": behind,
            "x_m": _rounded(place[0], 4),
            "y_m": _rounded(place[1], 4),
            "z_m": _rounded(place[2], 4),
        }
    return made


def _lift(done: Performance, lift: LiftTruth, times_s: Floats) -> dict[str, Any]:
    first, last = (int(np.clip(np.searchsorted(times_s, at), 0, len(times_s) - 1)) for at in (lift.start_s, lift.stop_s))
    inside = slice(first, last + 1)
    path = done.path
    shown = {name: at for name, at in lift.events_s.items() if times_s[0] <= at <= times_s[-1]}
    frame = {name: int(np.argmin(np.abs(times_s - at))) for name, at in shown.items()}
    late = frame.get("peak_speed", frame.get("drive_end", frame.get("bottom", first)))
    read = {
        name: np.interp(times_s[inside], path.time_s, series)
        for name, series in (
            ("x", path.x_m),
            ("y", path.y_m),
            ("vx", np.gradient(path.x_m, path.time_s)),
            ("vy", path.vy_m_s),
            ("ay", path.ay_m_s2),
        )
    }
    levels = verdicts(lift, done.build.stature_m)
    rules = limits()
    return {
        "kind": lift.kind,
        "from": lift.begins,
        "implement": "barbell",
        "start_frame": first,
        "end_frame": last,
        "made": lift.made,
        "events": {name: {"frame": frame[name], "time_s": round(at - float(times_s[0]), 5), "sd_s": 0.0} for name, at in shown.items()},
        "bar": {
            "first_frame": first,
            "time_s": [round(float(t - times_s[0]), 6) for t in times_s[inside]],
            "x_m": _rounded(read["x"], 5),
            "y_m": _rounded(read["y"], 5),
            "vx_m_s": _rounded(read["vx"], 4),
            "vy_m_s": _rounded(read["vy"], 4),
            "ay_m_s2": _rounded(read["ay"], 3),
        },
        "measures": {
            name: {"value": round(value, 4), "unit": unit_of(name), "sd": 0.0, "frame": frame.get(name.partition("@")[2], late)}
            for name, value in lift.measures.items()
        },
        "findings": [
            {
                "fault": fault,
                "level": {"absent": "fine"}.get(level, level),
                "probability": float(level == "fault"),
                "root": False,
                "explains": [],
                "evidence": [
                    {
                        "measure": row["measure"],
                        "frame": frame.get(row["measure"].partition("@")[2], late),
                        "value": round(lift.measures[row["measure"]], 4),
                    }
                    for row in rules[fault].get("all", rules[fault].get("any", []))
                    if row["measure"] in lift.measures
                ],
            }
            for fault, level in levels.items()
        ],
    }


def _rounded(series: Floats, digits: int) -> list[float]:
    return [float(value) for value in np.round(series, digits)]


__all__ = ["JOINTS", "near_face_m", "truth_document", "unit_of"]
