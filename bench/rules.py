"""The rules against truth, from perfect tracks: `python -m bench.rules [repetitions]`, part of `make bench`.

Every fault that can be put into a lift is put in alone, several times, with other builds and other strengths; sound lifts stand beside
them. What is found is compared with what the simulation's own independent judgement calls a fault, something to watch, or absent.
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from bench.judged import Judged, report

from atleta.analysis import Settings, build_document
from atleta.faults import load_catalogue
from atleta.footage import ClipInfo
from atleta.simulation import Build, Camera, Wanted, asked_set, play, truths, verdicts
from atleta.simulation.asked import AT_FULL_STRENGTH
from atleta.simulation.perfect import PerfectBody, perfect_tracks
from atleta.simulation.pulls import sound_plan

KINDS = {"pull": ("snatch", "clean"), "jerk": ("split_jerk",), "squat": ("front_squat", "back_squat", "overhead_squat")}
SOUND = ("snatch", "clean", "power_snatch", "power_clean", "split_jerk", "front_squat", "back_squat", "power_jerk")
# New ones go to the end: what stands before keeps its seeds, and its film.
LATER = {"continental": ("continental_clean",), "press": ("press",), "clean_grip": ("clean",)}
HIGH = Camera(cover_m=3.0, aim_height_m=1.25)
# Seeds that no test uses.
FIRST_SEED = 9000
ROUND = 3
# A lifter repeats a bar's largest speed at one load within this share.
USUAL_SPREAD = 0.02


def cases(repetitions: int) -> list[tuple[str, str, int]]:
    """Kind, fault (empty: sound) and seed of every lift."""
    catalogue = load_catalogue()
    found = []
    for kinds_of, sound in ((KINDS, SOUND), (LATER, ("continental_clean", "press"))):
        for fault, families in AT_FULL_STRENGTH.items():
            for kind in (kind for family in families for kind in kinds_of.get(family, ())):
                shows = catalogue.faults[fault].measured and catalogue.faults[fault].view != "front"
                if shows and kind in catalogue.faults[fault].kinds:
                    found += [(kind, fault) for _ in range(repetitions)]
        found += [(kind, "") for kind in sound for _ in range(2 * repetitions)]
    return [(*case, FIRST_SEED + i) for i, case in enumerate(found)]


def judged(case: tuple[str, str, int], off_m: float = 0.0) -> Judged:
    """One lift: what is truly so of every rule, what was found, and which was named as the first cause; with joints off by `off_m`, as in
    `PerfectBody`."""
    kind, fault, seed = case
    rng = np.random.default_rng(seed)
    build = Build(float(rng.uniform(1.52, 1.95)))
    faults = {fault: float(rng.uniform(0.75, 1.0))} if fault else {}
    load_kg = float(rng.uniform(50, 120))
    done = play(asked_set(Wanted(kind, build, load_kg, 80.0, None, faults, "", seed)))
    camera = HIGH if goes_overhead(kind) else Camera()
    raw, truth = perfect_tracks(done, camera, seed=seed)
    said = Settings(
        lift=kind,
        load_kg=load_kg,
        stature_m=build.stature_m,
        facing=truth["clip"]["facing"],
        plumb_deg=0.0,
        usual_speed=usual(kind, build),
    )
    info = ClipInfo(camera.width_px, camera.height_px, 0, 5.0, len(raw.frame_time_s), 60.0, "h264")
    lifts = build_document(raw, info, "0" * 64, said, PerfectBody(done, camera, seed, off_m))["lifts"]
    return Judged.of(fault, verdicts(truths(done)[0], build.stature_m), lifts)


def goes_overhead(kind: str) -> bool:
    """Whether the bar goes up out of the usual picture."""
    return kind.endswith(("jerk", "press")) or kind == "overhead_squat"


def usual(kind: str, build: Build) -> tuple[float, float] | None:
    """How fast this lifter's bar usually is, with its spread: what eight made lifts before this one would have told."""
    if kind.removeprefix("power_") not in KINDS["pull"]:
        return None
    speed = sound_plan(kind, build).bar.peak_speed_m_s
    return speed, USUAL_SPREAD * speed


def main(repetitions: int = ROUND) -> None:
    with ProcessPoolExecutor(2) as pool:
        report(list(pool.map(judged, cases(repetitions), chunksize=4)))


if __name__ == "__main__":
    main(*(int(word) for word in sys.argv[1:]))
