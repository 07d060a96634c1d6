"""Film a simulated lift: encode the clip and write its exact truth beside it."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from .barpath import BarPath, G
from .build import DISC_RADIUS_M, Build
from .camera import Camera
from .lifter import pose_at
from .paint import Look, Painter
from .sound import RATE_HZ, Samples, bump_m_s, hear

CLOCK = Fraction(1, 90_000)
SOUND_BLOCK = 1024


@dataclass(frozen=True)
class Shoot:
    """One clip to be filmed."""

    path: BarPath
    build: Build
    camera: Camera
    look: Look = field(default_factory=Look)
    load_kg: float = 80.0
    seed: int = 1
    sound: bool = True
    half_bar_m: float = 0.66


def film(shoot: Shoot, target: Path, *, codec: str = "libx264", crf: int = 24) -> dict[str, Any]:
    """Render the lift to `target` and its truth to `target` with suffix `.truth.json`; return the truth."""
    camera, path = shoot.camera, shoot.path
    rng = np.random.default_rng(shoot.seed)
    painter = Painter(camera, shoot.build, shoot.look, shoot.half_bar_m)
    times = _frame_times(path, camera, rng)
    frame_s = 1 / camera.fps
    with av.open(str(target), "w") as out:
        stream = out.add_stream(codec, rate=round(camera.fps))
        stream.width, stream.height, stream.pix_fmt = camera.width_px, camera.height_px, "yuv420p"
        stream.codec_context.time_base = CLOCK
        stream.options = {"crf": str(crf), "preset": "medium"}
        microphone = out.add_stream("aac", rate=RATE_HZ, layout="mono") if shoot.sound else None
        for time_s in times:
            open_s = camera.exposure_share * frame_s
            moments = time_s + open_s * (np.arange(3) - 1) / 3 if _moving(path, time_s) else [time_s]
            shots = [painter.draw(pose_at(path, shoot.build, float(t))).astype(np.float32) for t in moments]
            picture = np.mean(shots, axis=0) + rng.normal(0, camera.noise, (*shots[0].shape[:2], 1))
            frame = av.VideoFrame.from_ndarray(np.clip(picture, 0, 255).astype(np.uint8), format="bgr24")
            frame.pts = round((time_s - times[0]) / float(CLOCK))
            frame.time_base = CLOCK
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
        if microphone is not None:
            _add_sound(out, microphone, hear(path, distance_m=camera.distance_m, seed=shoot.seed))
    truth = truth_of(shoot, times)
    target.with_suffix(".truth.json").write_text(json.dumps(truth, indent=None, separators=(",", ":")))
    return truth


def _add_sound(out: av.container.OutputContainer, stream: av.AudioStream, sound: Samples) -> None:
    for start in range(0, len(sound), SOUND_BLOCK):
        block = av.AudioFrame.from_ndarray(sound[None, start : start + SOUND_BLOCK], format="fltp", layout="mono")
        block.sample_rate, block.pts, block.time_base = RATE_HZ, start, Fraction(1, RATE_HZ)
        out.mux(stream.encode(block))
    out.mux(stream.encode(None))


def truth_of(shoot: Shoot, times_s: NDArray[np.float64]) -> dict[str, Any]:
    """Everything that is exactly so, for the frames at `times_s` on the lift's own clock (0 = lift-off or dip start)."""
    path, camera = shoot.path, shoot.camera
    near = shoot.half_bar_m + 0.045
    bar = np.array([path.at(float(t)) for t in times_s])
    angle = np.linspace(0, 2 * np.pi, 360, endpoint=False)
    rims = []
    for x, y in bar:
        ring = np.stack([x + DISC_RADIUS_M * np.cos(angle), y + DISC_RADIUS_M * np.sin(angle), np.full_like(angle, near)], axis=-1)
        rims.append(camera.project(ring))
    seen = np.array(rims)
    centre = (seen.max(axis=1) + seen.min(axis=1)) / 2
    half_height = (seen[..., 1].max(axis=1) - seen[..., 1].min(axis=1)) / 2
    start = float(times_s[0])
    return {
        "kind": path.kind,
        "stature_m": shoot.build.stature_m,
        "load_kg": shoot.load_kg,
        "facing": camera.facing,
        "view": {"kind": "side", "yaw_deg": camera.yaw_deg},
        "m_per_px": float(DISC_RADIUS_M / np.median(half_height)),
        "frame_time_s": [round(float(t) - start, 6) for t in times_s],
        "disc": {
            "x_px": np.round(centre[:, 0], 3).tolist(),
            "y_px": np.round(centre[:, 1], 3).tolist(),
            "radius_px": np.round(half_height, 3).tolist(),
        },
        "bar": {"x_m": np.round(bar[:, 0], 5).tolist(), "y_m": np.round(bar[:, 1], 5).tolist()},
        "events": {name: round(at - start, 5) for name, at in path.events_s.items() if times_s[0] <= at <= times_s[-1]},
        "measures": true_measures(path),
    }


def true_measures(path: BarPath) -> dict[str, float]:
    """Bar measures straight from the fine exact path (0.5 ms), written apart from the analysis's own formulas."""
    at, t = path.events_s, path.time_s
    if "lift_off" not in at:
        return {}
    index = {name: int(np.searchsorted(t, when)) for name, when in at.items()}
    x_cm = 100 * (path.x_m - path.x_m[index["lift_off"]])
    flight = slice(index["lift_off"], index["meet"] + 1)
    top = float(path.y_m[index["apex"]])
    after_contact = x_cm[index["contact"] : index["meet"] + 1]
    front = int(np.argmax(after_contact))
    pull = slice(index["lift_off"], index["peak_speed"] + 1)
    push = path.ay_m_s2[pull] + G
    since = t[pull] - at["lift_off"]
    early = push[since <= 0.2]
    late = push[since >= 0.55 * since[-1]]
    aside = np.gradient(np.gradient(path.x_m, t), t)[pull] * np.gradient(path.x_m, t)[pull]
    upward = push * path.vy_m_s[pull]
    return {
        "peak_velocity": float(path.vy_m_s[pull].max()),
        "peak_velocity_height": float(path.y_m[index["peak_speed"]]),
        "peak_height": top,
        "drop_to_meet": 100 * (top - float(path.y_m[index["meet"]])),
        "drop_to_bottom": 100 * (top - float(path.y_m[index["bottom"]])),
        "meet_speed": -float(path.vy_m_s[index["meet"]]),
        "bar_forward_before_knee": float(x_cm[index["lift_off"] : index["knee"] + 1].max()),
        "bar_forward_max": float(x_cm[flight].max()),
        "bar_back_max": float(x_cm[flight].min()),
        "loop_width": float(after_contact[front] - after_contact[0] + after_contact[front] - after_contact[front:].min()),
        "early_force_ratio": float(early.max() / late.max()),
        "bump_speed": bump_m_s(path),
        "vertical_work_share": float(100 * np.abs(upward).sum() / (np.abs(upward).sum() + np.abs(aside).sum())),
    }


def _frame_times(path: BarPath, camera: Camera, rng: np.random.Generator) -> NDArray[np.float64]:
    count = int((path.time_s[-1] - path.time_s[0]) * camera.fps)
    steps = 1 / camera.fps * (1 + camera.jitter * rng.uniform(-1, 1, count))
    times = path.time_s[0] + np.concatenate([[0.0], np.cumsum(steps)])
    return np.asarray(np.round(times[times <= path.time_s[-1]] / float(CLOCK)) * float(CLOCK))


def _moving(path: BarPath, time_s: float) -> bool:
    return abs(float(np.interp(time_s, path.time_s, path.vy_m_s))) > 0.03
