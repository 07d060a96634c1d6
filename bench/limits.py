"""How well joints must be known for rules to find what is there: `python -m bench.limits [repetitions]`, part of `make bench`.

The lifts of `bench/rules.py`, with joints half of the time off by more than so many millimetres, whatever hides them. How large such errors
are and how long they last is known exactly, and nothing else is wrong: what the same rules could find on film, were it tracked so well.
"""

from __future__ import annotations

import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from unittest.mock import patch

from bench.judged import Judged, counted, share, with_one_cause
from bench.rules import cases, judged
from bench.tables import table

from atleta.analysis import lift

OFF_MM = (0, 4, 8, 15)


def judged_off(case: tuple[str, str, int], off_m: float) -> Judged:
    """One lift. What draws from a fit leave out these draws do not."""
    with patch.dict(lift.FIT_SD, clear=True), patch.dict(lift.FIT_SD_S, clear=True):
        return judged(case, off_m)


def row(off_mm: int, got: list[Judged]) -> list[str]:
    """Of all rules that show from the side: what is there, what is found of it, watched, missed and not to be told, and what is found that
    is not there; and how often the first cause is named right."""
    total = sum(counted(got).values(), Counter[str]())
    hit, alone = total["fault"], with_one_cause(got)
    counts = (str(total[name]) for name in ("there", "fault", "watch", "missed", "cannot_tell", "false"))
    named = sum(one.root == one.fault for one in alone)
    return [str(off_mm), *counts, share(hit, total["there"]), share(hit, hit + total["false"]), share(named, len(alone))]


def main(repetitions: int = 1) -> None:
    with ProcessPoolExecutor(2) as pool:
        rows = [row(off_mm, list(pool.map(partial(judged_off, off_m=off_mm / 1000), cases(repetitions), chunksize=4))) for off_mm in OFF_MM]
    table(
        ["joints off, mm", "there", "found", "watched", "missed", "cannot tell", "found though absent", "recall", "right", "first cause"],
        rows,
    )


if __name__ == "__main__":
    main(*(int(word) for word in sys.argv[1:]))
