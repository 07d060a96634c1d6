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

from bench.judged import NOT_THERE, Judged
from bench.rules import cases, judged
from bench.tables import table

from atleta.analysis import lift
from atleta.faults import load_catalogue

OFF_MM = (0, 4, 8, 15)


def judged_off(case: tuple[str, str, int], off_m: float) -> Judged:
    """One lift. What draws from a fit leave out these draws do not."""
    with patch.dict(lift.FIT_SD, clear=True), patch.dict(lift.FIT_SD_S, clear=True):
        return judged(case, off_m)


def row(off_mm: int, got: list[Judged]) -> list[str]:
    """Of all rules that show from the side: what is there, what is found of it, watched, missed and not to be told, and what is found that
    is not there."""
    faults = load_catalogue().faults
    shown = {name for name, fault in faults.items() if fault.measured and fault.view in ("side", "any")}
    pairs = Counter((level, one.found.get(rule, "absent")) for one in got for rule, level in one.truly.items() if rule in shown)
    there = sum(count for (level, _), count in pairs.items() if level == "fault")
    hit, false = pairs["fault", "fault"], sum(pairs[level, "fault"] for level in NOT_THERE)
    missed = sum(pairs["fault", level] for level in NOT_THERE)
    alone = [one for one in got if one.fault and one.truly.get(one.fault) == "fault"]
    named = sum(one.root == one.fault for one in alone)
    counts = (there, hit, pairs["fault", "watch"], missed, pairs["fault", "cannot_tell"], false)
    return [str(off_mm), *map(str, counts), f"{hit / there:.0%}", f"{hit / max(hit + false, 1):.0%}", f"{named / len(alone):.0%}"]


def main(repetitions: int = 1) -> None:
    with ProcessPoolExecutor(2) as pool:
        rows = [row(off_mm, list(pool.map(partial(judged_off, off_m=off_mm / 1000), cases(repetitions), chunksize=4))) for off_mm in OFF_MM]
    table(
        ["joints off, mm", "there", "found", "watched", "missed", "cannot tell", "found though absent", "recall", "right", "first cause"],
        rows,
    )


if __name__ == "__main__":
    main(*(int(word) for word in sys.argv[1:]))
