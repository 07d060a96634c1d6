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


def report(got: list[Judged], view: str = "side") -> None:
    """Rule by rule: what is there, what is found of it; and all rules together, of those that show from where it was filmed."""
    pairs = Counter((rule, level, one.found.get(rule, "absent")) for one in got for rule, level in one.truly.items())
    faults = load_catalogue().faults
    # What a coach alone can see is nothing to be found here.
    rules = sorted({rule for rule, _, _ in pairs if faults[rule].measured and faults[rule].view in (view, "any")}, key=list(faults).index)
    rows, weak = [], []
    total: Counter[str] = Counter()
    for rule in rules:
        here = {level: pairs[rule, "fault", level] for level in ("fault", "watch", "cannot_tell", *NOT_THERE)}
        false, there, hit = sum(pairs[rule, level, "fault"] for level in NOT_THERE), sum(here.values()), here["fault"]
        total.update(here, there=there, false=false)
        if there or false:
            rows.append([rule, str(there), str(hit), str(here["watch"]), str(sum(here[level] for level in NOT_THERE)),
                         str(here["cannot_tell"]), str(false)])  # fmt: skip
            if (there and hit / there < LEAST) or (hit + false and hit / (hit + false) < LEAST):
                weak.append(rule)
    table(["rule", "there", "found", "watched", "missed", "cannot tell", "found though absent"], rows)
    hit, there, false = total["fault"], total["there"], total["false"]
    print(f"\nall rules: of {there} there {hit} found ({_share(hit, there)}), {total['watch']} watched,")
    right = _share(hit, hit + false)
    print(f"{total['cannot_tell']} said to be not to be told; {false} found that are not there ({right} right when found)")
    print(f"rules below {LEAST:.0%} in either: {', '.join(weak) or 'none'}")
    sound = [one for one in got if not one.fault]
    print(f"false faults on {len(sound)} sound lifts: {sum(one.false for one in sound) / max(len(sound), 1):.2f} a lift")
    there_alone = [one for one in got if one.fault and one.truly.get(one.fault) == "fault"]
    found_alone = [one for one in there_alone if one.found.get(one.fault) == "fault"]
    for asked, which in ((there_alone, "with one cause"), (found_alone, "whose one cause was found")):
        named = sum(one.root == one.fault for one in asked)
        beside = sum(one.root in one.companions for one in asked)
        print(f"first cause named right: {named} of {len(asked)} lifts {which} ({_share(named, len(asked))});")
        either = _share(named + beside, len(asked))
        print(f"  in {beside} more a fault that the one put in cannot be had without ({either})")
    wrong = Counter((one.fault, one.root) for one in there_alone if one.root != one.fault)
    print("named instead, most often:", "; ".join(f"{root} for {fault} ({n})" for (fault, root), n in wrong.most_common(12)))


def _share(part: int, whole: int) -> str:
    return f"{part / whole:.0%}" if whole else "–"
