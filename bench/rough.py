"""Clips as they come, not as one would film them: `python -m bench.rough [first seed]`, not part of `make bench` (half an hour of filming).

Sound lifts in which much is against whoever measures: dim rooms, a phone in the hand or lying low, far away or close, upright or across,
uneven and odd frame rates, discs painted in any colours, people who walk past. All is drawn by the seed. The
handling of a shaken picture was mended on clips of the usual seeds' lifters and rooms, by other cameras and with other discs; another first
seed gives lifters and rooms that nothing was mended on.
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
from bench import lifts
from bench.filmed import filmed, lift_of

from atleta.simulation.recipe import Clip

FOLDER = Path(__file__).parent / ".rough"
KINDS = ("snatch", "clean", "split_jerk", "power_snatch", "power_clean", "front_squat", "back_squat", "overhead_squat", "snatch_pull",
         "clean_pull", "power_jerk")  # fmt: skip
# Seeds that neither tests nor the other benchmarks use.
FIRST_SEED, LIFTS = 77_000, 16
RATES_HZ = (25, 30, 50, 60, 120)


def rough(kind: str, seed: int) -> Clip:
    """A sound lift, filmed roughly."""
    rng = np.random.default_rng([seed, 1])
    camera = {
        "distance": rng.uniform(3.2, 9), "height": rng.uniform(0.4, 1.8), "light": rng.uniform(0.35, 1.1),
        "fps": float(rng.choice(RATES_HZ)),
        "roll": rng.uniform(-1.5, 1.5), "noise": rng.uniform(1, 4), "soft_px": rng.uniform(0.4, 1.2),
        "shake_px": rng.uniform(1, 4) * (rng.random() < 0.3), "jitter": rng.uniform(0.05, 0.2) * (rng.random() < 0.3),
    }  # fmt: skip
    if rng.random() < 0.3:
        camera |= {"width": 720, "height_px": 1280, "cover": rng.uniform(3.3, 3.8)}

    def colour(light: float) -> list[float]:
        return rng.uniform(0.05, light, 3).round(2).tolist()

    outward = np.cumprod(np.append(1.0, rng.uniform(0.55, 0.92, int(rng.integers(1, 5)))))
    disc = {"rings": [[round(float(share), 3), colour(0.7)] for share in outward] + [[0.2, [0.6, 0.6, 0.61]]],
            "marks": int(rng.integers(6)), "mark": colour(0.9), "wear": round(float(rng.uniform(0, 0.4)), 2)}  # fmt: skip
    clip = lift_of(kind, "", seed, **camera)
    passing = {"walkers": int(rng.integers(1, 3))} if rng.random() < 0.35 else {}
    loading = {"loader_at_s": 1.0} if rng.random() < 0.2 else {}
    return replace(clip, told={**clip.told, **passing, **loading}, disc=disc)


def main(first_seed: int = FIRST_SEED) -> None:
    FOLDER.mkdir(exist_ok=True)
    clips = [rough(KINDS[turn % len(KINDS)], first_seed + turn) for turn in range(LIFTS)]
    with ProcessPoolExecutor(2) as pool:
        lifts.report("filmed roughly", list(pool.map(partial(filmed, folder=FOLDER), clips)))


if __name__ == "__main__":
    main(*(int(word) for word in sys.argv[1:]))
