"""Film a performed set: encode the clip and write its exact truth beside it."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from .barbell import Disc, discs_for, near_face_m
from .build import DISC_RADIUS_M
from .camera import Camera
from .look import Look
from .script import Performance
from .sound import RATE_HZ, Samples, hear
from .truth import LiftTruth, truths
from .truth_document import JOINTS, truth_document

Floats = NDArray[np.float64]
CLOCK = Fraction(1, 90_000)
SOUND_BLOCK = 1024
BEFORE_S, AFTER_S = 0.8, 0.6
# A bar or body that moves less than this while the shutter is open is drawn once (px).
STILL_PX = 1.5
EXPOSURES = 3
# Display matrices for a picture stored turned, as phones write them.
MATRICES = {0: (1, 0, 0, 1), 90: (0, -1, 1, 0), 180: (-1, 0, 0, -1), 270: (0, 1, -1, 0)}


@dataclass(frozen=True)
class Shoot:
    """One clip to be filmed."""

    done: Performance
    camera: Camera = field(default_factory=Camera)
    look: Look = field(default_factory=Look)
    bar_kg: float = 20.0
    seed: int = 1
    sound: bool = True
    asked: dict[str, Any] = field(default_factory=dict)
    """What the set was made from; goes into the truth as it is."""
    from_s: float | None = None
    until_s: float | None = None

    @property
    def discs(self) -> tuple[Disc, ...]:
        return discs_for(self.done.load_kg, self.bar_kg)

    @property
    def blocks_m(self) -> float:
        """Height of the blocks that the discs stand on before the first lift; 0 for the floor."""
        return float(self.done.path.y_m[0]) - DISC_RADIUS_M if self.done.parts[0].begins == "blocks" else 0.0

    def span_s(self) -> tuple[float, float]:
        """From a little before the first lift moves to a little after the last one."""
        first, last = self.done.parts[0], self.done.parts[-1]
        moves = min(at for name, at in first.meant_s.items() if name not in ("hold_start", "hold_end"))
        ends = self.done.released_s + 1.1 if self.done.released_s is not None else last.stop_s
        begin = self.from_s if self.from_s is not None else max(moves - BEFORE_S, 0.0)
        until = self.until_s if self.until_s is not None else ends + (0.0 if self.done.released_s is not None else AFTER_S)
        return begin, min(until, float(self.done.path.time_s[-1]) - 0.01)


@dataclass(frozen=True)
class Frames:
    """When the frames were taken, when the file shows them, and where the phone was (for each)."""

    taken_s: Floats
    shown_s: Floats
    cameras: list[Camera]


def frames_of(shoot: Shoot) -> Frames:
    """The clip's frames: unevenly spaced where the camera is, shaken where a hand holds it."""
    camera, rng = shoot.camera, np.random.default_rng(shoot.seed)
    begin, end = shoot.span_s()
    count = int((end - begin) * camera.fps)
    steps = 1 / camera.fps * (1 + camera.jitter * rng.uniform(-1, 1, count))
    taken = begin + np.concatenate([[0.0], np.cumsum(steps)])
    taken = np.round(taken[taken <= end] / float(CLOCK)) * float(CLOCK)
    slow = camera.fps / camera.file_fps if camera.file_fps else 1.0
    shown = np.round((taken - taken[0]) * slow / float(CLOCK)) * float(CLOCK)
    if not camera.shake_px:
        return Frames(taken, shown, [camera] * len(taken))
    # A hand wanders slowly and trembles a little: a few sines with phases of their own.
    wander = [
        sum(size * np.sin(2 * np.pi * hz * taken + rng.uniform(0, 6.28)) for hz, size in ((0.3, 1.0), (0.9, 0.6), (2.7, 0.25), (6.1, 0.10)))
        for _ in range(3)
    ]
    size = camera.shake_px * camera.height_px / 720
    return Frames(
        taken,
        shown,
        [camera.shaken(size * float(x), size * float(y), 0.05 * camera.shake_px * float(r)) for x, y, r in zip(*wander, strict=True)],
    )


def film(shoot: Shoot, target: Path, *, codec: str = "libx264", crf: int = 23) -> dict[str, Any]:
    """Render the set to `target` and its truth to `target` with suffix `.truth.json`; return the truth.

    Raises:
        RuntimeError: the studio's own dependency is not installed.
    """
    camera, frames = shoot.camera, frames_of(shoot)
    lifts = truths(shoot.done)
    hidden: dict[str, list[bool]] = {name: [] for name in JOINTS}
    turned = camera.turned_deg
    with av.open(str(target), "w") as out:
        stream = out.add_stream(codec, rate=round(camera.file_fps or camera.fps))
        sides = (camera.width_px, camera.height_px)
        stream.width, stream.height = sides[::-1] if turned in (90, 270) else sides
        stream.pix_fmt = "yuv420p"
        stream.codec_context.time_base = CLOCK
        stream.options = (
            {"crf": str(crf), "preset": "faster"}
            if "vpx" not in codec
            else {"crf": str(crf), "b": "0", "deadline": "realtime", "cpu-used": "5"}
        )
        heard = shoot.sound and not camera.file_fps
        microphone = out.add_stream("libopus" if "vpx" in codec else "aac", rate=RATE_HZ, layout="mono") if heard else None
        for picture, shown_s, behind in _pictures(shoot, frames):
            for name, flag in behind.items():
                hidden[name].append(flag)
            stored = np.ascontiguousarray(np.rot90(picture, -(turned // 90)))
            frame = av.VideoFrame.from_ndarray(stored, format="bgr24")
            frame.pts, frame.time_base = round(shown_s / float(CLOCK)), CLOCK
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
        if microphone is not None:
            span = (float(frames.taken_s[0]), float(frames.taken_s[-1]))
            _add_sound(
                out,
                microphone,
                hear(shoot.done.path, contacts=contacts(shoot.done), span_s=span, distance_m=camera.distance_m, seed=shoot.seed),
            )
    if turned:
        _flag_turned(target, turned)
    truth = truth_of(shoot, frames, lifts, hidden)
    truth["clip"]["sha256"] = hashlib.sha256(target.read_bytes()).hexdigest()
    target.with_suffix(".truth.json").write_text(json.dumps(truth, indent=None, separators=(",", ":"), ensure_ascii=False))
    return truth


def contacts(done: Performance) -> list[tuple[float, float]]:
    """When the body touches the bar (s on the performance's clock), and the forward speed (m/s) that the bar gains by it."""
    return [(lift.events_s["contact"], lift.measures["bump_speed"]) for lift in truths(done) if "contact" in lift.events_s]


def truth_of(
    shoot: Shoot, frames: Frames, lifts: list[LiftTruth] | None = None, hidden: dict[str, list[bool]] | None = None
) -> dict[str, Any]:
    """Everything that is exactly so, for these frames; what is hidden is known only after drawing."""
    hidden = hidden or {name: [False] * len(frames.taken_s) for name in JOINTS}
    return truth_document(
        shoot.done, lifts if lifts is not None else truths(shoot.done), frames.cameras, frames.taken_s, frames.shown_s, hidden,
        shoot.done.body_at(frames.taken_s),
        near_m=near_face_m(shoot.discs), asked=shoot.asked,
    )  # fmt: skip


def _pictures(shoot: Shoot, frames: Frames) -> Iterator[tuple[NDArray[np.uint8], float, dict[str, bool]]]:
    """Every frame as the phone stores it (blue green red), when it is shown, and which joints something hides."""
    try:
        from .studio.scene import Scene
        from .studio.strangers import walking
    except ImportError:
        raise RuntimeError("Filming needs the developer tools (numba): install requirements/dev.txt, or run `make setup`.") from None
    camera, look = shoot.camera, shoot.look
    rng = np.random.default_rng(shoot.seed)
    # A shaken picture is cut out of a steady one that is a little larger.
    margin = int(np.ceil(4 * camera.shake_px * camera.height_px / 720 / 4) * 4 + 8) if camera.shake_px else 0
    steady = _widened(camera, margin)
    scene = Scene(steady, shoot.done.build, look, shoot.discs, shoot.blocks_m)
    grain = rng.normal(0, 1, (6, camera.height_px, camera.width_px, 1)).astype(np.float32)
    begin = float(frames.taken_s[0])
    open_s = camera.exposure_share / camera.fps
    offsets = open_s * (np.arange(EXPOSURES) - EXPOSURES // 2) / EXPOSURES
    body = shoot.done.body_at((frames.taken_s[:, None] + offsets).ravel())
    blurred = _blurred(body, camera)
    for index, (taken, shown, held) in enumerate(zip(frames.taken_s, frames.shown_s, frames.cameras, strict=True)):
        moments = range(EXPOSURES) if blurred[index] else [EXPOSURES // 2]
        bodies = [{name: place[:, EXPOSURES * index + moment] for name, place in body.items()} for moment in moments]
        people = _people(scene, look, walking, float(taken) - begin)
        picture, flags = scene.draw(bodies, [-float(joints["bar"][0]) / 0.225 for joints in bodies], people)
        if camera.soft_px:
            picture = cv2.GaussianBlur(picture, (0, 0), camera.soft_px)
        if margin:
            picture = _shaken(picture, camera, held, margin)
        # Grain is stronger where it is dark.
        exposed = np.clip(picture[..., ::-1] * np.float32(255 * 1.18 * camera.light), 0, 255)
        exposed += grain[index % 6] * (np.float32(camera.noise) * (1.25 - exposed[..., :1] * np.float32(0.5 / 255)))
        yield cv2.convertScaleAbs(np.clip(exposed, 0, 255)), float(shown), dict(zip(JOINTS, flags, strict=True))


def _people(scene: Any, look: Look, walking: Any, since_s: float) -> list[Any]:
    """Where the people who walk by are."""
    made = []
    for number in range(look.walkers):
        ahead = number % 2 == 0
        x = (-3.2 - 1.1 * number + 0.95 * since_s) * (1 if ahead else -1)
        made.append(
            walking(scene.strangers[number].build, since_s + 0.3 * number, x_m=x, z_m=look.gym.wall_m + 1.0 - 0.25 * number, ahead=ahead)
        )
    if look.loader:
        x = 2.4 * (since_s - look.loader_at_s)
        made.append(walking(scene.strangers[-1].build, since_s, x_m=x, z_m=1.45, ahead=True))
    return made


def _blurred(body: dict[str, Floats], camera: Camera) -> NDArray[np.bool_]:
    """In which frames something moves visibly while the shutter is open."""
    moved = np.zeros(body["bar"].shape[1] // EXPOSURES)
    for name in ("bar", "right_knee", "right_elbow", "right_ankle", "left_ankle", "nose"):
        places = body[name].reshape(3, -1, EXPOSURES)
        moved = np.maximum(moved, np.linalg.norm(places[:, :, -1] - places[:, :, 0], axis=0))
    return np.asarray(moved * camera.focal_px / camera.distance_m > STILL_PX)


def _widened(camera: Camera, margin: int) -> Camera:
    """The same view with a margin all around."""
    if not margin:
        return camera
    grown = camera.height_px + 2 * margin
    return replace(camera, width_px=camera.width_px + 2 * margin, height_px=grown, cover_m=camera.cover_m * grown / camera.height_px)


def _shaken(picture: Any, camera: Camera, held: Camera, margin: int) -> Any:
    """Cut the frame out of the wider picture as the hand held it: turned about the lens's axis, then moved."""
    angle = np.radians(held.roll_deg - camera.roll_deg)
    cos, sin = np.cos(angle), np.sin(angle)
    middle = np.array([camera.width_px / 2 - 0.5, camera.height_px / 2 - 0.5])
    turn = np.array([[cos, -sin], [sin, cos]])
    shift = middle + held.shift_px - turn @ (middle + margin)
    matrix = np.column_stack([turn, shift]).astype(np.float64)
    return cv2.warpAffine(picture, matrix, (camera.width_px, camera.height_px), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)


def _add_sound(out: av.container.OutputContainer, stream: av.AudioStream, sound: Samples) -> None:
    for start in range(0, len(sound), SOUND_BLOCK):
        block = av.AudioFrame.from_ndarray(sound[None, start : start + SOUND_BLOCK], format="fltp", layout="mono")
        block.sample_rate, block.pts, block.time_base = RATE_HZ, start, Fraction(1, RATE_HZ)
        out.mux(stream.encode(block))
    out.mux(stream.encode(None))


def _flag_turned(target: Path, degrees: int) -> None:
    """Set the rotation part of the track header's display matrix, as phones do when held another way."""
    content = bytearray(target.read_bytes())
    start = content.index(b"tkhd") + 4 + 40
    for place, value in zip((0, 4, 12, 16), MATRICES[degrees], strict=True):
        content[start + place : start + place + 4] = (value << 16).to_bytes(4, "big", signed=True)
    target.write_bytes(content)
