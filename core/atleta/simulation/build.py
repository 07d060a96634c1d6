"""A simulated lifter's measures. Segment lengths are shares of stature from a published anthropometric table
(the mean adult segment lengths used throughout biomechanics teaching), in metres."""

from __future__ import annotations

from dataclasses import dataclass

DISC_RADIUS_M = 0.225
SHAFT_RADIUS_M = 0.014
SOLE_M = 0.025


@dataclass(frozen=True)
class Build:
    """Segment lengths (m) of one lifter."""

    stature_m: float = 1.72
    leg_share: float = 1.0
    """Legs against the mean: above 1 is long-legged, the trunk gives what the legs take."""
    girth: float = 1.0
    arm_share: float = 1.0
    sex: float = 1.0
    """0 female to 1 male: width of shoulders and hips, and how the body is drawn."""
    forearm_share: float = 1.0
    """Forearms against the mean; the upper arms give what they take."""
    shank_share: float = 1.0
    """Shins likewise; the thighs give what they take."""

    @property
    def ankle_m(self) -> float:
        return 0.039 * self.stature_m + SOLE_M

    @property
    def shank_m(self) -> float:
        return 0.246 * self.stature_m * self.leg_share * self.shank_share

    @property
    def thigh_m(self) -> float:
        return 0.491 * self.stature_m * self.leg_share - self.shank_m

    @property
    def trunk_m(self) -> float:
        """Hip joint to shoulder joint with the shoulder girdle at rest."""
        return 0.288 * self.stature_m - (self.leg_share - 1) * 0.3 * self.stature_m

    @property
    def upper_arm_m(self) -> float:
        return 0.324 * self.stature_m * self.arm_share - self.forearm_m

    @property
    def forearm_m(self) -> float:
        """Elbow to wrist joint."""
        return 0.142 * self.stature_m * self.arm_share * self.forearm_share

    @property
    def palm_m(self) -> float:
        """Wrist joint to the middle of the closed hand."""
        return 0.036 * self.stature_m * self.arm_share

    @property
    def foot_m(self) -> float:
        return 0.152 * self.stature_m + 0.02

    @property
    def shoulder_half_m(self) -> float:
        return (0.100 + 0.012 * self.sex) * self.stature_m

    @property
    def hip_half_m(self) -> float:
        return 0.052 * self.stature_m

    @property
    def thigh_half_m(self) -> float:
        """Half the thickness of the thigh, front to back, at its middle."""
        return 0.044 * self.stature_m * self.girth

    @property
    def trunk_half_m(self) -> float:
        """From the line of hip and shoulder joints to the front of the trunk."""
        return 0.047 * self.stature_m * self.girth

    @property
    def knee_height_m(self) -> float:
        """Height of the knee joint above the floor, shin upright."""
        return self.ankle_m + self.shank_m

    @property
    def hip_height_m(self) -> float:
        return self.knee_height_m + self.thigh_m

    @property
    def arm_m(self) -> float:
        """Shoulder joint to the middle of the closed hand, arm straight."""
        return self.upper_arm_m + self.forearm_m + self.palm_m

    @property
    def snatch_grip_m(self) -> float:
        """Half the distance between the hands in a snatch grip."""
        return 0.280 * self.stature_m

    @property
    def clean_grip_m(self) -> float:
        return self.shoulder_half_m + 0.075

    def arm_reach_m(self, grip_half_width_m: float) -> float:
        """Length of the straight arm as seen from the side: a wide grip shortens it."""
        aside = max(0.0, grip_half_width_m - self.shoulder_half_m)
        return float((self.arm_m**2 - aside**2) ** 0.5)
