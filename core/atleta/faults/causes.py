"""Which finding is the first cause, and what it explains."""

from __future__ import annotations

from collections.abc import Collection

from .catalogue import PHASES, Catalogue


def explain(catalogue: Catalogue, present: Collection[str], fine: Collection[str]) -> dict[str, tuple[bool, list[str]]]:
    """For every present fault: whether it is a root, and the present faults it explains, nearest first.

    A cause reaches an effect through links that are present or that nobody could judge; a link judged fine breaks the chain.

    Args:
        present: ids of faults found (by measure or by the coach) and not dismissed.
        fine: ids of faults that were judged and found absent, or dismissed.
    """
    explained = {fault: _reached(catalogue, fault, set(present), set(fine)) for fault in present}
    result: dict[str, tuple[bool, list[str]]] = {}
    for fault in sorted(present, key=lambda one: PHASES.index(catalogue.faults[one].phase)):
        has_parent = any(fault in below and other != fault for other, below in explained.items())
        result[fault] = (not has_parent, explained[fault])
    return result


def longest_chain(catalogue: Catalogue, root: str, explained: dict[str, tuple[bool, list[str]]]) -> list[str]:
    """The longest line of present faults that begins at a root, each explaining the next; of equally long ones the first in the lift.

    Args:
        explained: what `explain` told of every present fault.
    """
    best: dict[str, list[str]] = {}

    def line_from(fault: str, above: frozenset[str]) -> list[str]:
        if fault not in best:
            below = [one for one in explained[fault][1] if one not in above]
            lines = [line_from(one, above | {fault}) for one in sorted(below, key=list(catalogue.faults).index)]
            best[fault] = [fault, *max(lines, key=len, default=[])]
        return best[fault]

    return line_from(root, frozenset())


def _reached(catalogue: Catalogue, start: str, present: set[str], fine: set[str]) -> list[str]:
    seen, queue, found = {start}, [start], []
    while queue:
        for effect in catalogue.effects.get(queue.pop(0), ()):
            if effect in seen or effect in fine:
                continue
            seen.add(effect)
            queue.append(effect)
            if effect in present:
                found.append(effect)
    return found
