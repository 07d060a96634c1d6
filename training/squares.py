"""What a square of a picture is to the lifter network."""

from __future__ import annotations

SIDES = ("left", "right")
JOINTS = ("nose", *(f"{side}_{name}" for side in SIDES for name in (
    "ear", "shoulder", "elbow", "wrist", "hand", "hip", "knee", "ankle", "heel", "toe")))  # fmt: skip
# The square itself, and the map of who is the lifter.
KEPT_PX, MASK_PX = 256, 64
