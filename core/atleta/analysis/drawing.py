"""Where in the picture a measure shows: the lines that a coach would draw to point at it."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..motion.lifter import BALL_SHARE

Spot = tuple[float, float]

TRUNK, KNEE, HIP, ARM = ("hip", "shoulder"), ("hip", "knee", "ankle"), ("shoulder", "hip", "knee"), ("shoulder", "elbow", "wrist")
# Measures of an angle: the joints it is made of, by how their names begin.
BENDS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("trunk_", TRUNK), ("hold_drift_trunk", TRUNK), ("lean_back", TRUNK), ("dip_trunk", TRUNK), ("hip_shoulder_rise", TRUNK),
    ("torso_shin", ("shoulder", "hip", "knee", "ankle")), ("extension_knee", KNEE), ("drive_extension_knee", KNEE), ("knee_rebend", KNEE),
    ("knee_hip_extension", HIP), ("knee_angle", KNEE), ("extension_hip", HIP), ("drive_extension_hip", HIP), ("hip_at_knee_extension", HIP),
    ("hip_angle", HIP), ("hip_height", HIP), ("arm_bend", ARM), ("front_rack_elbow", ARM), ("press_out", ARM), ("elbow_", ARM),
    ("front_shin", ("knee", "ankle")), ("shin_", ("knee", "ankle")), ("back_knee", KNEE), ("dip_elbow_drop", ARM),
    ("heel_rise", ("heel", "toe")),
)  # fmt: skip
# Measures of how far two places are apart, level.
LEVEL = (
    ("shoulder_over_bar", "shoulder", "bar"), ("knee_over_bar", "knee", "bar"), ("hip_bar_distance", "hip", "bar"),
    ("bar_over_hip", "bar", "hip"), ("bar_over_ball", "bar", "ball"), ("bar_over_midfoot", "bar", "mid_foot"),
    ("bar_off_midfoot", "bar", "mid_foot"), ("wrist_offset", "wrist", "shoulder"), ("bar_thigh_gap", "bar", "hip"),
    ("bar_body_gap", "bar", "hip"), ("dip_hip_back", "hip", "ankle"),
)  # fmt: skip
# Measures of how far one joint is above another.
UPRIGHT = (("depth", "hip", "knee"), ("hip_above_knee", "hip", "knee"))
# Measures of how far the bar is off the upright through where it began.
OFF_UPRIGHT = ("bar_x", "bar_forward", "loop_width", "loop_out", "dip_bar_shift", "jerk_bar_shift", "hold_drift_bar")
# Measures of where feet are, or when they come down.
FEET = ("split_length", "feet_", "foot_order", "recovery_order")
# Measures of both sides: the joints that they go through.
BOTH_SIDES = {
    "knee_track": ("left_ankle", "left_knee", "left_hip", "right_hip", "right_knee", "right_ankle"),
    "bar_tilt_max": ("left_wrist", "right_wrist"), "grip_width": ("left_wrist", "right_wrist"),
    **{f"stance_width@{event}": ("left_ankle", "right_ankle") for event in ("lift_off", "bottom", "dip_start", "descent_start")},
}  # fmt: skip
SIDES = ("left_", "right_")
ALONG_FOOT = {"ball": BALL_SHARE, "mid_foot": 0.5}


def lines_of(measure: str, document: dict[str, Any], lift: dict[str, Any], frame: int) -> list[Spot]:
    """A measure as one broken line in a frame, pixels: the joints that make an angle; two places and the corner between them; the bar and
    the upright through where it began; else the one place that it is about. Empty where what it rests on is not in the picture."""

    def at(place: str) -> Spot | None:
        return _place(place, document, frame)

    def middle(place: str) -> Spot | None:
        return _middle(place, document, frame)

    for start, joints in BENDS:
        if measure.startswith(start):
            return _whole([at(joint) for joint in joints])
    if measure.startswith(FEET):
        return _whole([_along(side, ALONG_FOOT["mid_foot"], document, frame) for side in SIDES])
    if measure in BOTH_SIDES:
        places = [document["joints"].get(joint) for joint in BOTH_SIDES[measure]]
        return _whole([_spot(track, frame) for track in places if track])
    for start, one, other in LEVEL:
        if measure.startswith(start):
            a, b = middle(one), middle(other)
            return [a, (b[0], a[1]), b] if a and b else []
    for start, one, other in UPRIGHT:
        if measure.startswith(start):
            a, b = middle(one), middle(other)
            return [a, (a[0], b[1]), b] if a and b else []
    if measure.startswith("balance"):
        return _whole([middle("mid_foot")])
    if measure.startswith("hip_forward_speed"):
        return _whole([middle("hip")])
    if not measure.startswith(OFF_UPRIGHT):
        return _whole([at("bar")])
    events = lift["events"]
    first = next((events[name]["frame"] for name in ("lift_off", "dip_start", "descent_start") if name in events), lift["start_frame"])
    bar, begin = at("bar"), _place("bar", document, first)
    if not bar or not begin:
        return []
    lean = float(np.tan(np.radians((document["scale"] or {}).get("plumb_deg", 0.0))))
    return [(begin[0] + lean * (begin[1] - bar[1]), bar[1]), bar]


def _whole(spots: list[Spot | None]) -> list[Spot]:
    known = [spot for spot in spots if spot is not None]
    return known if len(known) == len(spots) else []


def _place(name: str, document: dict[str, Any], frame: int) -> Spot | None:
    """The bar, or a joint of the side towards the camera; None where it is not known."""
    near = "left" if document["clip"]["facing"] == "left" else "right"
    return _spot(document["disc"] if name == "bar" else document["joints"].get(f"{near}_{name}"), frame)


def _middle(name: str, document: dict[str, Any], frame: int) -> Spot | None:
    """The bar, or the middle between a left and a right joint or place of the foot, from which distances are measured: legs in a split are
    far apart, and who stands across has one hip ahead of the other. None where either is not known."""
    if name == "bar":
        return _place(name, document, frame)
    sides = [
        _along(side, ALONG_FOOT[name], document, frame) if name in ALONG_FOOT else _spot(document["joints"].get(side + name), frame)
        for side in SIDES
    ]
    left, right = sides
    return ((left[0] + right[0]) / 2, (left[1] + right[1]) / 2) if left and right else None


def _along(side: str, share: float, document: dict[str, Any], frame: int) -> Spot | None:
    """A place of one foot, so far from heel to toe, on the floor."""
    heel, toe = (_spot(document["joints"].get(side + end), frame) for end in ("heel", "toe"))
    return (heel[0] + share * (toe[0] - heel[0]), max(heel[1], toe[1])) if heel and toe else None


def _spot(track: dict[str, Any] | None, frame: int) -> Spot | None:
    if track is None:
        return None
    x, y = track["x_px"][frame], track["y_px"][frame]
    return None if x is None or y is None else (x, y)
