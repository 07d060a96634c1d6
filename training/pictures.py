"""Draw what the lifter network learns from: squares of pictures with a lifter, and where each joint is.

    python -m training.pictures --out training/.pictures --count 500

Every performance gives one file; files that are there are not drawn again, and a file depends on its number alone.
"""

from __future__ import annotations

import argparse
import os
from collections.abc import Iterator
from dataclasses import dataclass, replace
from multiprocessing import Pool
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from atleta.simulation import Build, Camera, DiscLook, Gym, Look
from atleta.simulation.barbell import discs_for
from atleta.simulation.look import Light
from atleta.simulation.skeleton import soled
from atleta.simulation.studio.scene import Mesh, Scene, worn
from atleta.simulation.studio.strangers import walking
from atleta.simulation.truth_document import JOINTS as TOLD

from . import people
from .clutter import clutter, occluder
from .squares import JOINTS, KEPT_PX, MASK_PX

Floats = NDArray[np.float64]
Picture = NDArray[np.uint8]
DRAWN_PX = 448
SCENES, MOMENTS = 4, 15
# Somebody else about stands in so many places in turn.
PLACES = 3


@dataclass(frozen=True)
class Sample:
    """A square `(KEPT_PX, KEPT_PX, 3)` blue green red; joints `(21, 2)` px in it; which something hides; the same joints in metres from
    the middle of the hips, right, up and away from the camera `(21, 3)`; the lifter's pixels `(MASK_PX, MASK_PX)`; whether there is one."""

    picture: Picture
    points: Floats
    hidden: NDArray[np.bool_]
    places_m: Floats
    mask: NDArray[np.bool_]
    there: bool


def samples(seed: int) -> Iterator[Sample]:
    """Everything that one performance gives."""
    rng = np.random.default_rng(seed)
    done = people.performance(rng)
    first, last = (
        float(done.parts[0].meant_s[min(done.parts[0].meant_s, key=done.parts[0].meant_s.__getitem__)]),
        float(done.path.time_s[-1]),
    )
    blocks_m = float(done.path.y_m[0]) - 0.225 if done.parts[0].begins == "blocks" else 0.0
    for _ in range(SCENES):
        camera = _camera(rng, done.build)
        look = _look(rng)
        scene = Scene(camera, done.build, look, discs_for(float(rng.choice([30, 60, 90, 120, 160, 200]))), max(blocks_m, 0.0))
        if rng.uniform() < 0.5:
            _cover_room(scene, rng)
        others = [[worn(figure, _stranger(figure.build, rng)) for figure in scene.strangers] for _ in range(PLACES)]
        scene.strangers = []
        bare = rng.uniform() < 0.1
        if bare:
            nothing = np.zeros((0, 3))
            scene._barbell = Mesh(nothing, np.zeros((0, 3), np.int64), nothing)
        times = rng.uniform(max(first - 0.5, 0.0), last - 0.05, MOMENTS)
        step_s = float(rng.choice([0.0, rng.uniform(0.002, 0.02)]))
        bodies, later = done.body_at(times), done.body_at(times + step_s)
        for moment in range(MOMENTS):
            body = {name: place[:, moment] for name, place in bodies.items()}
            moved = {name: place[:, moment] - body[name] for name, place in later.items()}
            if bare:
                body = people.empty_handed(body, done.build, rng)
            if rng.uniform() < 0.85:
                body = people.otherwise(body, done.build, rng)
            yield _sample(scene, body, moved if step_s else None, others[moment % PLACES], rng)


def _sample(scene: Scene, body: people.Joints, moved: people.Joints | None, others: list[Mesh], rng: np.random.Generator) -> Sample:
    there = rng.uniform() > 0.03
    spin = float(rng.uniform(0, 6.28))
    shown = [
        {name: place + (share * moved[name] if moved else 0.0) for name, place in body.items()}
        for share in ((-0.5, 0.5) if moved else (0.0,))
    ]
    more = list(others)
    if rng.uniform() < 0.06:
        more += [_mirrored(thing, scene.look.gym.wall_m + 0.4) for thing in scene._lifter(body, spin)]
    if there:
        picture, hidden = scene.draw(shown, [spin] * len(shown), [], more)
        mask = scene.mask()
    else:
        picture, hidden = scene._small.copy(), [True] * len(TOLD)
        mask = np.zeros((scene.camera.height_px // 4, scene.camera.width_px // 4), bool)
    ends = soled(body, scene.figure.build)
    pixels, _ = scene.camera.see(np.array([ends[name] for name in JOINTS]))
    # What hides a wrist hides its hand.
    flags = dict(zip(TOLD, hidden, strict=True))
    behind = np.array([flags[name.replace("hand", "wrist")] for name in JOINTS])
    picture = cv2.GaussianBlur(picture, (0, 0), float(rng.uniform(0.3, 1.8)))
    if rng.uniform() < 0.15:
        over, covered = occluder(picture.shape[0], rng)
        picture = np.where(covered[..., None], over, picture)
        mask &= ~cv2.resize(covered.astype(np.uint8), mask.shape[::-1]).astype(bool)
        column, row = np.clip(np.round(pixels).astype(int), 0, picture.shape[0] - 1).T
        behind |= covered[row, column]
    exposed = _exposed(picture[..., ::-1], rng)
    axes = scene.camera.axes()
    middle = (body["left_hip"] + body["right_hip"]) / 2
    places = (np.array([ends[name] for name in JOINTS]) - middle) @ axes.T
    matrix = _square(pixels, rng)
    kept = cv2.warpAffine(exposed, matrix, (KEPT_PX, KEPT_PX), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    small = matrix * (MASK_PX / KEPT_PX)
    quarter = np.column_stack([small[:, :2] * 4, small[:, 2:]])
    kept_mask = cv2.warpAffine(mask.astype(np.uint8), quarter, (MASK_PX, MASK_PX), flags=cv2.INTER_LINEAR) > 0
    return Sample(kept, pixels @ matrix[:, :2].T + matrix[:, 2], behind, places, kept_mask, there)


def _camera(rng: np.random.Generator, who: Build) -> Camera:
    yaw = rng.normal(0, 14) if rng.uniform() < 0.75 else rng.uniform(-180, 180)
    return Camera(
        width_px=DRAWN_PX, height_px=DRAWN_PX,
        distance_m=float(rng.uniform(2.2, 9.0)), height_m=float(np.clip(rng.normal(0.95, 0.4), 0.1, 2.4)),
        aim_height_m=float(rng.normal(0.55, 0.12) * who.stature_m), aim_x_m=float(rng.normal(0, 0.15)),
        cover_m=float(rng.uniform(1.35, 2.3) * who.stature_m), yaw_deg=float(yaw), roll_deg=float(rng.normal(0, 2)),
    )  # fmt: skip


def _look(rng: np.random.Generator) -> Look:
    gym = Gym(
        *(people.colour(rng) for _ in range(6)), wall_m=float(rng.uniform(-4.5, -1.3)), windows=bool(rng.uniform() < 0.4),
        spare_discs=int(rng.integers(0, 6)), rack=bool(rng.uniform() < 0.6), bench=bool(rng.uniform() < 0.3), seed=int(rng.integers(2**31)),
    )  # fmt: skip
    shares = np.sort(rng.uniform(0.15, 0.96, int(rng.integers(1, 5))))[::-1]
    rings = ((1.0, people.colour(rng)), *((float(share), people.colour(rng)) for share in shares))
    disc = DiscLook(rings, marks=int(rng.integers(0, 14)), mark=people.colour(rng), wear=float(rng.uniform(0, 0.4)))
    if rng.uniform() < 0.6:
        depths = np.clip(rng.normal(0.004, 0.005, len(rings)), 0.0, 0.015) * (rng.uniform(size=len(rings)) < 0.8)
        letters = int(rng.choice([0, rng.integers(3, 14)]))
        disc = replace(disc, shoulder_m=float(rng.uniform(0.0, 0.028)), depths_m=tuple(map(float, depths)), letters=letters)
    side, high = rng.normal(0, 1, (2, 3)), rng.uniform(0.2, 1.0)
    lamp = (float(side[0, 0]), float(high), float(abs(side[0, 2]) if rng.uniform() < 0.8 else side[0, 2]))
    sky = float(rng.uniform(0.15, 0.6))
    light = Light(
        lamp, (float(side[1, 0]), 0.2, float(side[1, 2])), sky, float(rng.uniform(0, 0.3)), float(rng.uniform(0.0, 1.0) * (1 - 0.6 * sky)),
        float(rng.uniform(0, 0.3)), tuple(float(part) for part in rng.normal(1.0, 0.06, 3)),  # type: ignore[arg-type]
    )  # fmt: skip
    return Look(gym, people.outfit(rng), disc, float(rng.uniform()), int(rng.choice([0, 0, 1, 2, 3])), light=light)


def _stranger(who: Build, rng: np.random.Generator) -> people.Joints:
    """Somebody walking or standing anywhere, mostly behind the lifter."""
    walked = walking(who, float(rng.uniform(0, 2)), x_m=0.0, z_m=0.0, ahead=True)
    if rng.uniform() < 0.4:
        walked = people.empty_handed(walked, who, rng)
    away = -rng.uniform(0.8, 3.0) if rng.uniform() < 0.9 else rng.uniform(0.7, 1.3)
    return people.turned(walked, float(rng.uniform(0, 360)), np.array([rng.uniform(-1.8, 1.8), 0.0, away]))


def _mirrored(thing: Mesh, wall_m: float) -> Mesh:
    """What a mirror on the wall shows of something."""
    return replace(
        thing, points=thing.points * [1, 1, -1] + [0, 0, 2 * wall_m], normals=None if thing.normals is None else thing.normals * [1, 1, -1]
    )


def _cover_room(scene: Scene, rng: np.random.Generator) -> None:
    """Something else than a room behind the lifter."""
    made = clutter(scene._room.shape[0], rng)
    share = np.float32(rng.choice([1.0, rng.uniform(0.3, 0.9)]))
    keep = scene._floor & (rng.uniform() < 0.5)
    scene._room = np.where(keep[..., None], scene._room, (1 - share) * scene._room + share * made)
    scene._small = cv2.resize(scene._room, scene._small.shape[1::-1], interpolation=cv2.INTER_AREA)


def _exposed(picture: NDArray[np.float32], rng: np.random.Generator) -> Picture:
    """As a phone would store it: exposure, white balance, noise, and what compressing leaves of it."""
    side = picture.shape[0]
    bright = (
        cv2.pow(np.clip(picture, 0, None), rng.uniform(0.7, 1.4))
        * rng.normal(1.0, 0.06, 3).astype(np.float32)
        * np.float32(rng.uniform(0.55, 1.6))
    )
    if rng.uniform() < 0.3:
        x, y = np.meshgrid(np.linspace(-1, 1, side), np.linspace(-1, 1, side))
        bright *= (1 - rng.uniform(0, 0.5) * np.clip(x * rng.normal() + y * rng.normal(), -1, 1) ** 2).astype(np.float32)[..., None]
    noise = rng.standard_normal((side, side, 3), np.float32)
    if rng.uniform() < 0.5:
        noise = cv2.GaussianBlur(noise, (0, 0), 0.8) * 2
    stored = np.clip(255 * bright + noise * np.float32(rng.choice([rng.uniform(0, 4), rng.uniform(4, 14)])), 0, 255).astype(np.uint8)
    if rng.uniform() < 0.4:
        small = int(side * rng.uniform(0.3, 0.9))
        stored = cv2.resize(cv2.resize(stored, (small, small), interpolation=cv2.INTER_AREA), (side, side), interpolation=cv2.INTER_LINEAR)
    _, packed = cv2.imencode(".jpg", stored, [cv2.IMWRITE_JPEG_QUALITY, int(rng.uniform(12, 95))])
    return np.asarray(cv2.imdecode(packed, cv2.IMREAD_COLOR), np.uint8)


def _square(pixels: Floats, rng: np.random.Generator) -> Floats:
    """From the drawn picture into a square about the lifter, never quite where it should be."""
    low, high = pixels.min(0), pixels.max(0)
    side = float(max(high - low)) * rng.uniform(1.1, 1.75)
    x, y = (low + high) / 2 + rng.normal(0, 0.05, 2) * side
    turn, scale = np.radians(rng.normal(0, 4)), KEPT_PX / side
    matrix = scale * np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    return np.column_stack([matrix, KEPT_PX / 2 - matrix @ [x, y]])


def draw(told: tuple[Path, int]) -> Path:
    """One performance's file."""
    folder, seed = told
    target = folder / f"pictures-{seed:06d}.npz"
    if target.exists():
        return target
    cv2.setNumThreads(1)
    made = list(samples(seed))
    packed = [cv2.imencode(".jpg", one.picture, [cv2.IMWRITE_JPEG_QUALITY, 96])[1] for one in made]
    part = target.with_suffix(".part.npz")
    np.savez(
        part, bytes=np.concatenate(packed), ends=np.cumsum([len(one) for one in packed]),
        points=np.array([one.points for one in made], np.float32), hidden=np.array([one.hidden for one in made]),
        places_m=np.array([one.places_m for one in made], np.float32),
        mask=np.packbits(np.array([one.mask for one in made]).reshape(len(made), -1), axis=1), there=np.array([one.there for one in made]),
    )  # fmt: skip
    part.rename(target)
    return target


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    asked.add_argument("--out", type=Path, required=True)
    asked.add_argument("--count", type=int, default=500, help="performances; each gives sixty squares")
    asked.add_argument("--first", type=int, default=0)
    asked.add_argument("--processes", type=int, default=os.cpu_count())
    chosen = asked.parse_args()
    chosen.out.mkdir(parents=True, exist_ok=True)
    with Pool(chosen.processes) as pool:
        for file in pool.imap(draw, [(chosen.out, seed) for seed in range(chosen.first, chosen.first + chosen.count)]):
            print(file.name, flush=True)


if __name__ == "__main__":
    main()
