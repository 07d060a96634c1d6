"""What somebody asks of the simulation, in words and numbers, turned into lifter, bar path and camera."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields, replace

import numpy as np

from .barpath import BarPath, JerkSpec, PullSpec, clean_spec, jerk_path, pull_path, snatch_spec
from .build import Build
from .camera import Camera

SPECS = {"snatch": snatch_spec, "clean": clean_spec}
LIFTS = (*SPECS, "jerk")

# What a fault does to a pull at full strength; in between, each value lies that share of the way from the sound lift to here. What a
# fault leads to comes with it: a bar that leaves the floor forward stays in front further up.
AT_FULL_STRENGTH: dict[str, dict[str, float]] = {
    "bar_forward_off_floor": {"forward_off_floor_m": 0.040, "back_at_knee_m": -0.010, "back_at_contact_m": 0.020},
    "bar_looped": {"loop_forward_m": 0.125, "loop_back_m": 0.095},
    "bar_crashed": {"drop_m": 0.20},
    "yanked_from_floor": {"early_ratio": 1.40, "middle_push_m_s2": 0.9},
}
# Rep-to-rep variation of one lifter, one standard deviation, as a share of the value.
VARIATION = {
    "peak_speed_m_s": 0.012, "peak_speed_height_m": 0.008, "drop_m": 0.04, "early_ratio": 0.015, "back_at_knee_m": 0.10,
    "back_at_contact_m": 0.08, "loop_forward_m": 0.08, "loop_back_m": 0.08,
}  # fmt: skip
_SHORT = {"yaw": "yaw_deg", "roll": "roll_deg", "distance": "distance_m", "height": "height_m", "cover": "cover_m",
          "width": "width_px", "exposure": "exposure_share"}  # fmt: skip


def asked_path(lift: str, build: Build, faults: Mapping[str, float], seed: int) -> BarPath:
    """The bar's path of one repetition: a sound lift, the faults put in, and this repetition's own variation.

    Args:
        faults: strength by fault id, 0 (sound) to 1.

    Raises:
        ValueError: a lift, fault or strength that the simulation does not know.
    """
    if lift not in LIFTS:
        raise ValueError(f"'{lift}' cannot be simulated. Choose one of {', '.join(LIFTS)}.")
    rng = np.random.default_rng(seed)
    if lift == "jerk":
        if faults:
            raise ValueError("No fault can be put into a simulated jerk.")
        rack = 0.815 * build.stature_m + float(rng.normal(0, 0.005))
        return jerk_path(JerkSpec(rack_height_m=rack, dip_m=0.087 * build.stature_m, drive_speed_m_s=1.12 * build.stature_m))
    return pull_path(_varied(with_faults(SPECS[lift](build), faults), rng), build)


def with_faults(spec: PullSpec, faults: Mapping[str, float]) -> PullSpec:
    """The spec with faults put in; where two move the same value, the larger move stands. Raises ValueError as `asked_path`."""
    moved: dict[str, float] = {}
    for fault, strength in faults.items():
        if fault not in AT_FULL_STRENGTH:
            raise ValueError(f"'{fault}' cannot be put into a lift. Choose from {', '.join(AT_FULL_STRENGTH)}.")
        if not 0 <= strength <= 1:
            raise ValueError(f"The strength of {fault} is {strength:g}; it lies between 0 and 1.")
        for name, full in AT_FULL_STRENGTH[fault].items():
            move = strength * (full - getattr(spec, name))
            if abs(move) >= abs(moved.get(name, 0.0)):
                moved[name] = move
    return replace(spec, **{name: getattr(spec, name) + move for name, move in moved.items()})


def asked_camera(words: str) -> Camera:
    """A camera from `name=value` pairs divided by commas: `yaw=8,fps=60,width=720,height_px=1280`; empty gives the usual one.

    Raises:
        ValueError: a name that is none of the camera's, or a value that is no number.
    """
    known = {field.name: field.type for field in fields(Camera)}
    told: dict[str, object] = {}
    for pair in filter(None, words.split(",")):
        name, _, value = pair.partition("=")
        name = _SHORT.get(name.strip(), name.strip())
        if name not in known:
            raise ValueError(f"The camera has no '{name}'. It has {', '.join([*_SHORT, *known])}.")
        try:
            told[name] = value.strip() if known[name] == "str" else int(value) if known[name] == "int" else float(value)
        except ValueError:
            raise ValueError(f"The camera's {name} is a number, not '{value}'.") from None
    if told.get("facing", "right") not in ("left", "right"):
        raise ValueError("The camera's facing is left or right.")
    return Camera(**told)  # type: ignore[arg-type]


def _varied(spec: PullSpec, rng: np.random.Generator) -> PullSpec:
    return replace(spec, **{name: getattr(spec, name) * (1 + float(rng.normal(0, share))) for name, share in VARIATION.items()})
