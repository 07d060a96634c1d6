"""How clips that other code drew are analysed: `python -m bench.foreign FOLDER`, or `make bench FOREIGN=FOLDER`.

FOLDER holds `clips` with their truth beside them and the `score.py` that judges documents by it.
"""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

from atleta.analysis import Settings, analyse


def analysed(told: tuple[Path, Path]) -> str:
    """Analyse a clip into a folder, told what a coach would say of it."""
    clip, folder = told
    truth = json.loads(clip.with_suffix(".truth.json").read_text())
    settings = Settings(lift=truth["lift_kind"], load_kg=truth["load_kg"], stature_m=truth["stature_m"])
    (folder / f"{clip.stem}.json").write_text(json.dumps(analyse(clip, settings)))
    return clip.stem


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    asked.add_argument("folder", type=Path)
    asked.add_argument("--processes", type=int, default=2)
    chosen = asked.parse_args()
    clips = sorted((chosen.folder / "clips").glob("*.mp4"))
    with tempfile.TemporaryDirectory() as at, ProcessPoolExecutor(chosen.processes, get_context("spawn")) as pool:
        for name in pool.map(analysed, [(clip, Path(at)) for clip in clips]):
            print(name, file=sys.stderr, flush=True)
        subprocess.run([sys.executable, chosen.folder / "score.py", at, "--truth", chosen.folder / "clips", "--verbose"], check=True)


if __name__ == "__main__":
    main()
