"""What clips from the front or from behind tell, held against the simulation's truth: `python -m bench.front`.

Knees that fall in, bars out of level and sound lifts, each of a lifter, room and camera drawn by its seed, up to some degrees off square.
The clips are kept; filming them takes a quarter of an hour.
"""

from __future__ import annotations

import json
import os
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

# One process a core: libraries that start threads of their own would only be in each other's way.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np
from bench.filmed import lift_of
from bench.judged import Judged, report
from bench.tables import table

from atleta.analysis import Settings, build_document, track_clip
from atleta.footage import probe
from atleta.simulation import film
from atleta.simulation.recipe import Clip

FOLDER = Path(__file__).parent / ".front"
FIRST_SEED, OFF_SQUARE_DEG, FPS = 52_000, 12.0, 30
LIFTS = (
    ("front_squat", "knees_in"), ("back_squat", "knees_in"), ("overhead_squat", "knees_in"), ("clean", "knees_in"),
    ("snatch", "knees_in"), ("snatch", "bar_tilted"), ("clean", "bar_tilted"), ("split_jerk", "bar_tilted"),
    ("overhead_squat", "bar_tilted"),
    ("back_squat", "uneven_grip"), ("snatch", ""), ("clean", ""), ("split_jerk", ""), ("front_squat", ""), ("back_squat", ""),
    ("overhead_squat", ""),
)  # fmt: skip
MEASURES = {"bar_tilt_max": "bar out of level, °", "knee_track": "knees inside, cm", "grip_width": "hands apart, cm",
            "stance_width@bottom": "feet apart, cm"}  # fmt: skip


def recipes() -> list[tuple[str, Clip]]:
    """Fault (empty: a sound lift) and clip of every lift; every fourth from behind."""
    made = []
    for i, (kind, fault) in enumerate(LIFTS):
        seed = FIRST_SEED + i
        off_square = float(np.random.default_rng(seed).uniform(-OFF_SQUARE_DEG, OFF_SQUARE_DEG))
        made.append((fault, lift_of(kind, fault, seed, yaw=(270 if i % 4 == 3 else 90) + off_square, fps=FPS)))
    return made


def measured(case: tuple[str, Clip]) -> tuple[Judged, str, dict[str, tuple[float, float, float]]]:
    """What is found of the rules, from where the clip seems to be filmed, and of each measure the value, its deviation and the truth."""
    fault, clip = case
    path = FOLDER / f"{clip.name}.mp4"
    if not path.with_suffix(".truth.json").exists():
        film(clip.shoot(), path, codec=clip.codec, crf=clip.crf)
    info = probe(path)
    said = Settings(lift=clip.told["lifts"], load_kg=clip.told["load"], stature_m=clip.lifter["stature_m"])
    document = build_document(track_clip(path, info), info, "0" * 64, said)
    truth = json.loads(path.with_suffix(".truth.json").read_text())["lifts"][0]
    told = document["lifts"][0]["measures"] if document["lifts"] else {}
    both = {
        name: (told[name]["value"], told[name]["sd"], truth["measures"][name]["value"])
        for name in MEASURES
        if told.get(name, {}).get("value") is not None and name in truth["measures"]
    }
    truly = {row["fault"]: row["level"] for row in truth["findings"]}
    return Judged.of(fault, truly, document["lifts"]), document["clip"]["view"]["kind"], both


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    cases = recipes()
    with ProcessPoolExecutor(2) as pool:
        got = list(pool.map(measured, cases))
    known = sum(view in ("front", "back") for _, view, _ in got)
    print(f"{known} of {len(got)} are told to be from the front or from behind.\n")
    rows = []
    for name, label in MEASURES.items():
        off = np.array([(value - true, sd) for _, _, both in got if name in both for value, sd, true in [both[name]]])
        within = float(np.mean(np.abs(off[:, 0]) <= 2 * off[:, 1]))
        worst = np.abs(off[:, 0]).max()
        rows.append([label, str(len(off)), f"{np.median(np.abs(off[:, 0])):.2f}", f"{worst:.2f}", f"{100 * within:.0f} %"])
    table(["measure", "lifts", "median error", "largest", "within two deviations"], rows)
    report([judged for judged, _, _ in got], "front")


if __name__ == "__main__":
    main()
