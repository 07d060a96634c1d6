"""Every fault, filmed and found: `python -m bench.filmed [every]`, not part of `make bench` (it films for an hour or so).

Each fault that the simulation knows is put in alone into a lift of a lifter, room, disc and camera drawn by its seed, filmed, and analysed
from the pixels as the application does it; sound lifts stand beside them. What is found is compared with what is truly so. A fault that
several kinds of lift can have is put into one of them; with `every`, into each.
"""

from __future__ import annotations

import json
import os
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

# One process a core: libraries that start threads of their own would only be in each other's way.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np
from bench.judged import Judged, report
from bench.rules import cases, goes_overhead, usual

from atleta.analysis import Settings, build_document, track_clip
from atleta.footage import probe
from atleta.simulation import film
from atleta.simulation.recipe import Clip

FOLDER = Path(__file__).parent / ".filmed"
# Seeds that neither tests nor the other benchmarks use.
FIRST_SEED = 31_000


def recipes(every: bool = False) -> list[tuple[str, Clip]]:
    """Fault (empty: a sound lift) and clip of every lift."""
    made = [(fault, lift_of(kind, fault, FIRST_SEED + i)) for i, (kind, fault, _) in enumerate(cases(1))]
    if every:
        return made
    ways: dict[str, list[tuple[str, Clip]]] = {}
    for fault, clip in made:
        ways.setdefault(fault or clip.name, []).append((fault, clip))
    return [those[turn % len(those)] for turn, those in enumerate(ways.values())]


def lift_of(kind: str, fault: str, seed: int, **camera_as: float) -> Clip:
    """A lift (with a fault, unless that is empty) of a lifter, in a room and before a camera drawn by the seed, but for what is said."""
    rng = np.random.default_rng(seed)

    def colour(dark: float, light: float) -> list[float]:
        return (rng.uniform(dark, light) * rng.uniform(0.8, 1.0, 3)).round(3).tolist()

    stature_m = round(float(rng.uniform(1.52, 1.92)), 2)
    high = goes_overhead(kind)
    camera = {
        "distance": rng.uniform(4.2, 6.2), "cover": rng.uniform(2.9, 3.2) if high else rng.uniform(2.6, 2.9),
        "height": rng.uniform(0.7, 1.5), "aim_height_m": 1.2 if high else 1.1, "yaw": rng.uniform(-12, 12),
        "light": rng.uniform(0.7, 1.1), "fps": 60,
    }  # fmt: skip
    camera |= camera_as
    facing = ("left", "right")[int(rng.integers(2))]
    lifter = {
        "stature_m": stature_m, "leg_share": round(float(rng.uniform(0.97, 1.03)), 3), "girth": round(float(rng.uniform(0.9, 1.1)), 3),
        "muscle": round(float(rng.uniform(0.3, 0.9)), 2), "habit": seed, "skin": colour(0.35, 0.85), "hair": colour(0.05, 0.35),
        "shirt": colour(0.1, 0.85), "shorts": colour(0.08, 0.5), "legs_covered": round(float(rng.uniform(0.4, 1.8)), 2),
    }  # fmt: skip
    room = {"wall": colour(0.4, 0.8), "band": colour(0.3, 0.6), "platform": colour(0.4, 0.75), "windows": bool(rng.integers(2)),
            "spare_discs": int(rng.integers(5)), "rack": bool(rng.integers(2)), "seed": seed}  # fmt: skip
    load_kg = round(float(rng.uniform(0.75, 1.2) * 24 * stature_m**2))
    told: dict[str, Any] = {
        "name": f"{kind}-{fault or 'sound'}-{seed}", "lifts": kind, "load": load_kg, "seed": seed, "faults": {},
        "camera": ",".join(f"{name}={value:.4g}" for name, value in camera.items()) + f",facing={facing}",
    }  # fmt: skip
    if fault:
        told["faults"] = {fault: round(float(rng.uniform(0.75, 1.0)), 2)}
    return Clip(told["name"], "libx264", 21, told, lifter, room, {})


def filmed(clip: Clip, folder: Path = FOLDER) -> Path:
    """The clip's file; made unless it is there."""
    target = folder / f"{clip.name}.mp4"
    if not target.with_suffix(".truth.json").exists():
        film(clip.shoot(), target, codec=clip.codec, crf=clip.crf)
    return target


def judged(case: tuple[str, Clip]) -> Judged:
    """One lift: what is truly so of every rule and what was found, and which was named as the first cause."""
    fault, clip = case
    path = filmed(clip)
    info = probe(path)
    said = Settings(
        lift=clip.told["lifts"], load_kg=clip.told["load"], stature_m=clip.lifter["stature_m"],
        usual_speed=usual(clip.told["lifts"], clip.build),
    )  # fmt: skip
    lifts = build_document(track_clip(path, info), info, "0" * 64, said)["lifts"]
    truly = {row["fault"]: row["level"] for row in json.loads(path.with_suffix(".truth.json").read_text())["lifts"][0]["findings"]}
    return Judged.of(fault, truly, lifts)


def main(every: bool) -> None:
    FOLDER.mkdir(exist_ok=True)
    with ProcessPoolExecutor(2) as pool:
        report(list(pool.map(judged, recipes(every))))


if __name__ == "__main__":
    main("every" in sys.argv[1:])
