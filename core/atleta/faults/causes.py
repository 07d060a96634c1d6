"""Which fault is the first cause, what it explains, and which watches are links between faults."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field

from .catalogue import EITHER_WAY, PHASES, Catalogue


@dataclass(frozen=True)
class Present:
    """What was found in a lift and not ruled out.

    Args:
        faults: ids of faults, by measure or by the coach's eye.
        watches: ids of what is only watched.
        unknown: ids of faults that this film cannot tell: a chain may pass through them.
        phases: when each happens, where that is not when its fault usually does.
        frames: the frame that shows each; decides between two that may each lead to the other.
    """

    faults: frozenset[str]
    watches: frozenset[str] = frozenset()
    unknown: frozenset[str] = frozenset()
    phases: Mapping[str, str] = field(default_factory=dict)
    frames: Mapping[str, int] = field(default_factory=dict)


@dataclass(frozen=True)
class Causes:
    """The chains of a lift: `roots` with the one to fix first in front, the rest separate issues; what each fault or link `explains`,
    nearest first; and the watches that are `links` between two faults."""

    roots: tuple[str, ...]
    explains: Mapping[str, tuple[str, ...]]
    links: frozenset[str]

    def chain(self, catalogue: Catalogue, root: str) -> list[str]:
        """The line that begins at a root, each explaining the next, with the most faults of technique in it; of equal ones that which goes
        furthest in the lift."""
        order = list(catalogue.faults)
        best: dict[str, list[str]] = {}

        def worth(line: list[str]) -> tuple[int, int, int]:
            technique = sum(one not in self.links and not catalogue.faults[one].result for one in line)
            return technique, len(line), order.index(line[-1]) if line else -1

        def line_from(fault: str) -> list[str]:
            if fault not in best:
                best[fault] = [fault, *max((line_from(one) for one in self.explains.get(fault, ())), key=worth, default=[])]
            return best[fault]

        return line_from(root)


def explain(catalogue: Catalogue, present: Present) -> Causes:
    """The first cause of a lift and what follows from it.

    A cause reaches an effect through what is present or cannot be told; what was judged fine, or ruled out, breaks the chain. Only a fault
    is a root. A watch is a link where it stands between two faults, and no part of a chain otherwise. No link runs against time.
    """
    order = list(catalogue.faults)
    everything = present.faults | present.watches
    below = {one: _reached(catalogue, present, one) for one in everything}
    links = frozenset(
        watch
        for watch in present.watches
        if any(one in present.faults for one in below[watch]) and any(watch in below[fault] for fault in present.faults)
    )
    shown = present.faults | links
    explains = {one: tuple(effect for effect in below[one] if effect in shown) for one in sorted(shown, key=order.index)}
    caused = {effect for fault in present.faults for effect in explains[fault]}
    roots = sorted(
        present.faults - caused,
        key=lambda one: (catalogue.faults[one].result, PHASES.index(_phase(catalogue, present, one)), order.index(one)),
    )
    return Causes(tuple(roots), explains, links)


def edges(catalogue: Catalogue) -> Sequence[tuple[str, str]]:
    """Every link of the cause graph, in the order of the lift."""
    return [(cause, effect) for cause in catalogue.faults for effect in catalogue.effects.get(cause, ())]


def _reached(catalogue: Catalogue, present: Present, start: str) -> list[str]:
    """What a fault may have led to, nearest first."""
    through: Collection[str] = present.faults | present.watches | present.unknown
    seen, queue, found = {start}, [start], []
    while queue:
        cause = queue.pop(0)
        for effect in catalogue.effects.get(cause, ()):
            if effect in seen or effect not in through or not _in_time(catalogue, present, cause, effect):
                continue
            seen.add(effect)
            queue.append(effect)
            if effect not in present.unknown:
                found.append(effect)
    return found


def _in_time(catalogue: Catalogue, present: Present, cause: str, effect: str) -> bool:
    """Whether a cause is no later than its effect."""
    if {cause, effect} == EITHER_WAY:
        first, then = present.frames.get(cause), present.frames.get(effect)
        # Where no frame tells, hips that rise first are the cause.
        earlier = first < then if first is not None and then is not None and first != then else cause == "hips_rise_first"
        return earlier
    return PHASES.index(_phase(catalogue, present, cause)) <= PHASES.index(_phase(catalogue, present, effect))


def _phase(catalogue: Catalogue, present: Present, fault: str) -> str:
    return present.phases.get(fault, catalogue.faults[fault].phase)
