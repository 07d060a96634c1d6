"""The findings of a lift as the document carries them: verdicts in causal order, the chain of causes, the headline, what was good."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from typing import Any

from ..document import rounded
from ..events import Outcome
from ..faults import Catalogue, Causes, Condition, Evidence, Fault, Finding, Measured, Present, explain, judge, load_schools, taught
from ..measures import declarations
from .settings import Settings

# A chain of more links than this is not read.
MOST_LINKS = 5
MOST_GOOD = 2
ORDER = {"seen": 0, "fault": 0, "watch": 1, "cannot_tell": 2, "fine": 3}
MISSED = {"forward": "missed_forward", "behind": "missed_behind", "short": "missed_short"}
WHERE = {"forward": "in front", "behind": "behind the lifter", "short": "before the lifter was under it"}


def findings_of(
    kind: str, place: int, measures: Mapping[str, Any], settings: Settings, outcome: Outcome | None = None, seen_from: str = "side"
) -> dict[str, Any]:
    """What the document says of a lift: `findings`, first cause first; `story`, the chain that begins there (None where no fault was
    found); and `verdict`, the headline with how many checks were possible.

    Args:
        place: which lift of the clip it is, counted from 0.
        seen_from: `side` or `front`. What shows from the side is not asked of a clip from the front, which has little else to say.
    """
    catalogue = taught(settings.schools, settings.own_faults, settings.wordings)
    known = {name: Measured(m["value"], m.get("sd", 0.0), m["unit"], m.get("frame"), m.get("reason", "")) for name, m in measures.items()}
    judged = judge(catalogue, kind, known, thresholds=settings.thresholds, stature_m=settings.stature_m)
    # Of a lift in which nothing was held there is nothing to say about a hold, not even that it cannot be told.
    held = "hold_time" in known and known["hold_time"].value is not None
    verdicts = {
        v.fault.id: v for v in judged if (held or v.fault.phase != "hold") and (seen_from == "side" or v.fault.view in (seen_from, "any"))
    }
    missed = MISSED.get(outcome.how, "") if outcome and not outcome.made and settings.made is not True else ""
    dismissed, added = (
        {fault for lift, fault in said if lift == place and fault in catalogue.faults} for said in (settings.dismissed, settings.added)
    )
    present = _present(verdicts, (({missed} - {""}) | added) - (dismissed - added), dismissed - added)
    causes = explain(catalogue, present)
    rows = [_judged(verdict, known, verdict.fault.id in added) for verdict in verdicts.values()]
    rows += [_plain(catalogue.faults[fault], "seen", "") for fault in sorted(added - set(verdicts))]
    if missed and missed not in added:
        says = f"The bar came down {WHERE[outcome.how]}." if outcome else ""
        says += "" if settings.made is False else " Read from its path: say so if the lift was made."
        rows.append(_plain(catalogue.faults[missed], "fault", says))
    for row in rows:
        fault = row["fault"]
        row |= {
            "root": fault in causes.roots, "separate": fault in causes.roots[1:], "link": fault in causes.links,
            "explains": list(causes.explains.get(fault, ())), "cue": _cue(row, verdicts, settings),
            "schools": [_position(question, settings) for question in catalogue.faults[fault].schools],
        }  # fmt: skip
    order = list(catalogue.faults)
    rows.sort(
        key=lambda row: (
            ORDER[row["level"]], not row["root"], causes.roots.index(row["fault"]) if row["root"] else 0, order.index(row["fault"])
        )
    )  # fmt: skip
    story = _story(catalogue, causes, verdicts, known)
    return {"findings": rows, "story": story, "verdict": _verdict(rows, causes)}


def _present(verdicts: Mapping[str, Finding], seen: Collection[str], dismissed: Collection[str]) -> Present:
    """What stands of a lift: what was found, with what the coach has seen, without what the coach has ruled out."""

    def at(level: str) -> frozenset[str]:
        return frozenset(id for id, v in verdicts.items() if v.level == level and id not in dismissed and id not in seen)

    found = [v for v in verdicts.values() if v.level in ("fault", "watch")]
    return Present(
        faults=at("fault") | frozenset(seen),
        watches=at("watch"),
        unknown=at("cannot_tell"),
        phases={v.fault.id: v.phase for v in found},
        frames={v.fault.id: v.strongest.frame for v in found if v.strongest and v.strongest.frame is not None},
    )


def _judged(verdict: Finding, known: Mapping[str, Measured], added: bool) -> dict[str, Any]:
    """A measured fault's row; what the coach has seen stands as seen, whatever the number says beside it."""
    fault = verdict.fault
    seen = added and verdict.level not in ("fault", "watch")
    if verdict.level == "cannot_tell":
        says = f"Can't tell from this film: {verdict.reason}."
    elif verdict.level == "fine":
        says = fault.good
    else:
        says = _sentence(verdict, known) + "".join(f" · {one.says}" for one in verdict.supported)
    strongest = verdict.strongest
    evidence = sorted(verdict.evidence, key=lambda one: one is not strongest) if not fault.needs_all else verdict.evidence
    row = _plain(fault, "seen" if seen else verdict.level, "" if seen else says)
    return row | {
        "reason": verdict.reason,
        "probability": None if seen else rounded(verdict.probability, 4),
        "watch_probability": rounded(verdict.watch_probability, 4),
        "evidence": [
            {
                "measure": e.measure, "value": rounded(e.value, 4) if e.value is not None else None, "sd": rounded(e.sd, 4), "unit": e.unit,
                "frame": e.frame, "watch": e.threshold.watch, "fault": e.threshold.fault, "side": "above" if e.above else "below",
            }
            for e in evidence
        ],
    }  # fmt: skip


def _plain(fault: Fault, level: str, says: str) -> dict[str, Any]:
    return {
        "fault": fault.id, "name": fault.name, "phase": fault.phase, "level": level, "probability": None, "says": says or fault.coach,
        "athlete": fault.athlete, "why": fault.why, "cue": fault.cue, "praise": fault.praise, "measured": fault.measured, "evidence": [],
    }  # fmt: skip


def _cue(row: dict[str, Any], verdicts: Mapping[str, Finding], settings: Settings) -> str:
    """The fault's cue. Heels that come up though the bar is close to the thigh are pushed down; with a gap, the lifter stays over it."""
    own = settings.wordings.get(row["fault"])
    if row["fault"] == "heels_up_early" and "early_heels_cure" not in settings.schools and row["level"] in ("fault", "watch"):
        gap, toes = (verdicts[name].level if name in verdicts else "" for name in ("bar_left_in_front", "weight_on_toes"))
        cure = "stay_over" if gap in ("fault", "watch") else "push_heel" if gap == "fine" and toes in ("fault", "watch") else ""
        if cure and not (own and own.cue):
            return str(load_schools()["early_heels_cure"].position(cure).changes["cue"]["heels_up_early"])
    return str(row["cue"])


def _position(question: str, settings: Settings) -> dict[str, str]:
    school = load_schools()[question]
    return {"question": question, "asks": school.asks, "says": school.position(settings.schools[question]).says}


# -- the chain and the headline -------------------------------------------------------------------------------------------


def _story(catalogue: Catalogue, causes: Causes, verdicts: Mapping[str, Finding], known: Mapping[str, Measured]) -> dict[str, Any] | None:
    """The first cause and what followed from it, link by link, in one sentence built from the numbers."""
    if not causes.roots:
        return None
    faults = causes.chain(catalogue, causes.roots[0])[:MOST_LINKS]
    says = " → ".join(_link(catalogue.faults[fault], verdicts.get(fault), known) for fault in faults)
    return {"faults": faults, "says": says[0].upper() + says[1:] + "."}


def _link(fault: Fault, verdict: Finding | None, known: Mapping[str, Measured]) -> str:
    """A fault as one link: by the condition that tells most, or by its name where the coach saw it."""
    if verdict is None or verdict.level not in ("fault", "watch"):
        return fault.name.lower()
    told = _told(verdict)
    return (_filled(told.condition.link, told, known) if told else "") or fault.name.lower()


def _verdict(rows: Sequence[dict[str, Any]], causes: Causes) -> dict[str, Any]:
    """The headline, and how many checks this film does not allow, with the reasons by how many checks each stands for."""
    checks = [row for row in rows if row["measured"]]
    reasons = Counter(row["reason"] for row in checks if row["level"] == "cannot_tell")
    unable = reasons.total()
    watched = [row for row in rows if row["level"] == "watch" and not row["link"]]
    if causes.roots:
        headline = next(row["says"] for row in rows if row["fault"] == causes.roots[0])
    elif not checks or unable == len(checks):
        headline = "Nothing could be checked from this film."
    else:
        headline = "No fault found" + (f" · {unable} of {len(checks)} checks not possible from this film" if unable else "")
        headline += f" · keep an eye on: {watched[0]['name'].lower()}" if watched else ""
    return {
        "headline": headline, "checks": len(checks), "not_possible": unable,
        "why": [{"reason": reason, "checks": count} for reason, count in reasons.most_common()],
    }  # fmt: skip


# -- praise ---------------------------------------------------------------------------------------------------------------


def good_points(
    findings: Sequence[dict[str, Any]], matters: Collection[str], *, better: Collection[str] = (), known: bool = True
) -> list[str]:
    """Faults whose absence deserves to be said, at most two: those that this athlete worked on or had wrong before lead, then what was
    better than their band.

    Well inside every limit, by measures that nothing else speaks against: hips that start too high are not praised for not being too low.

    Args:
        matters: faults that the athlete worked on, or had wrong before.
        better: faults whose numbers are better than usual for this athlete.
        known: whether enough of the athlete's lifts are known to tell. Of a newcomer what is plainly good, and takes work, is said.
    """
    against = {e["measure"] for row in findings if row["level"] in ("watch", "fault") for e in row["evidence"]}
    margins = {}
    for row in findings:
        measures = {e["measure"] for e in row["evidence"] if e["value"] is not None}
        if row["level"] == "fine" and measures and not measures & against:
            margins[row["fault"]] = min(
                (e["watch"] - e["value"]) / (e["fault"] - e["watch"]) for e in row["evidence"] if e["value"] is not None
            )
    worth = {row["fault"]: row["praise"] for row in findings}
    phase = {row["fault"]: row["phase"] for row in findings}
    good = [id for id, margin in margins.items() if id in matters or ((id in better or not known) and worth[id] and margin >= 1)]
    good.sort(key=lambda id: (id not in matters, id not in better, -margins[id]))
    told: list[str] = []
    for fault in good:
        if fault in matters or phase[fault] not in {phase[one] for one in told}:
            told.append(fault)
    return told[:MOST_GOOD]


# -- the catalogue as data ------------------------------------------------------------------------------------------------


def fault_as_data(fault: Fault) -> dict[str, Any]:
    """A fault as plain data: the sentence for the coach with the places of its numbers, `{measure}`, and its usual target."""
    units = {one.id: one.unit for one in declarations()}
    coach = fault.coach
    if fault.conditions:
        first = fault.conditions[0]
        number = first.number or f"{{{first.measure}:abs}}"
        # What is judged by a share and said in another measure has its target in the athlete's own lengths.
        aim = _aim_of(first, first.usual.watch, units[first.measure]) if not first.shown else "by the athlete's own build"
        coach = f"{coach} · {number} · aim {aim}"
    return {
        "id": fault.id, "name": fault.name, "phase": fault.phase, "coach": coach, "athlete": fault.athlete, "cue": fault.cue,
        "why": fault.why, "good": fault.good, "praise": fault.praise, "kinds": list(fault.kinds), "view": fault.view,
        "drills": list(fault.drills), "measured": fault.measured, "measures": [one.measure for one in fault.conditions],
    }  # fmt: skip


# -- numbers in sentences -------------------------------------------------------------------------------------------------


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


class _Numbers(dict[str, Spoken]):
    def __missing__(self, measure: str) -> Spoken:
        return Spoken("unknown")


def _sentence(verdict: Finding, known: Mapping[str, Measured]) -> str:
    """The point, its number and its target: "Bar swings forward off the floor · 3.9 cm · aim under 1 cm"."""
    told = _told(verdict)
    if told is None:
        return verdict.fault.coach
    number = _filled(told.condition.number or f"{{{told.measure}:abs}}", told, known)
    if "unknown" in number:
        number = f"{spoken(told.value, told.unit):abs}"
    return f"{verdict.fault.coach} · {number} · aim {_aim(told, known)}"


def _told(verdict: Finding) -> Evidence | None:
    """The condition whose number is said: where all must hold the first, else the one furthest beyond its limits."""
    known = [one for one in verdict.evidence if one.value is not None]
    return next(iter(known), None) if verdict.fault.needs_all else verdict.strongest


def _filled(template: str, told: Evidence, known: Mapping[str, Measured]) -> str:
    numbers = {name: spoken(m.value, m.unit) for name, m in known.items()}
    # A number that would read like its own target is said one digit finer.
    like_target = spoken(told.value, told.unit) == spoken(told.threshold.watch, told.unit)
    return template.format_map(_Numbers(numbers | {told.measure: spoken(told.value, told.unit, finer=int(like_target))}))


def _aim(told: Evidence, known: Mapping[str, Measured]) -> str:
    """The target: the watch threshold with its direction, on the measure that is said."""
    limit, unit = told.threshold.watch, told.unit
    shown = known.get(told.condition.shown)
    if shown and shown.value is not None and told.value:
        limit, unit = limit * shown.value / told.value, shown.unit
    return _aim_of(told.condition, limit, unit)


def _aim_of(condition: Condition, limit: float, unit: str) -> str:
    said = target(limit, unit)
    return condition.aim.format(limit=said) if condition.aim else f"{'under' if condition.above or limit <= 0 else 'over'} {said}"


def target(limit: float, unit: str) -> str:
    """A limit in words, without a sign and without digits that say nothing: 1 cm, 0.04 s."""
    said = spoken(abs(limit), unit)
    return re.sub(r"\.?0+(?=[ °]|$)", "", said) if "." in said else str(said)


DIGITS = {"m/s": 2, "m": 2, "s": 2, "–": 2, "spreads": 1}


def spoken(value: float | None, unit: str, finer: int = 0) -> Spoken:
    """A measure inside a sentence as a coach says it: the digits that its unit deserves, or so many more, and the unit; milliseconds as
    seconds."""
    if value is None:
        return Spoken("unknown")
    if unit == "foot":
        return Spoken("front foot" if value > 0 else "back foot")
    if unit == "ms":
        value, unit = value / 1000, "s"
    # A millimetre matters in what is a few centimetres, and not in what is many.
    digits = finer + ((1 if abs(value) < 9.95 else 0) if unit == "cm" else DIGITS.get(unit, 0))
    # z: nothing is said to be less than zero by nothing.
    number = f"{value:z.{digits}f}".replace("-", "−")
    return Spoken(number if unit in ("–", "count", "spreads") else f"{number}°" if unit == "°" else f"{number} {unit}")
