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
    if asked.recipe:
        there = {clip.name for clip in read_recipe(asked.recipe) if (asked.out / f"{clip.name}.truth.json").exists()}
        film_all(asked.recipe, asked.out, [clip.name for clip in read_recipe(asked.recipe) if clip.name not in there])
    else:
        film_all(HERE / "film.toml", CLIPS, asked.name or [clip.name for clip in read_recipe(HERE / "film.toml")])
