"""What perfect tracking would hand on of a simulated lift: to tell the error of tracking from that of the rules."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from ..footage import clicks_in
from ..motion import JOINTS, JointTracks
from ..motion.body import Body
from ..motion.body.fit import DRAWS
from ..motion.body.model import POINTS
from ..tracking import RawTracks, Tracklet
from ..tracking.rim import UNSEEN
from .camera import Camera
from .film import Shoot, contacts, frames_of, truth_of
from .script import Performance
from .sound import hear

Floats = NDArray[np.float64]

# Discs known exactly still get a deviation, or nothing would be left to weigh them by.
LEAST_PX = 0.005
# A joint that is told wrong is so for about that long.
ASTRAY_S = 0.1
# Half of all distances in a plane are within this many deviations of either direction.
MEDIAN_DISTANCE = float(np.sqrt(2 * np.log(2)))


def perfect_tracks(done: Performance, camera: Camera, *, noise_px: float = 0.0, seed: int = 0) -> tuple[RawTracks, dict[str, Any]]:
    """The true disc as raw tracks, with white noise added when asked, and the truth document."""
    shoot = Shoot(done, camera, seed=seed)
    frames = frames_of(shoot)
    truth, times = truth_of(shoot, frames), frames.taken_s
    count = len(times)
    rng = np.random.default_rng(seed)
    x, y, r = (np.array(truth["disc"][name]) for name in ("x_px", "y_px", "radius_px"))
    piece = Tracklet(
        0, list(x + rng.normal(0, noise_px, count)), list(y + rng.normal(0, noise_px, count)), list(r), [1.0] * count, [1.0] * count,
        [max(noise_px, LEAST_PX)] * count, [UNSEEN] * count,
    )  # fmt: skip
    heard = hear(done.path, contacts=contacts(done), span_s=(times[0], times[-1]), distance_m=camera.distance_m, seed=seed)
    return RawTracks(
        times - times[0], camera.width_px, camera.height_px, [piece], np.zeros((count, 1, 1), np.uint8), clicks=clicks_in([(0.0, heard)])
    ), truth


class PerfectBody:
    """A store of fitted bodies that knows the true one: every joint where it is, and nothing in doubt; or half of the time off by more
    than `off_m` in the picture, left and right alike, by errors whose size and length are known exactly."""

    def __init__(self, done: Performance, camera: Camera, seed: int = 0, off_m: float = 0.0) -> None:
        times = frames_of(Shoot(done, camera, seed=seed)).taken_s
        joints = done.body_at(times)
        # The camera stands on the lifter's right, or sees the mirror image.
        near = {"near": "right", "far": "left"}
        points = np.stack(
            [joints[name if name == "nose" else f"{near[name.partition('_')[0]]}_{name.partition('_')[2]}"].T for name in POINTS], axis=1
        )
        build, nothing = done.build, np.zeros((len(times), len(POINTS)))
        lengths = {
            "thigh": build.thigh_m, "shin": build.shank_m, "trunk": build.trunk_m, "upper_arm": build.upper_arm_m,
            "forearm": build.forearm_m, "grip": float(np.abs(joints["right_hand"][2, 0])),
        }  # fmt: skip
        body = Body(times - times[0], points, points[..., :2], nothing, joints["bar"][:2].T, lengths, {}, 1000.0, 0.0)
        if off_m:
            rng = np.random.default_rng([seed, 1])
            drawn = [np.pad(_astray(rng, body.time_s, off_m), ((0, 0), (0, 1), (0, 0))) for _ in range(DRAWS)]
            body = replace(body, points_m=points + _astray(rng, body.time_s, off_m), drawn_m=np.stack(drawn))
        empty = np.full((len(times), len(JOINTS)), np.nan)
        self.tracks = JointTracks(empty, empty, empty, 0.004, 0.0, camera.yaw_deg, 0.0, camera.distance_m, ((np.arange(len(times)), body),))

    def recall(self, key: str) -> tuple[bool, JointTracks | None]:
        return True, self.tracks

    def kept(self, like: str, unlike: str | None = None) -> Iterator[JointTracks]:
        return iter(())

    def keep(self, key: str, tracks: JointTracks | None) -> None:
        raise AssertionError("a body that is known is not fitted")


def _astray(rng: np.random.Generator, time_s: Floats, off_m: float) -> Floats:
    """How far joints are from where they are, `(frames, POINTS, 3)`; nothing to the side, which the picture does not show."""
    parts = [name.partition("_")[2] or name for name in POINTS]
    known = sorted(set(parts))
    smooth = gaussian_filter1d(rng.normal(size=(len(time_s), len(known), 2)), ASTRAY_S / float(np.median(np.diff(time_s))), axis=0)
    made = np.zeros((len(time_s), len(parts), 3))
    made[..., :2] = (smooth * off_m / MEDIAN_DISTANCE / smooth.std())[:, [known.index(part) for part in parts]]
    return made
