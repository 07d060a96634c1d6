"""Which faults a simulated lift truly has: present, in the watch band, or absent, from its true measures and `limits.toml`."""

from __future__ import annotations

import tomllib
from functools import cache
from pathlib import Path
from typing import Any

from .truth import LiftTruth

LETTERS = {"back_squat": "B", "front_squat": "F", "overhead_squat": "O", "deadlift": "P", "continental_clean": "A", "press": "U"}
LEVELS = ("absent", "watch", "fault")


@cache
def limits() -> dict[str, dict[str, Any]]:
    return tomllib.loads((Path(__file__).parent / "limits.toml").read_text("utf-8"))


def family(lift: LiftTruth) -> str:
    """The letters of `limits.toml` that a lift answers to."""
    kind = lift.kind
    letter = LETTERS.get(kind, "")
    if not letter:
        letter = (
            "P" if kind.endswith("pull") else "J" if kind.endswith("jerk") else "S" if "snatch" in kind else "C" if "clean" in kind else ""
        )
    if kind == "split_jerk":
        letter = "JX"
    if kind == "other" and "dip_depth" in lift.measures:
        letter = "D"
    return letter + ("H" if "hold_time" in lift.measures else "")


def verdicts(lift: LiftTruth, stature_m: float) -> dict[str, str]:
    """Level by fault, for every fault whose measures this lift has."""
    letters = family(lift)
    made: dict[str, str] = {}
    for fault, rule in limits().items():
        if not set(rule["kinds"]) & set(letters):
            continue
        conditions = rule.get("all", rule.get("any", []))
        levels = [_level(condition, lift.measures, letters, stature_m) for condition in conditions]
        known = [level for level in levels if level is not None]
        if "all" in rule and len(known) == len(conditions):
            made[fault] = LEVELS[min(known)]
        elif "any" in rule and known:
            made[fault] = LEVELS[max(known)]
    return made


def _level(condition: dict[str, Any], measures: dict[str, float], letters: str, stature_m: float) -> int | None:
    if condition["measure"] not in measures:
        return None
    where = condition.get("where")
    if where and measures[where["measure"]] < where["least"]:
        return 0
    value = measures[condition["measure"]]
    own = next((condition[letter] for letter in letters if letter in condition), None)
    watch, fault = own or condition.get("above") or condition["below"]
    allowance = condition.get("taller", 0.0) * max(stature_m - 1.80, 0.0) / 0.10
    sign = 1.0 if "above" in condition else -1.0
    beyond = [sign * value > sign * (limit + allowance) for limit in (watch, fault)]
    return 2 if beyond[1] else 1 if beyond[0] else 0
