"""Judge a lift's measures by the catalogue: how likely each fault is, given how well its numbers are known."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import erf, sqrt

from .catalogue import PHASES, Catalogue, Condition, Fault, Support, Threshold

# How sure a fault must be to be called one, and what is watched: among dozens of rules most are kept in any one lift, so what is only
# more likely than not would be wrong too often.
FAULT_SURE, WATCH_SURE = 0.7, 0.5
# And how sure what is known less well than its limits are apart: two deviations.
PLAIN = 0.975


@dataclass(frozen=True)
class Measured:
    """A measure as the engine needs it: value, standard deviation, unit and the frame that shows it; value None means unknown."""

    value: float | None
    sd: float
    unit: str
    frame: int | None
    reason: str = ""


UNMEASURED = Measured(None, 0.0, "", None, "it was not measured")


@dataclass(frozen=True)
class Evidence:
    """One condition's measure against its thresholds, as the judgement saw it."""

    condition: Condition
    measure: str
    value: float | None
    sd: float
    unit: str
    frame: int | None
    threshold: Threshold
    above: bool

    @property
    def beyond(self) -> float:
        """How far beyond the watch threshold a known value lies, in distances from watch to fault; negative is inside."""
        assert self.value is not None
        return (self.value - self.threshold.watch) / (self.threshold.fault - self.threshold.watch)


@dataclass(frozen=True)
class Finding:
    """A fault's verdict on one lift: `probability` that the true value is beyond the fault threshold, `watch_probability` beyond watch."""

    fault: Fault
    level: str
    probability: float
    watch_probability: float
    evidence: tuple[Evidence, ...]
    reason: str
    """Why it cannot be told, when it cannot."""
    supported: tuple[Support, ...] = ()
    """What was seen or heard with it, and makes it likelier than its conditions alone."""

    @property
    def strongest(self) -> Evidence | None:
        """The condition that tells most: the one furthest beyond its limits; None where nothing is known."""
        known = [one for one in self.evidence if one.value is not None]
        return max(known, key=lambda one: one.beyond, default=None)

    @property
    def phase(self) -> str:
        """When in the lift it happens: by the earliest of its conditions that is beyond its limits."""
        when = [one.condition.phase or self.fault.phase for one in self.evidence if one.value is not None and one.beyond >= 0]
        return min(when, key=PHASES.index, default=self.fault.phase)


def judge(
    catalogue: Catalogue,
    kind: str,
    measures: Mapping[str, Measured],
    *,
    thresholds: Mapping[tuple[str, str], Threshold] | None = None,
    stature_m: float | None = None,
) -> list[Finding]:
    """Every measured fault's verdict on a lift of this kind, in the order of the lift.

    A missing measure never fires a rule, nor clears it; neither does one whose uncertainty is wider than the distance between watch and
    fault, but for one that lies plainly beyond the fault or short of the watch. Unless the rule's other conditions settle it, both give
    `cannot_tell` with the reason.

    Args:
        thresholds: the coach's own, by (fault id, measure id); where absent the catalogue's stand.
        stature_m: of the lifter, for limits that grow with it.
    """
    return [
        _judge(fault, kind, measures, thresholds or {}, stature_m)
        for fault in catalogue.faults.values()
        if not fault.off and kind in fault.kinds and fault.asked(kind)
    ]


def _judge(
    fault: Fault, kind: str, measures: Mapping[str, Measured], own: Mapping[tuple[str, str], Threshold], stature_m: float | None
) -> Finding:
    evidence, reasons = [], []
    watch, beyond = [], []
    for condition in fault.asked(kind):
        threshold = condition.threshold(kind, stature_m)
        mine = own.get((fault.id, condition.measure), threshold)
        # Of two limits of one number, on either side, a coach's own is the one on its side.
        threshold = mine if (mine.fault > mine.watch) is condition.above else threshold
        measured = measures.get(condition.measure, UNMEASURED)
        evidence.append(
            Evidence(
                condition,
                condition.measure,
                measured.value,
                measured.sd,
                measured.unit,
                measured.frame,
                threshold,
                condition.above,
            )
        )
        counts = _counts(condition, measures)
        if counts == 0:
            # Nothing that the measure could be would make this condition hold.
            watch.append(0.0)
            beyond.append(0.0)
            continue
        if measured.value is None or counts is None:
            asked = measured if measured.value is None or condition.where is None else measures.get(condition.where[0], UNMEASURED)
            reasons.append(asked.reason)
            continue
        if measured.sd > abs(threshold.fault - threshold.watch) and not _plain(measured, threshold, condition):
            reasons.append("the uncertainty of its number is wider than the distance between watch and fault")
            continue
        watch.append(counts * _passes(measured, threshold.watch, condition))
        beyond.append(counts * _passes(measured, threshold.fault, condition))
    combine = _all if fault.needs_all else _any
    p_fault, p_watch = (combine(beyond), combine(watch)) if watch else (0.0, 0.0)
    if reasons and not (watch and _settled(fault, p_watch)):
        return Finding(fault, "cannot_tell", 0.0, 0.0, tuple(evidence), reasons[0])
    # What supports a fault makes it likelier where its own number shows it, and is nothing alone.
    for support in fault.supported if p_watch >= WATCH_SURE else ():
        times = 1 + (support.odds - 1) * _there(support, measures)
        p_fault, p_watch = (p * times / (1 + p * (times - 1)) for p in (p_fault, p_watch))
    level = "fault" if p_fault >= FAULT_SURE and not fault.remark else "watch" if p_watch >= WATCH_SURE else "fine"
    return Finding(
        fault, level, p_fault, p_watch, tuple(evidence), "", tuple(one for one in fault.supported if _there(one, measures) > 0.5)
    )


def _counts(condition: Condition, measures: Mapping[str, Measured]) -> float | None:
    """How likely it is that a condition counts at all; None where that is not known."""
    if condition.where is None:
        return 1.0
    name, least = condition.where
    asked = measures.get(name, UNMEASURED)
    return None if asked.value is None else _beyond(asked.value - least, asked.sd)


def _there(support: Support, measures: Mapping[str, Measured]) -> float:
    """How likely it is that what supports a fault is there; what is not known supports nothing."""
    asked = measures.get(support.measure, UNMEASURED)
    return 0.0 if asked.value is None else _beyond(asked.value - support.least, asked.sd)


def _settled(fault: Fault, p_watch: float) -> bool:
    """Whether the conditions that are known settle a rule, whatever the others say: one that holds where any does, one that does not
    where all must."""
    return (p_watch < WATCH_SURE) if fault.needs_all else (p_watch >= WATCH_SURE)


def _passes(measured: Measured, threshold: float, condition: Condition) -> float:
    """Probability that the true value lies beyond the threshold, the measured value being normal about it."""
    assert measured.value is not None
    return _beyond(measured.value - threshold if condition.above else threshold - measured.value, measured.sd)


def _plain(measured: Measured, threshold: Threshold, condition: Condition) -> bool:
    """Whether a number lies beyond the fault, or short of the watch, by so much that its uncertainty leaves no doubt of it."""
    return _passes(measured, threshold.fault, condition) >= PLAIN or _passes(measured, threshold.watch, condition) <= 1 - PLAIN


def _beyond(over: float, sd: float) -> float:
    """Probability that what is told to lie so far beyond a limit truly does."""
    return 0.5 * (1 + erf(over / sd / sqrt(2))) if sd > 0 else float(over > 0)


def _all(chances: list[float]) -> float:
    """Conditions of one rule read the same moment of the same track: they stand or fall together, so the weakest decides."""
    return min(chances)


def _any(chances: list[float]) -> float:
    return max(chances)
