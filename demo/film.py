"""Film the demo clips anew: `python demo/film.py [name …]`. A developer's tool; the clips are kept with the project.
With `--recipe FILE --out FOLDER` films another recipe, what is not there yet of it.

Each clip is a simulated set with its truth beside it (`clips/NAME.truth.json`). The recipe, `film.toml`, says what was asked of the
lifter; what the analysis makes of it is never read back into it.
"""

from __future__ import annotations

import argparse
import os
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

# One process a core: libraries that start threads of their own would only be in each other's way.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from atleta.simulation import film, read_recipe

HERE = Path(__file__).parent
CLIPS = HERE / "clips"


def _one(recipe: Path, name: str, folder: Path) -> str:
    clip = next(clip for clip in read_recipe(recipe) if clip.name == name)
    target = folder / f"{name}.mp4"
    film(clip.shoot(), target, codec=clip.codec, crf=clip.crf)
    return f"{name}: {target.stat().st_size / 1e6:.2f} MB"


def film_all(recipe: Path, folder: Path, names: list[str]) -> None:
    folder.mkdir(exist_ok=True)
    with ProcessPoolExecutor(2) as pool:
        for line in pool.map(_one, [recipe] * len(names), names, [folder] * len(names)):
            print(line, flush=True)


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("name", nargs="*")
    parser.add_argument("--recipe", type=Path)
    parser.add_argument("--out", type=Path)
    asked = parser.parse_args()
    recipe, out = asked.recipe or HERE / "film.toml", asked.out or CLIPS
    named = asked.name or [clip.name for clip in read_recipe(recipe)]
    # Filming of another recipe goes on where it stopped.
    there = {name for name in named if (out / f"{name}.truth.json").exists()} if asked.recipe and not asked.name else set()
    film_all(recipe, out, [name for name in named if name not in there])
