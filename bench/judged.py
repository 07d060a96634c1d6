"""What rules find against what is there, rule by rule: for perfect tracks (`bench/rules.py`) and for films (`bench/filmed.py`)."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import Any

from bench.tables import table

from atleta.faults import load_catalogue
from atleta.simulation.asked import COMPANIONS

# A rule that finds a smaller share of what is there, or is right less often, is named.
LEAST = 0.75
NOT_THERE = ("fine", "absent")


@dataclass(frozen=True)
class Judged:
    """One lift: the fault put in (empty: sound), every rule's true level and the one found, and what was named as the first cause."""

    fault: str
    truly: dict[str, str]
    found: dict[str, str]
    root: str | None

    @classmethod
    def of(cls, fault: str, truly: dict[str, str], lifts: list[dict[str, Any]]) -> Judged:
        """The first of the lifts that were found in a clip of one."""
        rows = lifts[0]["findings"] if lifts else []
        root = next((row["fault"] for row in rows if row["root"] and row["level"] == "fault"), None)
        return cls(fault, truly, {row["fault"]: row["level"] for row in rows}, root)

    @property
    def companions(self) -> set[str]:
        """Faults that are there since the one put in cannot be had without them: putting it in does not settle which comes first."""
        return {rule for rule in COMPANIONS.get(self.fault, ()) if self.truly.get(rule) == "fault"}

    @property
    def false(self) -> int:
        """Faults found that are not there."""
        return sum(level == "fault" and self.truly.get(rule) in NOT_THERE for rule, level in self.found.items())


def counted(got: list[Judged], view: str = "side") -> dict[str, Counter[str]]:
    """Of every rule that shows from where it was filmed: how often its fault is `there`, at which level it was then found (`missed` where
    at none), and how often it was found and is not there (`false`)."""
    pairs = Counter((rule, level, one.found.get(rule, "absent")) for one in got for rule, level in one.truly.items())
    faults = load_catalogue().faults
    # What a coach alone can see is nothing to be found here.
    rules = sorted({rule for rule, _, _ in pairs if faults[rule].measured and faults[rule].view in (view, "any")}, key=list(faults).index)
    rows = {}
    for rule in rules:
        here = Counter({level: pairs[rule, "fault", level] for level in ("fault", "watch", "cannot_tell")})
        here["missed"] = sum(pairs[rule, "fault", level] for level in NOT_THERE)
        here["there"] = here.total()
        here["false"] = sum(pairs[rule, level, "fault"] for level in NOT_THERE)
        rows[rule] = here
    return rows


def with_one_cause(got: list[Judged]) -> list[Judged]:
    """Lifts into which a fault was put, and which have it."""
    return [one for one in got if one.fault and one.truly.get(one.fault) == "fault"]


def report(got: list[Judged], view: str = "side") -> None:
    """Rule by rule: what is there, what is found of it; and all rules together, of those that show from where it was filmed."""
    rows, weak = [], []
    rules = counted(got, view)
    for rule, here in rules.items():
        false, there, hit = here["false"], here["there"], here["fault"]
        if there or false:
            rows.append([rule, *(str(here[name]) for name in ("there", "fault", "watch", "missed", "cannot_tell", "false"))])
            if (there and hit / there < LEAST) or (hit + false and hit / (hit + false) < LEAST):
                weak.append(rule)
    table(["rule", "there", "found", "watched", "missed", "cannot tell", "found though absent"], rows)
    total = sum(rules.values(), Counter[str]())
    hit, there, false = total["fault"], total["there"], total["false"]
    print(f"\nall rules: of {there} there {hit} found ({share(hit, there)}), {total['watch']} watched,")
    right = share(hit, hit + false)
    print(f"{total['cannot_tell']} said to be not to be told; {false} found that are not there ({right} right when found)")
    print(f"rules below {LEAST:.0%} in either: {', '.join(weak) or 'none'}")
    sound = [one for one in got if not one.fault]
    print(f"false faults on {len(sound)} sound lifts: {sum(one.false for one in sound) / max(len(sound), 1):.2f} a lift")
    caused = with_one_cause(got)
    alone, beside = [one for one in caused if not one.companions], [one for one in caused if one.companions]
    named = sum(one.root == one.fault for one in alone)
    print(f"first cause named right: {named} of {len(alone)} lifts with one cause ({share(named, len(alone))});")
    named, other = sum(one.root == one.fault for one in beside), sum(one.root in one.companions for one in beside)
    print(f"  of {len(beside)} whose cause cannot be had without another fault, {named}, and in {other} more that other one")
    wrong = Counter((one.fault, one.root) for one in caused if one.root != one.fault)
    print("named instead, most often:", "; ".join(f"{root} for {fault} ({n})" for (fault, root), n in wrong.most_common(12)))


def share(part: int, whole: int) -> str:
    return f"{part / whole:.0%}" if whole else "–"
