"""Small true worlds for the tests: tracks straight from a simulated path, and tiny clips drawn by hand."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache
from pathlib import Path

import av
import numpy as np

from atleta.analysis import Settings, build_document
from atleta.footage import ClipInfo
from atleta.simulation import Asked, Build, Camera, Performance, play
from atleta.simulation.perfect import PerfectBody, perfect_tracks
from atleta.tracking import DiscTracker, RawTracks

DEMO = Path(__file__).parents[2] / "demo" / "clips"
BUILD = Build(1.72)
INFO = ClipInfo(1280, 720, 0, 5.0, 300, 60.0, "h264")
# Joints of the side towards the camera that a film shows.
NEAR = ("shoulder", "hip", "knee", "ankle", "heel", "toe", "ear")


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
    raw, truth = perfect_tracks(done, camera, noise_px=noise_px, seed=seed)
    return raw, flat(truth)


def settings_for(truth: dict, **said: object) -> Settings:
    """What a coach would say of the lift of this truth."""
    return Settings(**{"lift": truth["kind"], "load_kg": 80.0, "stature_m": truth["stature_m"], "facing": truth["facing"], **said})


def analysed(
    done: Performance, camera: Camera | None = None, *, noise_px: float = 0.05, body: bool = False, **said: object
) -> tuple[dict, dict]:
    """The first lift of the document that truth tracks give, and the truth; with the true joints as well, or from the bar alone."""
    camera = camera or Camera()
    raw, truth = true_tracks(done, camera, noise_px=noise_px)
    known = PerfectBody(done, camera) if body else None
    return build_document(raw, INFO, "0" * 64, settings_for(truth, **{"plumb_deg": 0.0, **said}), known)["lifts"][0], truth


def value(told: dict, measure: str) -> float:
    found = told["measures"][measure]
    assert found["value"] is not None, found
    return float(found["value"])


def errors_mm(document: dict, truth: dict, joint: str, until_s: float) -> np.ndarray:
    """How far off a joint is, mm in the lifter's plane, in frames in which it is told before a time."""
    told, true = document["joints"][joint], truth["joints"][joint]
    upto = int(np.searchsorted(truth["clip"]["frame_time_s"], until_s))
    off = np.hypot(*(np.array(told[axis][:upto], float) - np.array(true[axis][:upto]) for axis in ("x_px", "y_px")))
    return 1000 * truth["scale"]["body_m_per_px"] * off[np.isfinite(off)]


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


def rise(count: int = 60) -> np.ndarray:
    """Heights (px) of a disc that rests, is lifted by 170 px, and stays up."""
    t = np.linspace(-0.4, 1.2, count)
    s = np.clip(t, 0, 1)
    return 270 - 170 * (10 * s**3 - 15 * s**4 + 6 * s**5)


def follow(pictures: list[np.ndarray], rate_hz: float = 60.0) -> RawTracks:
    """The discs of pictures that follow each other evenly."""
    tracker = DiscTracker()
    for index, picture in enumerate(pictures):
        tracker.feed(index, index / rate_hz, picture)
    return tracker.finish()


def write_clip(
    target: Path, pictures: list[np.ndarray], *, fps: int = 60, times_s: list[float] | None = None, codec: str = "libx264",
    pixel_shape: Fraction = Fraction(1), crf: int = 12, interlaced: bool = False,
) -> Path:  # fmt: skip
    """Encode grey or BGR pictures, at high quality if not told otherwise, with their own times when given; pixels are shown so many times
    as wide as high."""
    clock = Fraction(1, 90_000)
    with av.open(str(target), "w") as out:
        stream = out.add_stream(codec, rate=fps)
        stream.height, stream.width = pictures[0].shape[:2]
        stream.pix_fmt = "yuv420p"
        stream.codec_context.time_base = clock
        stream.codec_context.sample_aspect_ratio = pixel_shape
        stream.options = {"crf": str(crf)} | ({"x264-params": "interlaced=1"} if interlaced else {})
        for index, picture in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(picture, format="gray" if picture.ndim == 2 else "bgr24").reformat(format="yuv420p")
            frame.pts = round((times_s[index] if times_s else index / fps) / clock)
            frame.time_base = clock
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return target
