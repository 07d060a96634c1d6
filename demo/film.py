"""Film the demo clips anew: `python demo/film.py [name …]`. A developer's tool; the clips are kept with the project.

Each clip is a simulated set with its truth beside it (`clips/NAME.truth.json`). The recipe, `film.toml`, says what was asked of the
lifter; what the analysis makes of it is never read back into it.
"""

from __future__ import annotations

import os
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

# One process a core: libraries that start threads of their own would only be in each other's way.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from atleta.simulation import film, read_recipe

HERE = Path(__file__).parent
CLIPS = HERE / "clips"


def _one(name: str) -> str:
    clip = next(clip for clip in read_recipe(HERE / "film.toml") if clip.name == name)
    target = CLIPS / f"{name}.mp4"
    film(clip.shoot(), target, codec=clip.codec, crf=clip.crf)
    return f"{name}: {target.stat().st_size / 1e6:.2f} MB"


if __name__ == "__main__":
    CLIPS.mkdir(exist_ok=True)
    names = sys.argv[1:] or [clip.name for clip in read_recipe(HERE / "film.toml")]
    with ProcessPoolExecutor(2) as pool:
        for line in pool.map(_one, names):
            print(line, flush=True)
