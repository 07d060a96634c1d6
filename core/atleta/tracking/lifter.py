"""Whether a body that the model shows is the lifter's: where the bar is, where it was a moment ago, and as long in the trunk."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .pose import Pose
from .pose_track import Box

Floats = NDArray[np.float64]

# So sure (score) the model must be that there is somebody.
SURE = 0.5
# Hips are never further from the bar than this to either side (m): whoever is further off does not hold it.
AT_THE_BAR_M = 0.75
# Or, of a box that the coach drew, no further outside it than this share of its width.
BESIDE_BOX = 0.2
EARS, SHOULDERS, HIPS, HEELS = (7, 8), (11, 12), (23, 24), (29, 30)
# From hips to shoulders, and from shoulders to ears (m): where a disc hides the lifter the model is as sure of a dwarf that it makes up of
# what is left to be seen, or of a giant who stands nearer to the camera.
# A bar in front of the neck hides it; then the trunk alone must be long enough.
TRUNK_M, NECK_M, PLAIN_TRUNK_M = (0.33, 0.74), 0.07, 0.40
# A trunk keeps its length: one so much longer than the longer ones so far is somebody's who is nearer to the camera; unless nobody else
# is seen for as many looks as it takes to know, and what was believed of it is given up.
LONGER, LONGER_ONES, ENOUGH_LOOKS = 1.2, 80, 8
# Hips do not jump by more than this, nor go faster (m, m/s), within the time after which they are looked for anew; those of a lifter who is
# hidden behind a low disc are so much slower.
JUMP_M, HIPS_M_S, FORGET_S, BENT_OVER_SLOWER = 0.15, 3.0, 0.5, 0.2
# Who carries a bar keeps hips and shoulders about where they were from it, or where they were while it is pressed off them, so far and no
# faster (m, m/s): whoever walks by where a disc hides the lifter does not.
CARRIED_M, CARRIED_M_S = ((0.15,), (0.20,)), 0.2
# A body whose hips, shoulders and ears stay within this of where they were last seen (m) is the same one, however long its trunk seems: who
# stands up out of a squat, and reaches, has a longer one.
STAYS_M = 0.1


@dataclass(frozen=True)
class Carried:
    """Where hips and shoulders are by where they were from the bar, and where they were, `(2, 2)` px each; how long ago that was (s)."""

    places: tuple[Floats, Floats]
    since_s: float

    def near(self, pose: Pose, px_per_m: float, drop_m: float) -> bool:
        """Whether hips and shoulders are about in one of these; `drop_m` further up or down."""
        off_m = [abs(hips_and_shoulders(pose) - places) / px_per_m - [0.0, drop_m] for places in self.places]
        return any((off < np.array(CARRIED_M) + CARRIED_M_S * self.since_s).all() for off in off_m)


@dataclass(frozen=True)
class Known:
    """What is known of the lifter before a look: the last one, if not long ago, how long ago (s), how long trunks were (m), and of who
    carries the bar where they are about it."""

    last: Pose | None
    since_s: float
    trunks_m: tuple[float, ...]
    carried: Carried | None = None

    def near(self, pose: Pose, px_per_m: float, drop_m: float) -> bool:
        """Whether hips are no further from where they were than they may have got since; `drop_m` further up or down."""
        if self.last is None:
            return True
        if self.carried is not None:
            return self.carried.near(pose, px_per_m, drop_m)
        across, up = (middle(pose, HIPS) - middle(self.last, HIPS)) / px_per_m
        gone = JUMP_M + HIPS_M_S * self.since_s
        return bool(np.hypot(across, max(abs(up) - drop_m, 0.0)) < gone)


def is_lifter(pose: Pose, known: Known, x_px: float, px_per_m: float, box: Box | None, drop_m: float = 0.0) -> bool:
    """Whether this is a body where the lifter's may be, no further from the last than a body gets, with a trunk as long as the lifter's."""
    if not is_at_bar(pose, x_px, px_per_m, box) or not known.near(pose, px_per_m, drop_m):
        return False
    last = known.last
    if last is not None and all(apart_m(pose, part, last, part, px_per_m) < STAYS_M for part in (HIPS, SHOULDERS, EARS)):
        return True
    trunk_m = apart_m(pose, SHOULDERS, pose, HIPS, px_per_m)
    return len(known.trunks_m) < ENOUGH_LOOKS or trunk_m < LONGER * float(np.percentile(known.trunks_m, LONGER_ONES))


def is_at_bar(pose: Pose, x_px: float, px_per_m: float, box: Box | None) -> bool:
    """Whether this is a body, with hips where the lifter's are: in the coach's box, or near the bar."""
    trunk_m, neck_m = apart_m(pose, SHOULDERS, pose, HIPS, px_per_m), apart_m(pose, EARS, pose, SHOULDERS, px_per_m)
    if not TRUNK_M[0] < trunk_m < TRUNK_M[1] or (neck_m < NECK_M and trunk_m < PLAIN_TRUNK_M):
        return False
    hips = float(middle(pose, HIPS)[0])
    if box is None:
        return abs(hips - x_px) < AT_THE_BAR_M * px_per_m
    beside = BESIDE_BOX * (box.right - box.left)
    return box.left - beside < hips < box.right + beside


def clearness(pose: Pose) -> float:
    """How much the map agrees with where the model tells shoulders and hips, 0 to 1: a body made up is told, and seen nowhere."""
    return float(pose.heat[[*SHOULDERS, *HIPS]].mean())


def apart_m(one: Pose, part: tuple[int, ...], other: Pose, its: tuple[int, ...], px_per_m: float) -> float:
    """How far a part of one body, both sides together, is from a part of another."""
    return float(np.hypot(*(middle(one, part) - middle(other, its)))) / px_per_m


def leans(pose: Pose) -> float:
    """How far shoulders are to the right of hips, px."""
    return float(middle(pose, SHOULDERS)[0] - middle(pose, HIPS)[0])


def hips_and_shoulders(pose: Pose) -> Floats:
    """`(2, 2)` px."""
    return np.array([middle(pose, HIPS), middle(pose, SHOULDERS)])


def middle(pose: Pose, part: tuple[int, ...]) -> Floats:
    """Where a part of a body is, both sides together, `(2,)` px."""
    return np.asarray(pose.points[list(part)].mean(0))
