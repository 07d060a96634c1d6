"""The findings of a lift as the document carries them: verdicts in causal order, in words."""

from __future__ import annotations

from typing import Any

from ..document import rounded
from ..faults import explain, judge, load_catalogue
from ..faults.engine import Finding, Measured
from .settings import Settings


def findings_of(kind: str, measures: dict[str, Any], settings: Settings) -> list[dict[str, Any]]:
    catalogue = load_catalogue()
    known = {name: Measured(m["value"], m.get("sd", 0.0), m["unit"], m.get("frame"), m.get("reason", "")) for name, m in measures.items()}
    verdicts = judge(catalogue, kind, known, thresholds=settings.thresholds, stature_m=settings.stature_m)
    # What is only watched is nobody's first cause while a fault stands.
    strong = {v.fault.id for v in verdicts if v.level == "fault"} - settings.dismissed | settings.added
    found = strong or {v.fault.id for v in verdicts if v.level == "watch"} - settings.dismissed
    fine = {v.fault.id for v in verdicts if v.level == "fine"} | settings.dismissed
    chain = explain(catalogue, found, fine - settings.added)
    rows = [_finding_row(verdict, chain, verdict.fault.id in settings.added) for verdict in verdicts]
    judged = {row["fault"] for row in rows}
    for fault in sorted(settings.added - judged):
        root, explains = chain[fault]
        rows.append(
            {"fault": fault, "name": catalogue.faults[fault].name, "phase": catalogue.faults[fault].phase, "level": "seen",
             "probability": None,
             "root": root, "explains": explains, "says": "", "cue": catalogue.faults[fault].cue, "evidence": []}
        )  # fmt: skip
    order = {"seen": 0, "fault": 0, "watch": 1, "cannot_tell": 2, "fine": 3}
    phases = list(catalogue.faults)
    return sorted(rows, key=lambda row: (order[row["level"]], not row["root"], phases.index(row["fault"])))


def _finding_row(verdict: Finding, chain: dict[str, tuple[bool, list[str]]], added: bool) -> dict[str, Any]:
    """A measured fault's row; what the coach has seen stands as seen, whatever the number says beside it."""
    fault = verdict.fault
    seen = added and verdict.level not in ("fault", "watch")
    root, explains = chain.get(fault.id, (False, []))
    told = {e.measure: spoken(e.value, e.unit) for e in verdict.evidence}
    template = fault.good if verdict.level == "fine" else fault.says
    says = template.format(**told) if verdict.level != "cannot_tell" else f"Cannot tell: {verdict.reason}."
    return {
        "fault": fault.id,
        "name": fault.name,
        "phase": fault.phase,
        "level": "seen" if seen else verdict.level,
        "probability": None if seen else rounded(verdict.probability, 4),
        "watch_probability": rounded(verdict.watch_probability, 4),
        "root": root,
        "explains": explains,
        "says": "" if seen else says,
        "cue": fault.cue,
        "evidence": [
            {
                "measure": e.measure, "value": rounded(e.value, 4) if e.value is not None else None, "sd": rounded(e.sd, 4), "unit": e.unit,
                "frame": e.frame, "watch": e.threshold.watch, "fault": e.threshold.fault, "side": "above" if e.above else "below",
            }
            for e in verdict.evidence
        ],
    }  # fmt: skip


def spoken(value: float | None, unit: str) -> str:
    """A measure inside a sentence: the digits that its unit deserves, and the unit."""
    if value is None:
        return "unknown"
    digits = {"cm": 1, "m/s": 2, "m": 2, "s": 2, "–": 2, "%": 0, "W": 0, "count": 0}.get(unit, 1)
    return f"{value:.{digits}f}".replace("-", "−") + ("" if unit in ("–", "count") else f" {unit}")
