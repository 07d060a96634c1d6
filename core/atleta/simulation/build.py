"""A simulated lifter's measures. Segment lengths are shares of stature from a published anthropometric table
(the mean adult segment lengths used throughout biomechanics teaching), in metres."""

from __future__ import annotations

from dataclasses import dataclass

DISC_RADIUS_M = 0.225
SOLE_M = 0.025


@dataclass(frozen=True)
class Build:
    """Sagittal segment lengths (m) of one lifter."""

    stature_m: float = 1.72
    leg_share: float = 1.0
    """Legs against the mean: above 1 is long-legged, the trunk gives what the legs take."""
    girth: float = 1.0

    @property
    def ankle_m(self) -> float:
        return 0.039 * self.stature_m + SOLE_M

    @property
    def shank_m(self) -> float:
        return 0.246 * self.stature_m * self.leg_share

    @property
    def thigh_m(self) -> float:
        return 0.245 * self.stature_m * self.leg_share

    @property
    def trunk_m(self) -> float:
        return 0.288 * self.stature_m - (self.leg_share - 1) * 0.3 * self.stature_m

    @property
    def upper_arm_m(self) -> float:
        return 0.186 * self.stature_m

    @property
    def forearm_m(self) -> float:
        """Elbow to the middle of the closed hand."""
        return 0.186 * self.stature_m

    @property
    def foot_m(self) -> float:
        return 0.152 * self.stature_m + 0.02

    @property
    def knee_height_m(self) -> float:
        """Height of the knee joint above the floor, shin upright."""
        return self.ankle_m + self.shank_m

    @property
    def hip_height_m(self) -> float:
        return self.knee_height_m + self.thigh_m

    def arm_reach_m(self, grip_half_width_m: float) -> float:
        """Length of the straight arm as seen from the side: a wide grip shortens it."""
        aside = max(0.0, grip_half_width_m - 0.12 * self.stature_m)
        whole = self.upper_arm_m + self.forearm_m
        return float((whole**2 - aside**2) ** 0.5)
