"""Enter what was done and what hurt, once each; what of it gates the work; the log as a file and back."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from datetime import date, timedelta
from typing import Any
from uuid import uuid5

from django.db import transaction
from django.db.models import Count, Exists, Max, OuterRef, Q, QuerySet
from django.utils import timezone

from atleta.analysis import spoken
from atleta.coaching import CONTACT_SITES, Gates, filmed_as
from atleta.coaching.gates import REST_CONTACT, STOP
from atleta.coaching.loading import POUND_KG
from atleta_site.refusals import Refused
from clips.models import Clip
from people.models import Athlete
from plans.blocks import result_of
from plans.gates import gates_of, paused
from plans.models import Block, Slot
from plans.shelf import library_of
from reviews.models import HandOver
from reviews.series import ATTEMPTS

from .models import Day, Done, Link, Report, Said

COLUMNS = ("date", "exercise", "lift", "set", "load", "unit", "reps", "missed", "rpe", "hook", "note")
MOST_ROWS = 20000
# Work of so many days back that was planned and not entered is asked about.
ASK_BACK = timedelta(days=7)
# Loads are counted in bands of so many percent of the best.
BAND_PERCENT = 10
# So many weeks of kept work are shown.
WEEKS_SHOWN = 12


class CannotLog(Refused):
    """What was entered cannot be kept; the message says why and what to do."""


# -- entering ---------------------------------------------------------------------------------------------------------------


@transaction.atomic
def enter_done(athlete: Athlete, *, key: Any, on: date, exercise: str, sets: list[dict[str, Any]], slot: int | None = None, lift: str = "",
               note: str = "") -> Done:  # fmt: skip
    """Keep one exercise as it was done; entered again with the same key, the later word stands.

    Raises:
        CannotLog: the day lies ahead.
    """
    if on > timezone.localdate() + timedelta(days=1):
        raise CannotLog(f"{on:%d %B %Y} lies ahead: enter work on the day it is done.")
    planned = None
    if slot is not None:
        planned = Slot.objects.filter(pk=slot, block__athlete=athlete).first()
        if planned is None and not Done.objects.filter(athlete=athlete, key=key).exists():
            # The plan was changed while the entry was on its way: what was done is kept all the same.
            note = f"{note} (no longer on the plan)".strip()
    facts = {"slot": planned, "exercise": exercise, "lift": lift, "on": on, "sets": sets, "note": note[:500]}
    return Done.objects.update_or_create(athlete=athlete, key=key, defaults=facts)[0]


@transaction.atomic
def enter_report(athlete: Athlete, *, key: Any, kind: str, site: str, degree: int, since: date, until: date | None = None,
                 note: str = "", by_coach: bool = True) -> Report:  # fmt: skip
    """Keep pain or a bruise, or its end; what is open gates the work at once. What the coach entered an athlete does not change: their word
    on it stands beside it, as a report of their own. What stood before a change is kept."""
    facts: dict[str, Any] = {"kind": kind, "site": site, "degree": degree, "since": since, "until": until, "note": note}
    before = Report.objects.filter(athlete=athlete, key=key).first()
    if before and before.by_coach and not by_coach:
        key = uuid5(before.key, "by the athlete")
        facts["note"] = note or f"On what your coach entered: {before.site}, {before.degree} of 10."
        before = Report.objects.filter(athlete=athlete, key=key).first()
    if before and (told := before.told()) != Report(**facts).told():
        facts["earlier"] = [*before.earlier, told | {"by_coach": before.by_coach}]
    facts["by_coach"] = by_coach
    athlete = Athlete.objects.get(pk=athlete.pk)
    pain, bruise = _open_reports(athlete)
    report = Report.objects.update_or_create(athlete=athlete, key=key, defaults=facts)[0]
    now_pain, now_bruise = _open_reports(athlete)
    # What does not come from a report the coach has set by hand; a report may add to that and does not take it away.
    athlete.pain = now_pain if athlete.pain == pain else max(athlete.pain, now_pain)
    athlete.contact_bruise = now_bruise if athlete.contact_bruise == bruise else athlete.contact_bruise or now_bruise
    athlete.save(update_fields=["pain", "contact_bruise"])
    return report


def _open_reports(athlete: Athlete) -> tuple[int, bool]:
    """The worst pain that is open, and whether a bruise is where the bar meets the body."""
    still = Report.objects.filter(athlete=athlete).exclude(until__lte=timezone.localdate())
    pain = max((report.degree for report in still if report.kind == "pain"), default=0)
    return pain, any(report.kind == "bruise" and report.site in CONTACT_SITES for report in still)


def enter_day(athlete: Athlete, *, key: Any, on: date, readiness: int | None = None, bodyweight_kg: float | None = None) -> Day:
    """Keep how an athlete was on a day; what is left out stays as it was."""
    told = {name: value for name, value in (("readiness", readiness), ("bodyweight_kg", bodyweight_kg)) if value is not None}
    return Day.objects.update_or_create(athlete=athlete, on=on, defaults=told | {"key": key})[0]


def enter_said(athlete: Athlete, *, key: Any, words: str) -> Said:
    return Said.objects.update_or_create(athlete=athlete, key=key, defaults={"words": words})[0]


@transaction.atomic
def enter(athlete: Athlete, held: dict[str, list[dict[str, Any]]], *, by_coach: bool) -> None:
    """Keep everything that was entered at once, or nothing of it; refused as each part is."""
    for row in held["done"]:
        enter_done(athlete, **{**row, "sets": [dict(one) for one in row["sets"]]})
    for row in held["reports"]:
        enter_report(athlete, **row, by_coach=by_coach)
    for row in held["days"]:
        enter_day(athlete, **row)
    for row in held["said"]:
        enter_said(athlete, **row)


# -- the link ---------------------------------------------------------------------------------------------------------------


def link_of(athlete: Athlete) -> Link:
    """The athlete's private link, made where there is none."""
    return Link.objects.get_or_create(athlete=athlete)[0]


def withdraw(athlete: Athlete) -> None:
    """No one gets in by the old link any more; a new one is another."""
    Link.objects.filter(athlete=athlete).delete()


def find(token: str) -> Athlete | None:
    link = Link.objects.filter(token=token).select_related("athlete").first()
    return link.athlete if link else None


def opened(token: str) -> None:
    link = Link.objects.filter(token=token).first()
    if link:
        link.opened_at = link.opened_at or timezone.now()
        link.opened_count += 1
        link.save(update_fields=["opened_at", "opened_count"])


# -- what the athlete sees ----------------------------------------------------------------------------------------------------


def work_of(athlete: Athlete, on: date) -> dict[str, Any]:
    """Everything on the athlete's own page for a day."""
    library = library_of(athlete.coach_id)
    gates = gates_of(athlete)
    rows = Slot.objects.filter(block__athlete=athlete, block__closed_at__isnull=True)
    slots = list(rows.select_related("block", "assignment__clip__athlete").prefetch_related("done", "assignment__excuses"))
    reviews = HandOver.objects.filter(clip__athlete=athlete, withdrawn_at__isnull=True, expires_at__gt=timezone.now())
    stop = "You reported strong pain. Stop, and see a licensed clinician; your coach sees it too."
    return {
        "name": athlete.name.split(" ")[0], "on": on, "stop": stop if gates.stop else "",
        "today": [_slot(slot, library, gates) for slot in slots if slot.on == on],
        "before": [_slot(slot, library, gates) for slot in slots if on - ASK_BACK <= slot.on < on],
        "coming": [_slot(slot, library, gates) for slot in slots if slot.on > on],
        "reports": [
            {"key": str(row.key), "kind": row.kind, "site": row.site, "degree": row.degree, "since": row.since}
            for row in athlete.reports.filter(until__isnull=True)
        ],
        "reviews": [
            {"token": row.token, "lift": row.content.get("lift", ""), "filmed_on": row.content.get("filmed_on")} for row in reviews[:5]
        ],
        "done": [_done(row, library) for row in athlete.done.select_related("slot")[:12]],
    }  # fmt: skip


def _slot(slot: Slot, library: dict[str, Any], gates: Gates) -> dict[str, Any]:
    task = slot.assignment
    exercise = library.get(task.exercise) if task else None
    done = slot.done.all()[0] if slot.done.all() else None
    base = {
        "id": slot.pk, "on": slot.on, "sets": slot.sets, "percent": slot.percent, "unit": slot.unit, "total": slot.total,
        "per_side": slot.per_side, "light": slot.light, "done_sets": done.sets if done else None,
        "done_key": str(done.key) if done else None,
    }  # fmt: skip
    if task is None or exercise is None:
        return base | {
            "assignment": None, "exercise": "test", "name": f"Test on film: {slot.block.lift.replace('_', ' ')}", "reps": 1,
            "how": "Warm up as for a heavy day and lift up to what is sure that day, filmed from the side.", "cue": "", "cautions": [],
            "safeties": "",
            "pause_s": 0, "rest_s": 180, "film": "side", "load": "", "basis": "", "withheld": _test_waits(gates),
            "lift": slot.block.lift,
        }  # fmt: skip
    return base | {
        "assignment": task.pk, "exercise": task.exercise, "name": exercise.named(task.lift), "reps": task.reps, "how": exercise.how,
        "cue": exercise.cue, "cautions": list(exercise.cautions), "pause_s": exercise.pause_s, "rest_s": exercise.rest_s,
        "film": exercise.film, "load": exercise.load, "basis": task.basis,
        "safeties": exercise.safeties, "withheld": paused(task, exercise, gates), "lift": task.lift,
    }  # fmt: skip


def _test_waits(gates: Gates) -> str:
    """Why a test of the full lift waits: the bar meets the body in it."""
    return STOP if gates.stop else REST_CONTACT if gates.contact_bruise else ""


def _done(row: Done, library: dict[str, Any]) -> dict[str, Any]:
    name = library[row.exercise].named(row.lift or "lift") if row.exercise in library else row.exercise.replace("_", " ")
    return {
        "id": row.pk, "key": str(row.key), "on": row.on, "exercise": row.exercise, "name": name, "sets": row.sets, "note": row.note,
        "planned": row.slot_id is not None,
    }  # fmt: skip


# -- the log ----------------------------------------------------------------------------------------------------------------


def log_of(athlete: Athlete) -> dict[str, Any]:
    """An athlete's log as the coach reads it: what was done, how it went by load, and what was planned and not done."""
    library, today = library_of(athlete.coach_id), timezone.localdate()
    rows = list(athlete.done.select_related("slot"))
    planned = Slot.objects.filter(block__athlete=athlete, on__lte=today, assignment__isnull=False)
    weeks = _weeks_kept(planned, today)
    kept = planned.filter(done__isnull=False).distinct().count()
    bests = {best.lift: best.kilos for best in athlete.bests.all()}
    return {
        "done": [_done(row, library) for row in rows[:200]],
        "planned_days": planned.count(), "kept_days": kept, "weeks": weeks,
        "bands": _bands(rows, library, bests), "bests": _bests_done(rows, library),
        "days": [{"on": row.on, "readiness": row.readiness, "bodyweight_kg": row.bodyweight_kg} for row in athlete.days.all()[:120]],
        "reports": [
            {"key": str(row.key), "kind": row.kind, "site": row.site, "degree": row.degree, "since": row.since, "until": row.until,
             "note": row.note, "by_coach": row.by_coach, "earlier": row.earlier}
            for row in athlete.reports.all()
        ],
        "said": [{"id": row.pk, "words": row.words, "at": row.said_at, "read": row.read_at is not None} for row in athlete.said.all()[:50]],
    }  # fmt: skip


def _weeks_kept(planned: QuerySet[Slot], today: date) -> list[dict[str, Any]]:
    """Of each of the last weeks, the oldest first, how much was planned up to today and how much of it was entered."""
    monday = today - timedelta(days=today.weekday())
    first = monday - timedelta(weeks=WEEKS_SHOWN - 1)
    counted: dict[date, list[int]] = {}
    for slot in planned.filter(on__gte=first).annotate(entered=Exists(Done.objects.filter(slot=OuterRef("pk")))):
        week = counted.setdefault(slot.on - timedelta(days=slot.on.weekday()), [0, 0])
        week[0] += 1
        week[1] += int(slot.entered)
    return [{"monday": week, "planned": both[0], "kept": both[1]} for week, both in sorted(counted.items())]


def _kilos(row: dict[str, Any]) -> float | None:
    load = row.get("load")
    return None if load is None else float(load) * (POUND_KG if row.get("unit") == "lb" else 1.0)


def _bands(rows: Sequence[Done], library: dict[str, Any], bests: dict[str, float]) -> list[dict[str, Any]]:
    """Attempts made and missed by share of the best the exercise is loaded from; pulls and squats are neither made nor missed."""
    counted: dict[int, list[int]] = {}
    for row in rows:
        exercise = library.get(row.exercise)
        if filmed_as(row.exercise, row.lift or "clean") not in ATTEMPTS:
            continue
        best = bests.get(exercise.basis_for(row.lift)) if exercise else bests.get(row.lift)
        for one in row.sets:
            kilos = _kilos(one)
            if best and kilos:
                band = counted.setdefault(int(100 * kilos / best // BAND_PERCENT), [0, 0])
                band[0] += int(one.get("reps") or 0)
                band[1] += int(one.get("missed") or 0)
    return [
        {"from_percent": BAND_PERCENT * band, "to_percent": BAND_PERCENT * (band + 1), "made": made, "missed": missed}
        for band, (made, missed) in sorted(counted.items())
    ]


def _bests_done(rows: Sequence[Done], library: dict[str, Any]) -> list[dict[str, Any]]:
    """The heaviest made of every exercise, and the heaviest with the hook kept, month by month."""
    found: dict[tuple[str, str], dict[str, Any]] = {}
    for row in rows:
        for one in row.sets:
            kilos = _kilos(one)
            if kilos is None or not int(one.get("reps") or 0):
                continue
            name = library[row.exercise].named(row.lift or "lift") if row.exercise in library else row.exercise.replace("_", " ")
            for kind in ("made", "hook kept") if one.get("hook") else ("made",):
                month = row.on.strftime("%Y-%m") if kind == "hook kept" else ""
                best = found.get((row.exercise + kind, month))
                if best is None or kilos > best["kilos"]:
                    found[row.exercise + kind, month] = {"name": name, "kind": kind, "kilos": round(kilos, 1), "on": row.on, "month": month}
    return sorted(found.values(), key=lambda row: (row["name"], row["kind"], row["month"]))


def written(athlete: Athlete) -> str:
    """The log as comma-separated text, a row for every set."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for row in athlete.done.order_by("on", "pk"):
        for number, one in enumerate(row.sets, 1):
            hook = "" if one.get("hook") is None else "yes" if one["hook"] else "no"
            told = [one.get(name) if one.get(name) is not None else "" for name in ("load", "unit", "reps", "missed", "rpe")]
            words = (_plain(row.exercise), _plain(row.lift), _plain(row.note if number == 1 else ""))
            writer.writerow([row.on.isoformat(), *words[:2], number, *told, hook, words[2]])
    return out.getvalue()


def _plain(words: str) -> str:
    """Text that no table program takes for a formula."""
    return f"'{words}" if words[:1] in ("=", "+", "-", "@", "\t", "\r") else words


def _as_typed(words: str) -> str:
    """The same text, taken in again."""
    return words[1:] if words[:1] == "'" and _plain(words[1:]) == words else words


@transaction.atomic
def read_in(athlete: Athlete, text: str) -> int:
    """Take a log in as it is written out; all of it or nothing. How many exercises came in; what is there already is left out.

    Raises:
        CannotLog: the text is no such table; the message says in which line and why.
    """
    try:
        rows = list(csv.DictReader(io.StringIO(text.lstrip("\ufeff"))))
    except csv.Error as error:
        raise CannotLog(f"This is no table of comma-separated text: {error}.") from None
    if not rows or not {"date", "exercise", "reps"} <= set(rows[0]):
        raise CannotLog(f"The first line must name the columns, at least date, exercise and reps. Known: {', '.join(COLUMNS)}.")
    if len(rows) > MOST_ROWS:
        raise CannotLog(f"{len(rows)} rows are more than {MOST_ROWS}: bring them in year by year.")
    days: dict[tuple[date, str, str], Done] = {}
    for line, row in enumerate(rows, 2):
        row = {name: _as_typed(value) if isinstance(value, str) else value for name, value in row.items()}
        on, one = _row_of(line, row)
        at = (on, row["exercise"].strip(), (row.get("lift") or "").strip())
        done = days.setdefault(
            at, Done(athlete=athlete, on=on, exercise=at[1][:60], lift=at[2][:30], sets=[], note=(row.get("note") or "")[:500])
        )
        done.sets.append(one)
    there = {(row.on, row.exercise, row.lift): row.sets for row in athlete.done.all()}
    fresh = [row for at, row in days.items() if there.get(at) != row.sets]
    Done.objects.bulk_create(fresh)
    return len(fresh)


def _row_of(line: int, row: dict[str, str | None]) -> tuple[date, dict[str, Any]]:
    def told(name: str) -> str:
        return (row.get(name) or "").strip()

    try:
        on = date.fromisoformat(told("date"))
    except ValueError:
        raise CannotLog(f"Line {line}: “{told('date')}” is no date. Write it as 2026-03-31.") from None
    if not told("exercise"):
        raise CannotLog(f"Line {line} names no exercise.")
    numbers: dict[str, float | None] = {}
    for name, least, most in (("load", 0, 600), ("reps", 0, 100), ("missed", 0, 100), ("rpe", 0, 10)):
        try:
            numbers[name] = float(told(name)) if told(name) else None
        except ValueError:
            raise CannotLog(f"Line {line}: the {name} “{told(name)}” is no number.") from None
        value = numbers[name]
        if value is not None and not least <= value <= most:
            raise CannotLog(f"Line {line}: a {name} of {value:g} is not between {least} and {most}.")
    unit = told("unit") or "kg"
    if unit not in ("kg", "lb"):
        raise CannotLog(f"Line {line}: the unit is kg or lb, not “{unit}”.")
    hook = {"yes": True, "no": False}.get(told("hook").lower())
    return on, {
        "load": numbers["load"], "unit": unit, "reps": int(numbers["reps"] or 0), "missed": int(numbers["missed"] or 0),
        "rpe": numbers["rpe"], "hook": hook,
    }  # fmt: skip


# -- the coach's morning ------------------------------------------------------------------------------------------------------


def morning_of(coach_id: int, on: date) -> dict[str, list[dict[str, Any]]]:
    """Who is due, who did not lift, whose number moved, who reported something, who answered, and what waits for review."""
    library = library_of(coach_id)
    slots = Slot.objects.filter(block__athlete__coach_id=coach_id, block__closed_at__isnull=True).select_related(
        "block__athlete", "assignment"
    )
    gates: dict[int, Gates] = {}
    due: dict[int, dict[str, Any]] = {}
    missed: dict[int, dict[str, Any]] = {}
    for slot in slots.filter(on__gte=on - ASK_BACK, on__lte=on).prefetch_related("done"):
        athlete, done = slot.block.athlete, bool(slot.done.all())
        task = slot.assignment
        name = library[task.exercise].named(task.lift) if task else "test on film"
        if slot.on == on:
            row = due.setdefault(athlete.pk, {"athlete": athlete.pk, "name": athlete.name, "says": []})
            waits = ""
            if not done:
                state = gates.get(athlete.pk) or gates.setdefault(athlete.pk, gates_of(athlete))
                waits = paused(task, library[task.exercise], state) if task else _test_waits(state)
            row["says"].append(f"{name} ✓" if done else f"{name} · paused: {waits}" if waits else name)
        elif not done and task:
            row = missed.setdefault(athlete.pk, {"athlete": athlete.pk, "name": athlete.name, "says": []})
            row["says"].append(f"{slot.on:%a %d}: {name}")
    moved, ending = [], []
    blocks = Block.objects.filter(athlete__coach_id=coach_id, closed_at__isnull=True).select_related("athlete").prefetch_related("slots")
    lifted_on = _last_lifted(coach_id)
    for block in blocks:
        last = max((slot.on for slot in block.slots.all()), default=block.begins)
        worked = max((slot.on for slot in block.slots.all() if slot.assignment_id), default=None)
        # Only where something was lifted since is there anything to tell from.
        result = result_of(block) if worked and lifted_on.get(block.athlete_id, worked) > worked else None
        if result:
            numbers = [spoken(result[when], result["unit"]) for when in ("before", "after") if result[when] is not None]
            line = f"{result['label']}: {', '.join(filter(None, [' → '.join(numbers), result['says']]))}"
            moved.append({"athlete": block.athlete_id, "name": block.athlete.name, "says": [line]})
        elif last <= on:
            ending.append({"athlete": block.athlete_id, "name": block.athlete.name, "says": ["The block is over: film the test."]})
    return {
        "due": [*due.values()],
        "missed": [*missed.values()],
        "moved": moved,
        "ending": ending,
        "reported": [
            {"athlete": row.athlete_id, "name": row.athlete.name,
             "says": [f"{row.kind} {row.degree}/10, {row.site}, since {row.since:%d %B}"]}
            for row in Report.objects.filter(athlete__coach_id=coach_id, until__isnull=True).select_related("athlete")
        ],
        "said": [
            {"athlete": row.athlete_id, "name": row.athlete.name, "says": [row.words]}
            for row in Said.objects.filter(athlete__coach_id=coach_id, read_at__isnull=True).select_related("athlete")
        ],
        "waiting": _waiting(coach_id),
    }  # fmt: skip


def _last_lifted(coach_id: int) -> dict[int, date]:
    """By athlete, the last day of which there is a measured clip."""
    rows = Clip.objects.filter(athlete__coach_id=coach_id, analysis__isnull=False).order_by().values("athlete")
    told = rows.annotate(filmed=Max("filmed_on"), added=Max("added_at", filter=Q(filmed_on__isnull=True)))
    return {row["athlete"]: max(filter(None, [row["filmed"], row["added"] and row["added"].date()])) for row in told}


def _waiting(coach_id: int) -> list[dict[str, Any]]:
    handed = HandOver.objects.filter(clip=OuterRef("pk"), withdrawn_at__isnull=True)
    clips = Clip.objects.filter(~Exists(handed), athlete__coach_id=coach_id, analysis__isnull=False).order_by()
    counted = clips.values("athlete", "athlete__name").annotate(times=Count("pk")).order_by("athlete__name")
    return [
        {"athlete": row["athlete"], "name": row["athlete__name"],
         "says": [f"{row['times']} clip{'s' if row['times'] > 1 else ''} to review"]}
        for row in counted
    ]  # fmt: skip
