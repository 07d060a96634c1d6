"""A block on the calendar: begin it, move what is in it, follow it up, and say at its end whether the number moved."""

from __future__ import annotations

from dataclasses import asdict, replace
from datetime import date, datetime, timedelta
from datetime import time as clock
from math import isnan
from typing import Any

import numpy as np
from django.db import transaction
from django.db.models import Q
from django.utils import timezone
from icalendar import Calendar, Event

from atleta.coaching import (
    Broken,
    Filmed,
    Followed,
    Item,
    barred,
    broken,
    changed,
    drill_lift,
    filmed_as,
    follow_up,
    next_percent,
    plan_block,
    week_of,
)
from atleta.coaching import Slot as Planned
from atleta.coaching.gates import STOP
from atleta.coaching.loading import POUND_KG
from atleta.coaching.planning import LIGHT_SETS_LESS
from atleta.measures import declarations
from atleta.series import Lifts
from atleta_site.refusals import Refused
from clips.models import Clip
from people.models import Athlete
from reviews.schools import catalogue_of
from reviews.series import lifts_of

from .gates import gates_of, paused
from .models import Assignment, Block, FollowUp, Slot
from .services import causes_of, dose_for, rack_of
from .shelf import library_of

# Lifts of the days before a block that count with the clip that led to it.
BEFORE = timedelta(days=14)
# Work is filmed on the day it is planned for, or a few days off it.
FILMED_ABOUT = timedelta(days=3)
WORDS = {
    "changed": "changed",
    "not_shown": "not shown to have changed",
    "worse": "worse",
}
# A block may run so many weeks longer than it was planned.
WEEKS_PUT_OFF = 4
# Blocks that may run at the same time.
MOST_BLOCKS = 2


class CannotPlan(Refused):
    """The block cannot be made or changed so; the message says why and what to do."""


def open_blocks(athlete: Athlete) -> list[Block]:
    """The athlete's blocks that are under way, the one that began last in front."""
    return list(Block.objects.filter(athlete=athlete, closed_at__isnull=True))


@transaction.atomic
def begin(clip: Clip, begins: date, weeks: int, days: list[int]) -> Block:
    """Put the work that was set on a clip on the calendar.

    Raises:
        CannotPlan: nothing was set, two blocks are under way, one more breaks the rules of their work, or weeks and days make no block.
    """
    athlete = clip.athlete
    tasks = list(clip.assignments.filter(Q(block__isnull=True) | Q(block__closed_at__isnull=False)))
    if not tasks:
        raise CannotPlan("No work is set on this clip yet: set an exercise first, then plan it.")
    running = open_blocks(athlete)
    if len(running) >= MOST_BLOCKS:
        raise CannotPlan(f"{MOST_BLOCKS} blocks are under way. End one of them first; what was done in it is kept.")
    items = items_of(athlete, tasks)
    try:
        slots = plan_block(items, begins, weeks, days)
    except ValueError as error:
        raise CannotPlan(str(error)) from error
    for other in running:
        if clash := _clash(other, items, slots):
            raise CannotPlan(f"A block is under way since {other.begins:%d %B}, and the two do not go together: {clash} Other days may do.")
    lift, fault, measure = _what_is_to_move(clip)
    block = Block.objects.create(
        athlete=athlete, clip=clip, lift=lift, fault=fault, measure=measure, begins=begins, weeks=weeks, days=sorted(set(days)),
        before=_lifts_before(clip, lift, measure, begins),
    )  # fmt: skip
    Assignment.objects.filter(pk__in=[task.pk for task in tasks]).update(block=block)
    Slot.objects.bulk_create(_slot(block, planned, tasks) for planned in slots)
    return block


def _clash(other: Block, items: list[Item], slots: list[Planned]) -> str:
    """The first rule that a plan breaks only together with a block under way, in words; empty where they go together."""
    tasks, there = _planned(other)
    both = [*items, *items_of(other.athlete, tasks)]
    moved = [replace(slot, item=None if slot.item is None else slot.item + len(items)) for slot in there]
    alone = {one.says for part, own in ((slots, items), (there, both[len(items) :])) for one in broken(part, own)}
    together = broken([*slots, *moved], both)
    most = other.athlete.most_sets
    if most is not None:
        monday = {slot.on: slot.on - timedelta(days=slot.on.weekday()) for slot in (*slots, *moved)}
        for week in dict.fromkeys(monday[slot.on] for slot in slots):
            sets_there = sum(slot.sets for slot in (*slots, *moved) if monday[slot.on] == week)
            if sets_there > most:
                return f"the week of {week:%d %B} would have {sets_there} sets; {most} are allowed."
    return next((one.says for one in together if one.says not in alone), "")


@transaction.atomic
def change_block(block: Block, *, weeks: int | None = None, days: list[int] | None = None, begins: date | None = None) -> None:
    """Change how long a block is, on which days, or when it begins. What was done, and every day before today, stays as it is.

    Raises:
        CannotPlan: it has ended, or the weeks and days make no block.
    """
    if block.closed_at is not None:
        raise CannotPlan("This block has ended: what was planned in it stays as it was.")
    today = timezone.localdate()
    done = block.slots.filter(Q(done__isnull=False) | Q(on__lt=today)).distinct()
    if begins is not None and begins != block.begins and done.exists():
        raise CannotPlan("This block has begun: its first day stays. Change its days, or how many weeks it has.")
    tasks = list(block.assignments.all())
    weeks, days, begins = weeks or block.weeks, sorted(set(days or block.days)), begins or block.begins
    try:
        slots = plan_block(items_of(block.athlete, tasks), begins, weeks, days)
    except ValueError as error:
        raise CannotPlan(str(error)) from error
    kept = {(slot.week, slot.assignment_id) for slot in done}
    block.slots.exclude(pk__in=done.values("pk")).delete()
    block.begins, block.weeks, block.days = begins, weeks, days
    block.save(update_fields=["begins", "weeks", "days"])
    fresh = [_slot(block, planned, tasks) for planned in slots if planned.on >= today or not kept]
    Slot.objects.bulk_create(slot for slot in fresh if slot.assignment is None or (slot.week, slot.assignment.pk) not in kept)


@transaction.atomic
def change_dose(
    task: Assignment, *, sets: int | None = None, reps: int | None = None, percent: float | None = None, by: float | None = None,
    note: str | None = None,
) -> None:  # fmt: skip
    """Change a dose that was set, to a share of the best or by so many percent of it: from the next day of it on, where it is planned.

    Raises:
        CannotPlan: the load is above the exercise's ceiling.
    """
    if by is not None and percent is None:
        percent = max(task.percent + by, 0.0)
    exercise = library_of(task.clip.athlete.coach_id)[task.exercise]
    if percent is not None and percent > exercise.percent[1]:
        raise CannotPlan(f"{exercise.named(task.lift)} goes up to {exercise.percent[1]:.0f} %, not {percent:.0f} %.")
    by = None if percent is None else percent - task.percent
    for name, value in (("sets", sets), ("reps", reps), ("percent", percent), ("note", note)):
        if value is not None:
            setattr(task, name, value)
    dose = dose_for(task.clip.athlete, task.basis, task.percent)
    task.total, task.per_side, task.unit = dose.total, list(dose.per_side), dose.unit
    task.save()
    for slot in task.slots.filter(on__gte=timezone.localdate(), done__isnull=True):
        if sets is not None:
            slot.sets = max(sets - LIGHT_SETS_LESS, 1) if slot.light else sets
        if by is not None:
            _reload(slot, max(min(slot.percent + by, exercise.percent[1]), 0.0))
        slot.save()


def items_of(athlete: Athlete, tasks: list[Assignment]) -> list[Item]:
    library = library_of(athlete.coach_id)
    return [Item(library[task.exercise], task.lift, task.sets, task.reps, task.percent, task.per_week) for task in tasks]


def _slot(block: Block, planned: Planned, tasks: list[Assignment]) -> Slot:
    task = tasks[planned.item] if planned.item is not None else None
    dose = dose_for(block.athlete, task.basis, planned.percent) if task else dose_for(block.athlete, drill_lift(block.lift), 0)
    return Slot(
        block=block, assignment=task, on=planned.on, week=planned.week, sets=planned.sets, percent=planned.percent, unit=dose.unit,
        total=dose.total if task else None, per_side=list(dose.per_side) if task else [], light=planned.light,
    )  # fmt: skip


def _what_is_to_move(clip: Clip) -> tuple[str, str, str]:
    """The kind of lift that the first cause that stands on a clip was found in, that cause, and the measure that shows it."""
    roots, _ = causes_of(clip)
    review = getattr(clip, "review", None)
    chosen = review.first_priority if review and review.first_priority else ""
    lifts = clip.analysis.document["lifts"]
    for lift in lifts:
        for row in lift["findings"]:
            if row["evidence"] and (row["fault"] == chosen or (not chosen and row["fault"] in roots)):
                return lift["kind"], row["fault"], row["evidence"][0]["measure"]
    return lifts[0]["kind"] if lifts else clip.lift, (chosen or roots[0] if roots else chosen), ""


def _lifts_before(clip: Clip, kind: str, measure: str, begins: date) -> list[list[float | None]]:
    lifts = lifts_of(clip.athlete, kind, weighed=False, measures=[measure])
    own = (lifts.set == str(clip.pk)) | ((lifts.on >= np.datetime64(begins - BEFORE)) & (lifts.on <= np.datetime64(begins)))
    return [[one.value, one.sd, one.load_kg] for one in _filmed(lifts.where(own), measure)]


def _filmed(lifts: Lifts, measure: str) -> list[Filmed]:
    """A number of some lifts, with their loads."""
    known = lifts.having(measure)
    columns = zip(*(column.tolist() for column in known.of(measure)), known.load_kg.tolist(), strict=True)
    return [Filmed(value, sd, None if isnan(load) else load) for value, sd, load in columns]


def rules_broken(block: Block) -> list[Broken]:
    """What the plan as it now stands does not keep."""
    tasks, slots = _planned(block)
    return broken(slots, items_of(block.athlete, tasks), block.days, block.athlete.most_sets)


def weeks_of(block: Block) -> list[dict[str, float]]:
    """Sets, minutes and effort of every week."""
    tasks, slots = _planned(block)
    items = items_of(block.athlete, tasks)
    told = []
    for week in range(1, block.weeks + 1):
        sets, minutes, effort = week_of(slots, items, week)
        told.append({"week": week, "sets": sets, "minutes": round(minutes), "effort": round(effort, 1)})
    return told


def _planned(block: Block) -> tuple[list[Assignment], list[Planned]]:
    tasks = list(block.assignments.all())
    place = {task.pk: index for index, task in enumerate(tasks)}
    rows = block.slots.all()
    return tasks, [
        Planned(row.on, row.week, place.get(row.assignment_id) if row.assignment_id else None, row.sets, row.percent, row.light)
        for row in rows
        if row.assignment_id is None or row.assignment_id in place
    ]


@transaction.atomic
def change_slot(slot: Slot, *, on: date | None = None, percent: float | None = None, sets: int | None = None) -> None:
    """Move one day's work, or make it heavier or lighter; the load follows.

    Raises:
        CannotPlan: the block has ended, the day lies outside it, or the load is above the exercise's ceiling.
    """
    if slot.block.closed_at is not None:
        raise CannotPlan("This block has ended: what was planned in it stays as it was.")
    if on is not None:
        first, last = slot.block.begins, slot.block.begins + timedelta(weeks=slot.block.weeks + WEEKS_PUT_OFF)
        if not first <= on <= last:
            raise CannotPlan(f"This block begins on {first:%d %B %Y} and can be put off to {last:%d %B %Y}: choose a day in between.")
        slot.on = on
        slot.week = (on - slot.block.begins).days // 7 + 1
    if sets is not None and slot.assignment:
        slot.sets = sets
    if percent is not None and slot.assignment:
        _reload(slot, percent)
    slot.save()


def _reload(slot: Slot, percent: float) -> None:
    assert slot.assignment is not None
    exercise = library_of(slot.block.athlete.coach_id)[slot.assignment.exercise]
    if percent > exercise.percent[1]:
        raise CannotPlan(f"{exercise.named(slot.assignment.lift)} goes up to {exercise.percent[1]:.0f} %.")
    dose = dose_for(slot.block.athlete, slot.assignment.basis, percent)
    slot.percent, slot.total, slot.per_side, slot.unit = percent, dose.total, list(dose.per_side), dose.unit


@transaction.atomic
def take_back(block: Block) -> None:
    """Take a plan off the calendar; the work itself stays set, and what was done of it stays in the log."""
    block.delete()


# -- following up -----------------------------------------------------------------------------------------------------------


@transaction.atomic
def follows(clip: Clip, task: Assignment) -> FollowUp:
    """Say that a clip shows a piece of work that was set.

    Raises:
        CannotPlan: the work is another athlete's.
    """
    if task.clip.athlete_id != clip.athlete_id:
        raise CannotPlan("This work was set for somebody else.")
    return FollowUp.objects.update_or_create(clip=clip, defaults={"assignment": task, "taken_up": ""})[0]


def shown_by(clip: Clip) -> list[tuple[Assignment, date]]:
    """Work of the running blocks that a clip may show, and the planned day nearest to it: the same kind of lift, filmed about then. None
    where the coach has said what it shows, or it is the clip that the block began with."""
    on = clip.filmed_on or timezone.localdate()
    running = [block for block in open_blocks(clip.athlete) if block.clip_id != clip.pk]
    if not running or FollowUp.objects.filter(clip=clip).exists():
        return []
    told = []
    for task in Assignment.objects.filter(block__in=running).prefetch_related("slots"):
        days = [slot.on for slot in task.slots.all()]
        if days and filmed_as(task.exercise, task.lift) == clip.lift:
            near = min(days, key=lambda day: abs(day - on))
            if abs(near - on) <= FILMED_ABOUT:
                told.append((task, near))
    return sorted(told, key=lambda pair: abs(pair[1] - on))


def followed(row: FollowUp) -> Followed | None:
    """The clip against the pass rule of its work; None while it is not measured."""
    analysis = getattr(row.clip, "analysis", None)
    if analysis is None or not analysis.document["lifts"]:
        return None
    exercise = library_of(row.clip.athlete.coach_id)[row.assignment.exercise]
    lifts = analysis.document["lifts"]
    measured: dict[str, tuple[float, float]] = {}
    for rule in exercise.passes:
        found = [(lift["measures"][rule.measure]["value"], lift["measures"][rule.measure]["sd"]) for lift in lifts
                 if lift["measures"].get(rule.measure, {}).get("value") is not None]  # fmt: skip
        if found:
            # The worst repetition counts.
            measured[rule.measure] = (min if rule.at_least is not None else max)(found)
    answers = set(exercise.answers) & ({row.assignment.block.fault} if row.assignment.block else set(exercise.answers))
    still = {one["name"] for lift in lifts for one in lift["findings"] if one["fault"] in answers and one["level"] == "fault"}
    # A film shows that a fault is gone only where it tells whether it is there.
    told = any(one["fault"] in answers and one["level"] in ("fine", "watch", "fault") for lift in lifts for one in lift["findings"])
    missed = sum((lift.get("outcome") or {}).get("made") is False for lift in lifts)
    return follow_up(exercise.passes, measured, missed=missed, faults=sorted(still), shows_faults=told)


@transaction.atomic
def take_up(row: FollowUp, step: str) -> int:
    """Carry a step over to the days of this work that are still to come; how many there are.

    Raises:
        CannotPlan: the work is not part of a block that runs, or there is no such step.
    """
    block = row.assignment.block
    if block is None or block.closed_at is not None:
        raise CannotPlan("This work is not part of a block that runs: there is no day left to change.")
    if step not in ("up", "repeat", "back"):
        raise CannotPlan("A step is up, repeat or back.")
    ceiling = library_of(block.athlete.coach_id)[row.assignment.exercise].percent[1]
    shown = row.clip.filmed_on or timezone.localdate()
    done = [slot for slot in row.assignment.slots.all() if slot.on <= shown]
    coming = [slot for slot in row.assignment.slots.all() if slot.on > shown]
    last = done[-1].percent if done else row.assignment.percent
    heavy = [slot for slot in coming if not slot.light]
    percent = last
    for slot in heavy:
        # The first day after it takes the step; later weeks go on from there as long as shape is held.
        percent = next_percent(percent, step if slot is heavy[0] else "up", ceiling)
        _reload(slot, percent)
        slot.save()
    row.taken_up = step
    row.save(update_fields=["taken_up"])
    return len(heavy)


# -- the end ----------------------------------------------------------------------------------------------------------------


def result_of(block: Block) -> dict[str, Any] | None:
    """The number that led to a block, before and after it, and what next; None while there is no lift after the work to tell from."""
    if block.result:
        return dict(block.result)
    fault = catalogue_of(block.athlete).faults.get(block.fault)
    condition = next((one for one in fault.conditions if one.measure == block.measure), None) if fault else None
    work = [slot.on for slot in block.slots.all() if slot.assignment_id]
    if condition is None or not work:
        return None
    lifts = lifts_of(block.athlete, block.lift, weighed=False, measures=[block.measure])
    after = lifts.where(lifts.on > np.datetime64(max(work))).having(block.measure)
    before = [Filmed(*row, *([None] * (3 - len(row)))) for row in block.before]
    others = lifts.where((lifts.on <= np.datetime64(block.begins)) & (lifts.set != str(block.clip_id)))
    moved = changed(before, _filmed(after, block.measure), less_is_better=condition.above, others=_filmed(others, block.measure))
    if moved is None:
        return None
    told = next(one for one in declarations() if one.id == block.measure)
    if moved.word == "not_comparable":
        says = (
            f"not comparable yet: film {_in_gym(block.athlete, moved.load_kg)} again"
            if moved.load_kg
            else "not comparable yet: enter the loads"
        )
    else:
        says = WORDS[moved.word]
    return asdict(moved) | {
        "says": says, "measure": block.measure, "label": told.label, "unit": told.unit, "next": _what_next(block, moved.word),
        "before_clip": str(block.clip_id) if block.clip_id else None, "after_clip": str(after.set[-1]),
        "lifts": list(moved.lifts) if moved.before is not None else [len(before), len(after)],
    }  # fmt: skip


def _in_gym(athlete: Athlete, kilos: float) -> str:
    """A load as the gym counts it."""
    unit = rack_of(athlete.coach_id).unit
    return f"{kilos / POUND_KG if unit == 'lb' else kilos:.0f} {unit}"


def _what_next(block: Block, word: str) -> str:
    library = library_of(block.athlete.coach_id)
    named = [library[task.exercise] for task in block.assignments.all() if task.exercise in library]
    lift, gates = drill_lift(block.lift), gates_of(block.athlete)
    if gates.stop:
        return STOP
    if word == "not_comparable":
        return "Film the lift again at the load of before, from the same side."
    if word == "changed":
        return "Keep it once a week so that it stays, and take the next cause."
    neighbours = [library[one] for old in named for one in old.harder + old.easier if one in library and library[one] not in named]
    instead = next((one for one in neighbours if lift in one.lifts and not barred(one, gates)), None)
    if word == "worse":
        return "Go back to where the shape holds, lighter, and film it from the same side."
    return f"Try a neighbour: {instead.named(lift).lower()}." if instead else "Take another way to the same cause."


@transaction.atomic
def close(block: Block) -> Block:
    """End a block, keeping what came of it."""
    block.result = result_of(block)
    block.closed_at = timezone.now()
    block.save(update_fields=["result", "closed_at"])
    return block


# -- the calendar file ------------------------------------------------------------------------------------------------------


def calendar_of(athlete: Athlete) -> bytes:
    """The athlete's planned days as a calendar that other programs read."""
    calendar = Calendar()
    calendar.add("prodid", "-//Atleta//Plan//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"Training, {athlete.name}")
    library, gates, today = library_of(athlete.coach_id), gates_of(athlete), timezone.localdate()
    for block in athlete.blocks.prefetch_related("slots__assignment__excuses"):
        for slot in block.slots.all():
            entry = Event()
            entry.add("uid", f"slot-{slot.pk}@atleta")
            entry.add("dtstamp", datetime.combine(block.made_at.date(), clock(), tzinfo=timezone.get_current_timezone()))
            entry.add("dtstart", slot.on)
            entry.add("dtend", slot.on + timedelta(days=1))
            task = slot.assignment
            waits = paused(task, library[task.exercise], gates) if task and slot.on >= today else ""
            entry.add("summary", f"{'Paused: ' if waits else ''}{_line(slot, library)}")
            if task:
                entry.add("description", waits or library[task.exercise].how)
            calendar.add_component(entry)
    return bytes(calendar.to_ical())


def _line(slot: Slot, library: dict[str, Any]) -> str:
    if slot.assignment is None:
        return f"Test on film: {slot.block.lift.replace('_', ' ')}"
    exercise = library[slot.assignment.exercise]
    load = f" at {slot.total:g} {slot.unit}" if slot.total is not None else f", {exercise.load}" if exercise.load else ""
    return f"{exercise.named(slot.assignment.lift)}: {slot.sets} × {slot.assignment.reps}{load}"
