"""Small true worlds for the tests: tracks straight from a simulated path, and tiny clips drawn by hand."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache
from pathlib import Path

import av
import numpy as np

from atleta.analysis import Settings, build_document
from atleta.footage import ClipInfo
from atleta.motion import JOINTS, JointTracks
from atleta.motion.body import Body
from atleta.motion.body.model import POINTS
from atleta.simulation import Asked, Build, Camera, Performance, Shoot, frames_of, play, truth_of
from atleta.tracking import RawTracks, Tracklet
from atleta.tracking.rim import UNSEEN

DEMO = Path(__file__).parents[2] / "demo" / "clips"
BUILD = Build(1.72)
INFO = ClipInfo(1280, 720, 0, 5.0, 300, 60.0, "h264")


@lru_cache(maxsize=64)
def _performed(kind: str, build: Build, changes: tuple[tuple[str, float | bool], ...]) -> Performance:
    return play(Asked((kind,), build, 80.0, 80.0, (dict(changes),)))


def lift(kind: str, build: Build = BUILD, **changes: float | bool) -> Performance:
    """A sound lift with some of its values changed, performed."""
    return _performed(kind, build, tuple(sorted(changes.items())))


def flat(document: dict, number: int = 0) -> dict:
    """What tests ask of a truth document's lift: event times and measures as bare numbers."""
    told = document["lifts"][number]
    return {
        "kind": told["kind"], "stature_m": document["simulation"]["stature_m"], "load_kg": document["simulation"]["load_kg"],
        "facing": document["clip"]["facing"], "m_per_px": document["scale"]["m_per_px"], "frame_time_s": document["clip"]["frame_time_s"],
        "disc": document["disc"], "events": {name: event["time_s"] for name, event in told["events"].items()},
        "measures": {name: measure["value"] for name, measure in told["measures"].items()},
        "faults": {row["fault"] for row in told["findings"] if row["level"] == "fault"},
    }  # fmt: skip


def true_tracks(done: Performance, camera: Camera, *, noise_px: float = 0.0, seed: int = 0) -> tuple[RawTracks, dict]:
    """What a perfect tracker would hand on for this lift, with white noise added when asked; and the truth, flat."""
    shoot = Shoot(done, camera, seed=seed)
    frames = frames_of(shoot)
    truth, times = flat(truth_of(shoot, frames)), frames.taken_s
    count = len(times)
    rng = np.random.default_rng(seed)
    x, y, r = (np.array(truth["disc"][name]) for name in ("x_px", "y_px", "radius_px"))
    piece = Tracklet(
        0, list(x + rng.normal(0, noise_px, count)), list(y + rng.normal(0, noise_px, count)), list(r), [1.0] * count, [1.0] * count,
        [max(noise_px, 0.02)] * count, [UNSEEN] * count,
    )  # fmt: skip
    raw = RawTracks(times - times[0], camera.width_px, camera.height_px, [piece], np.zeros((count, 1, 1), np.uint8))
    return raw, truth


class TrueBody:
    """What a perfect fit would hand on for this lift: every joint where it is, and nothing in doubt."""

    def __init__(self, done: Performance, camera: Camera, seed: int = 0) -> None:
        shoot = Shoot(done, camera, seed=seed)
        times = frames_of(shoot).taken_s
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
        empty = np.full((len(times), len(JOINTS)), np.nan)
        self.tracks = JointTracks(empty, empty, empty, 0.004, 0.0, camera.yaw_deg, 0.0, camera.distance_m, ((np.arange(len(times)), body),))

    def recall(self, key: str) -> tuple[bool, JointTracks | None]:
        return True, self.tracks

    def latest(self) -> None:
        return None

    def keep(self, key: str, tracks: JointTracks | None) -> None:
        raise AssertionError("a body that is known is not fitted")


def settings_for(truth: dict, **said: object) -> Settings:
    """What a coach would say of the lift of this truth."""
    return Settings(**{"lift": truth["kind"], "load_kg": 80.0, "stature_m": truth["stature_m"], "facing": truth["facing"], **said})


def analysed(
    done: Performance, camera: Camera | None = None, *, noise_px: float = 0.05, body: bool = False, **said: object
) -> tuple[dict, dict]:
    """The first lift of the document that truth tracks give, and the truth; with the true joints as well, or from the bar alone."""
    camera = camera or Camera()
    raw, truth = true_tracks(done, camera, noise_px=noise_px)
    known = TrueBody(done, camera) if body else None
    return build_document(raw, INFO, "0" * 64, settings_for(truth, **{"plumb_deg": 0.0, **said}), known)["lifts"][0], truth


def disc_picture(x: float, y: float, radius: float, *, size: tuple[int, int] = (360, 640), squeeze: float = 1.0, dark: float = 40.0,
                 light: float = 170.0, noise: float = 2.0, seed: int = 0) -> np.ndarray:  # fmt: skip
    """A dark disc on a light ground with exactly anti-aliased rim, `(height, width)` uint8."""
    rows, columns = np.mgrid[0 : size[0], 0 : size[1]]
    distance = np.hypot((columns - x) / squeeze, rows - y)
    # Steepness of the distance across the rim, so that the ramp is one pixel wide in every direction.
    slope = np.maximum(np.hypot((columns - x) / squeeze**2, rows - y) / np.maximum(distance, 1e-6), 1e-6)
    cover = np.clip((radius - distance) / slope + 0.5, 0, 1)
    picture = light + (dark - light) * cover + np.random.default_rng(seed).normal(0, noise, size)
    return np.clip(np.round(picture), 0, 255).astype(np.uint8)


def write_clip(
    target: Path, pictures: list[np.ndarray], *, fps: int = 60, times_s: list[float] | None = None, codec: str = "libx264"
) -> Path:
    """Encode grey or BGR pictures at high quality, with their own times when given."""
    clock = Fraction(1, 90_000)
    with av.open(str(target), "w") as out:
        stream = out.add_stream(codec, rate=fps)
        stream.height, stream.width = pictures[0].shape[:2]
        stream.pix_fmt = "yuv420p"
        stream.codec_context.time_base = clock
        stream.options = {"crf": "12"}
        for index, picture in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(picture, format="gray" if picture.ndim == 2 else "bgr24").reformat(format="yuv420p")
            frame.pts = round((times_s[index] if times_s else index / fps) / clock)
            frame.time_base = clock
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return target
