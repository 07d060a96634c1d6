"""The findings of a lift as the document carries them: verdicts in causal order, the chain of causes, what is good; in words."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any

from ..document import rounded
from ..events import Outcome
from ..faults import Catalogue, Evidence, Fault, Finding, Measured, explain, judge, load_schools, longest_chain, taught
from .settings import Settings

# A chain of more links than this is not read.
MOST_LINKS = 5
MOST_GOOD = 3
ORDER = {"seen": 0, "fault": 0, "watch": 1, "cannot_tell": 2, "fine": 3}
MISSED = {"forward": "missed_forward", "behind": "missed_behind", "short": "missed_short"}
WHERE = {"forward": "in front of the lifter", "behind": "behind the lifter", "short": "before the lifter was under it"}


def findings_of(
    kind: str, place: int, measures: dict[str, Any], settings: Settings, outcome: Outcome | None = None, seen_from: str = "side"
) -> tuple[list[dict[str, Any]], dict[str, Any] | None]:
    """The lift's findings, first cause first, and the chain that begins there (None where nothing was found).

    Args:
        place: which lift of the clip it is, counted from 0.
        seen_from: `side` or `front`. What shows from the side is not asked of a clip from the front, which has little else to say.
    """
    catalogue = taught(settings.schools)
    known = {name: Measured(m["value"], m.get("sd", 0.0), m["unit"], m.get("frame"), m.get("reason", "")) for name, m in measures.items()}
    judged = judge(catalogue, kind, known, thresholds=settings.thresholds, stature_m=settings.stature_m)
    # Of a lift in which nothing was held there is nothing to say about a hold, not even that it cannot be told.
    held = "hold_time" in known and known["hold_time"].value is not None
    verdicts = {
        v.fault.id: v for v in judged if (held or v.fault.phase != "hold") and (seen_from == "side" or v.fault.view in (seen_from, "any"))
    }
    missed = MISSED.get(outcome.how, "") if outcome and not outcome.made and settings.made is not True else ""
    # What is only watched is nobody's first cause while a fault stands.
    dismissed, added = ({fault for lift, fault in said if lift == place} for said in (settings.dismissed, settings.added))
    strong = {id for id, v in verdicts.items() if v.level == "fault"} | ({missed} - {""})
    strong = strong - dismissed | added
    found = strong or {id for id, v in verdicts.items() if v.level == "watch"} - dismissed
    fine = {id for id, v in verdicts.items() if v.level == "fine"} | dismissed
    chain = explain(catalogue, found, fine - added)
    rows = [_judged(verdict, known, chain, verdict.fault.id in added) for verdict in verdicts.values()]
    rows += [_plain(catalogue.faults[fault], "seen", "", chain) for fault in sorted(added - set(verdicts))]
    if missed and missed not in added:
        says = f"The bar came down {WHERE[outcome.how]}." if outcome else ""
        says += "" if settings.made is False else " A proposal from its path: say so if the lift was made."
        rows.append(_plain(catalogue.faults[missed], "fault", says, chain))
    for row in rows:
        row["cue"] = _cue(row, verdicts, settings)
        row["schools"] = [_position(question, settings) for question in catalogue.faults[row["fault"]].schools]
    phases = list(catalogue.faults)
    rows.sort(key=lambda row: (ORDER[row["level"]], not row["root"], phases.index(row["fault"])))
    return rows, _story(catalogue, rows, chain, verdicts, found)


def _judged(
    verdict: Finding, known: Mapping[str, Measured], chain: dict[str, tuple[bool, list[str]]], added: bool
) -> dict[str, Any]:  # fmt: skip
    """A measured fault's row; what the coach has seen stands as seen, whatever the number says beside it."""
    fault = verdict.fault
    seen = added and verdict.level not in ("fault", "watch")
    template = fault.good if verdict.level == "fine" else fault.says
    says = template.format(**_told(verdict.evidence)) if verdict.level != "cannot_tell" else f"Cannot tell: {verdict.reason}."
    if verdict.level in ("fault", "watch"):
        says += "".join(f" {one.says.format(**{one.measure: spoken(known[one.measure].value, known[one.measure].unit)})}"
                        for one in verdict.supported)  # fmt: skip
    row = _plain(fault, "seen" if seen else verdict.level, "" if seen else says, chain)
    return row | {
        "probability": None if seen else rounded(verdict.probability, 4),
        "watch_probability": rounded(verdict.watch_probability, 4),
        "evidence": [
            {
                "measure": e.measure, "value": rounded(e.value, 4) if e.value is not None else None, "sd": rounded(e.sd, 4), "unit": e.unit,
                "frame": e.frame, "watch": e.threshold.watch, "fault": e.threshold.fault, "side": "above" if e.above else "below",
            }
            for e in verdict.evidence
        ],
    }  # fmt: skip


def _plain(fault: Fault, level: str, says: str, chain: dict[str, tuple[bool, list[str]]]) -> dict[str, Any]:
    root, explains = chain.get(fault.id, (False, []))
    return {
        "fault": fault.id, "name": fault.name, "phase": fault.phase, "level": level, "probability": None, "root": root,
        "explains": explains, "says": says, "cue": fault.cue, "evidence": [],
    }  # fmt: skip


def _cue(row: dict[str, Any], verdicts: Mapping[str, Finding], settings: Settings) -> str:
    """The fault's cue. Heels that come up though the bar is close to the thigh are pushed down; with a gap, the lifter stays over it."""
    if row["fault"] == "heels_up_early" and "early_heels_cure" not in settings.schools and row["level"] in ("fault", "watch"):
        gap, toes = (verdicts[name].level if name in verdicts else "" for name in ("bar_left_in_front", "weight_on_toes"))
        cure = "stay_over" if gap in ("fault", "watch") else "push_heel" if gap == "fine" and toes in ("fault", "watch") else ""
        if cure:
            return str(load_schools()["early_heels_cure"].position(cure).changes["cue"]["heels_up_early"])
    return str(row["cue"])


def _position(question: str, settings: Settings) -> dict[str, str]:
    school = load_schools()[question]
    return {"question": question, "asks": school.asks, "says": school.position(settings.schools[question]).says}


def _story(
    catalogue: Catalogue, rows: Sequence[dict[str, Any]], chain: dict[str, tuple[bool, list[str]]], verdicts: Mapping[str, Finding],
    found: Collection[str],
) -> dict[str, Any] | None:  # fmt: skip
    """The first cause and what followed from it, link by link, in one sentence built from the numbers."""
    root = next((row["fault"] for row in rows if row["root"] and row["fault"] in found), None)
    if root is None:
        return None
    faults = longest_chain(catalogue, root, chain)[:MOST_LINKS]
    links = [_link(catalogue.faults[fault], verdicts.get(fault)) for fault in faults]
    says = " → ".join(links)
    return {"faults": faults, "says": says[0].upper() + says[1:] + "."}


def _link(fault: Fault, verdict: Finding | None) -> str:
    """A fault as one link: by the condition that tells most, or by its name where the coach saw it."""
    if verdict is None or verdict.level not in ("fault", "watch"):
        return fault.name.lower()
    linked = [(e, c.link) for e, c in zip(verdict.evidence, fault.conditions, strict=True) if c.link and e.value is not None]
    _, link = max(linked, key=lambda pair: -_inside(pair[0].value, pair[0].threshold.watch, pair[0].threshold.fault),
                  default=(None, fault.name.lower()))  # fmt: skip
    return link.format(**_told(verdict.evidence))


def _inside(value: float | None, watch: float, fault: float) -> float:
    """How far inside its limits a known value lies, in distances from watch to fault; negative is beyond watch."""
    assert value is not None
    return (watch - value) / (fault - watch)


def good_points(findings: Sequence[dict[str, Any]], matters: Collection[str] = ()) -> list[str]:
    """Faults whose absence deserves to be said, best first: well inside every limit, by measures that nothing else speaks against; those
    that this lifter was told of before lead, and then one of each part of the lift."""
    margins = {}
    # Hips that start too high are not praised for not being too low.
    against = {e["measure"] for row in findings if row["level"] in ("watch", "fault") for e in row["evidence"]}
    for row in findings:
        measures = {e["measure"] for e in row["evidence"]}
        if row["level"] == "fine" and not measures & against and all(e["value"] is not None for e in row["evidence"]):
            margins[row["fault"]] = min(_inside(e["value"], e["watch"], e["fault"]) for e in row["evidence"])
    phase = {row["fault"]: row["phase"] for row in findings}
    good = sorted((id for id, margin in margins.items() if margin >= 1), key=lambda id: (id not in matters, -margins[id]))
    told: list[str] = []
    for fault in good:
        if fault in matters or phase[fault] not in {phase[one] for one in told}:
            told.append(fault)
    return told[:MOST_GOOD]


class Spoken(str):
    """A measure inside a sentence, with its unit. The format `abs` leaves out its sign, which the words then tell; a format of two words,
    `forward|back`, says the second instead of a minus, and else the first."""

    def __format__(self, spec: str) -> str:
        if not spec:
            return str(self)
        size = self.lstrip("−")
        if spec == "abs":
            return size
        forth, back = spec.split("|")
        return f"{size} {back if self.startswith('−') else forth}" if size[:1].isdigit() else size


def _told(evidence: Sequence[Evidence]) -> dict[str, Spoken]:
    return {e.measure: spoken(e.value, e.unit) for e in evidence}


def spoken(value: float | None, unit: str) -> Spoken:
    """A measure inside a sentence: the digits that its unit deserves, and the unit."""
    if value is None:
        return Spoken("unknown")
    if unit == "foot":
        return Spoken("front foot" if value > 0 else "back foot")
    digits = {"cm": 1, "m/s": 2, "m": 2, "s": 2, "–": 2, "%": 0, "ms": 0, "W": 0, "dB": 0, "count": 0, "spreads": 1}.get(unit, 1)
    # z: nothing is said to be less than zero by nothing.
    number = f"{value:z.{digits}f}".replace("-", "−")
    return Spoken(number if unit in ("–", "count", "spreads") else f"{number}°" if unit == "°" else f"{number} {unit}")
