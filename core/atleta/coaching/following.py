"""Did it help: a film of the work against its pass rule, the next load, and the number that led to it then and now."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import erf, hypot, sqrt
from statistics import fmean, stdev

from scipy.stats import linregress

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
    passes: Sequence[Pass], measured: Mapping[str, tuple[float, float]], *, missed: int = 0, faults: Sequence[str] = (),
    shows_faults: bool = True,
) -> Followed:  # fmt: skip
    """Hold a film of the work against its pass rule.

    Args:
        measured: value and standard deviation of what was measured, by measure.
        missed: repetitions that were missed.
        faults: names of what the work is to cure and was still found.
        shows_faults: whether this film can show that what the work is to cure is gone.
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
    if not rules and not shows_faults:
        return Followed("repeat", "This film cannot show whether what the work is for is gone: your eye decides.", rules)
    if len(sure) == len(rules):
        done = "Every rule is kept" if rules else "Nothing of what it is to cure was found"
        return Followed("up", f"{done}: step up {STEP_PERCENT:g} %.", rules)
    return Followed("repeat", "It is near the rule, and this film cannot tell on which side: repeat the same load.", rules)


def next_percent(percent: float, step: str, ceiling: float) -> float:
    """The next share of the best after a step up (never above the exercise's ceiling), a repeat, or a step back."""
    moved = percent + STEP_PERCENT if step == "up" else percent - BACK_PERCENT if step == "back" else percent
    return max(min(moved, ceiling), 0.0)


# Loads within this share of each other are alike; and so many different loads make a curve of a number over load.
LIKE_LOADS, CURVE_LOADS = 0.03, 4


@dataclass(frozen=True)
class Filmed:
    """A number of one lift: value, standard deviation, and the load it was lifted with (kg; None where that is not known)."""

    value: float
    sd: float
    load_kg: float | None


@dataclass(frozen=True)
class Change:
    """A number before and after a block: `word` is changed, not_shown, worse, or not_comparable, then without numbers; `by` in its own
    unit, positive for better; `load_kg` the load that both were lifted with, or what is to be filmed again."""

    word: str
    before: float | None = None
    after: float | None = None
    by: float | None = None
    sd: float | None = None
    load_kg: float | None = None
    lifts: tuple[int, int] = (0, 0)


def changed(before: Sequence[Filmed], after: Sequence[Filmed], *, less_is_better: bool, others: Sequence[Filmed] = ()) -> Change | None:
    """Whether a number moved from some lifts before to some after; None without both.

    Only lifts within 3 % of the same load are compared: of the loads that both have the heaviest. Where none is alike, the lifts before are
    carried to the later load along the athlete's own curve over load, which takes four different loads. Otherwise it is not comparable yet,
    and `load_kg` says what to film.

    What lifts differ by among each other counts as uncertainty of their mean, and so does what each is uncertain by. Of a single lift the
    athlete's own scatter stands in.

    Args:
        others: the athlete's lifts of the kind up to the block, from which curve and scatter are known.
    """
    if not before or not after:
        return None
    alike = [(one, two) for one in before for two in after if _alike(one.load_kg, two.load_kg)]
    if alike:
        load = max(two.load_kg for _, two in alike if two.load_kg is not None)
        first = [one for one in before if _alike(one.load_kg, load)]
        then = [one for one in after if _alike(one.load_kg, load)]
    else:
        weighed = [one for one in after if one.load_kg is not None]
        curve = _curve([*before, *others])
        if curve is None or not weighed:
            heaviest = max((one.load_kg for one in before if one.load_kg is not None), default=None)
            return Change("not_comparable", load_kg=heaviest)
        load = max(one.load_kg for one in weighed if one.load_kg is not None)
        then = [one for one in weighed if _alike(one.load_kg, load)]
        slope, sd = curve
        first = [
            Filmed(one.value + slope * (load - one.load_kg), hypot(one.sd, sd * (load - one.load_kg)), load)
            for one in before
            if one.load_kg is not None
        ]
        if not first:
            return Change("not_comparable", load_kg=None)
    scatter = _scatter([one for one in (*others, *before) if _alike(one.load_kg, load)])
    (was, was_sd), (now, now_sd) = _mean(first, scatter), _mean(then, scatter)
    better = was - now if less_is_better else now - was
    sd = hypot(was_sd, now_sd)
    word = "changed" if better > SHOWN_SD * sd else "worse" if better < -SHOWN_SD * sd else "not_shown"
    return Change(word, was, now, better, sd, load, (len(first), len(then)))


def _alike(one: float | None, other: float | None) -> bool:
    return one is not None and other is not None and abs(one - other) <= LIKE_LOADS * max(one, other)


def _curve(lifts: Sequence[Filmed]) -> tuple[float, float] | None:
    """How a number moves with load, per kg, and how well that is known; None from fewer than four different loads."""
    weighed = [(one.load_kg, one.value) for one in lifts if one.load_kg is not None]
    if len({load for load, _ in weighed}) < CURVE_LOADS:
        return None
    line = linregress(*zip(*weighed, strict=True))
    return float(line.slope), float(line.stderr)


def _scatter(lifts: Sequence[Filmed]) -> float:
    """How much an athlete's lifts of one load differ among each other, one standard deviation; 0 where a single one is known."""
    return stdev(one.value for one in lifts) if len(lifts) > 1 else 0.0


def _mean(lifts: Sequence[Filmed], scatter: float) -> tuple[float, float]:
    count = len(lifts)
    mean = fmean(one.value for one in lifts)
    own = sqrt(sum(one.sd**2 for one in lifts)) / count
    spread = _scatter(lifts) if count > 1 else scatter
    return mean, max(own, spread / sqrt(count))


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
