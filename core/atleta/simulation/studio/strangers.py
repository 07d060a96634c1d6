"""People who walk by: joints of a plain walk, for the figures that cross a clip."""

from __future__ import annotations

import numpy as np

from ..build import Build
from .figure import Joints

STEP_S = 0.55


def walking(build: Build, time_s: float, *, x_m: float, z_m: float, ahead: bool) -> Joints:
    """Joints of a walker whose hips are at `x_m`, `z_m` from the lifter's plane, going forward along x or back."""
    phase = np.pi * time_s / STEP_S
    hip_y = build.hip_height_m - 0.03 + 0.012 * np.cos(2 * phase)
    made: Joints = {}
    for side, sign in (("left", -1.0), ("right", 1.0)):
        swing = np.sin(phase + (0 if sign > 0 else np.pi))
        lift = max(np.cos(phase + (0 if sign > 0 else np.pi)), 0.0)
        hip = np.array([0.0, hip_y, sign * build.hip_half_m])
        ankle = np.array([0.30 * swing, build.ankle_m + 0.07 * lift, sign * (build.hip_half_m + 0.01)])
        along = ankle - hip
        far = min(float(np.linalg.norm(along)), build.thigh_m + build.shank_m - 1e-3)
        share = (build.thigh_m**2 - build.shank_m**2 + far**2) / (2 * far)
        out = float(np.sqrt(max(build.thigh_m**2 - share**2, 0.0)))
        unit = along / np.linalg.norm(along)
        knee = hip + share * unit + out * np.array([-unit[1], unit[0], 0.0])
        heel = ankle - [0.06, build.ankle_m, 0]
        shoulder = np.array([0.01, hip_y + build.trunk_m, sign * build.shoulder_half_m])
        arm = -0.45 * swing
        elbow = shoulder + build.upper_arm_m * np.array([np.sin(arm), -np.cos(arm), 0.10 * sign])
        bend = arm + 0.35
        wrist = elbow + build.forearm_m * np.array([np.sin(bend), -np.cos(bend), 0.02 * sign])
        hand = wrist + build.palm_m * np.array([np.sin(bend), -np.cos(bend), 0.0])
        made |= {f"{side}_{name}": place for name, place in {
            "hip": hip, "knee": knee, "ankle": ankle, "heel": heel, "toe": heel + [build.foot_m, 0, 0],
            "shoulder": shoulder, "elbow": elbow,
            "wrist": wrist, "hand": hand, "ear": np.array([0.03, hip_y + build.trunk_m + 0.117 * build.stature_m, sign * 0.043]),
        }.items()}  # fmt: skip
    made["nose"] = np.array([0.03 + 0.066 * build.stature_m, hip_y + build.trunk_m + 0.11 * build.stature_m, 0.0])
    made["neck"] = np.array([0.0, hip_y + build.trunk_m + 0.055 * build.stature_m, 0.0])
    turn = np.array([1.0, 1.0, 1.0]) if ahead else np.array([-1.0, 1.0, -1.0])
    return {name: np.asarray(place * turn + [x_m, 0.0, z_m]) for name, place in made.items()}
