"""Did it help: a film of the work against its pass rule, the next load, and the number that led to it then and now."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import erf, hypot, sqrt

from .library import Pass
from .planning import STEP_PERCENT

BACK_PERCENT = 5.0
# How sure it must be that a rule is kept to step up, and how unlikely to step back.
KEPT, NOT_KEPT = 0.8, 0.2
# A number moved when the difference is more than this many of its own deviations.
SHOWN_SD = 2.0


@dataclass(frozen=True)
class Kept:
    """One rule against one film: the value (None: it could not be seen) and how likely the rule was kept."""

    measure: str
    value: float | None
    sd: float | None
    at_least: float | None
    at_most: float | None
    probability: float | None


@dataclass(frozen=True)
class Followed:
    """What a film of the work says: `step` is up, repeat or back, with what it rests on."""

    step: str
    says: str
    rules: tuple[Kept, ...]

    @property
    def passed(self) -> bool:
        return self.step == "up"


def follow_up(
    passes: Sequence[Pass], measured: Mapping[str, tuple[float, float]], *, missed: int = 0, faults: Sequence[str] = ()
) -> Followed:
    """Hold a film of the work against its pass rule.

    Args:
        measured: value and standard deviation of what was measured, by measure.
        missed: repetitions that were missed.
        faults: names of what the work is to cure and was still found.
    """
    rules = tuple(_kept(one, measured.get(one.measure)) for one in passes)
    lost = [rule for rule in rules if rule.probability is not None and rule.probability <= NOT_KEPT]
    unseen = [rule for rule in rules if rule.probability is None]
    sure = [rule for rule in rules if rule.probability is not None and rule.probability >= KEPT]
    if lost or missed or faults:
        why = [f"{len(lost)} of {len(rules)} rules not kept"] * bool(lost) + [f"{missed} missed"] * bool(missed)
        why += [f"“{name.lower()}” is still there" for name in faults]
        return Followed("back", f"{_sentence(why)}: step back {BACK_PERCENT:g} %.", rules)
    if unseen:
        return Followed("repeat", f"{len(unseen)} of {len(rules)} rules could not be seen in this film: repeat, and film it again.", rules)
    if len(sure) == len(rules):
        done = "Every rule is kept" if rules else "Nothing of what it is to cure was found"
        return Followed("up", f"{done}: step up {STEP_PERCENT:g} %.", rules)
    return Followed("repeat", "It is near the rule, and this film cannot tell on which side: repeat the same load.", rules)


def next_percent(percent: float, step: str, ceiling: float) -> float:
    """The next share of the best after a step up (never above the exercise's ceiling), a repeat, or a step back."""
    moved = percent + STEP_PERCENT if step == "up" else percent - BACK_PERCENT if step == "back" else percent
    return max(min(moved, ceiling), 0.0)


@dataclass(frozen=True)
class Change:
    """A number before and after a block: `word` is changed, not_shown or worse; `by` in its own unit, positive for better."""

    word: str
    before: float
    after: float
    by: float
    sd: float


def changed(before: Sequence[tuple[float, float]], after: Sequence[tuple[float, float]], *, less_is_better: bool) -> Change | None:
    """Whether a number moved from some lifts before to some after, each a value with its standard deviation; None without both.

    What lifts differ by among each other counts as uncertainty of their mean, and so does what each of them is uncertain by.
    """
    if not before or not after:
        return None
    (was, was_sd), (now, now_sd) = _mean(before), _mean(after)
    better = was - now if less_is_better else now - was
    sd = hypot(was_sd, now_sd)
    word = "changed" if better > SHOWN_SD * sd else "worse" if better < -SHOWN_SD * sd else "not_shown"
    return Change(word, was, now, better, sd)


def _mean(values: Sequence[tuple[float, float]]) -> tuple[float, float]:
    count = len(values)
    mean = sum(value for value, _ in values) / count
    own = sqrt(sum(sd**2 for _, sd in values)) / count
    spread = sqrt(sum((value - mean) ** 2 for value, _ in values) / (count - 1) / count) if count > 1 else 0.0
    return mean, max(own, spread)


def _kept(rule: Pass, found: tuple[float, float] | None) -> Kept:
    if found is None:
        return Kept(rule.measure, None, None, rule.at_least, rule.at_most, None)
    value, sd = found
    beyond = value - rule.at_least if rule.at_least is not None else (rule.at_most or 0.0) - value
    probability = float(beyond >= 0) if sd <= 0 else 0.5 * (1 + erf(beyond / sd / sqrt(2)))
    return Kept(rule.measure, value, sd, rule.at_least, rule.at_most, probability)


def _sentence(parts: Sequence[str]) -> str:
    joined = ", ".join(parts)
    return joined[0].upper() + joined[1:]
