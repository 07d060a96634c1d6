"""A block of weeks on the calendar: which day, how heavy, and what a plan may not do.

Weights go up a little each week, the last week is light, and the full lift is tested after it. Where the rules of an exercise cannot be
kept with the days there are, the plan says so; it never hides it.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from itertools import combinations, pairwise, product

from .library import Exercise

# A week's step, and the last week's, in percent of the best.
STEP_PERCENT, LIGHT_LESS_PERCENT = 2.5, 10.0
LIGHT_SETS_LESS = 1
FEWEST_WEEKS, MOST_WEEKS = 4, 6
# A repetition takes about so long without its pause.
REPETITION_S = 4.0
WEEK = 7


@dataclass(frozen=True)
class Item:
    """One exercise of a block, the lift it is for, and its dose; `percent` of the best is that of the first week."""

    exercise: Exercise
    lift: str
    sets: int
    reps: int
    percent: float
    per_week: int = 1

    @property
    def minutes(self) -> float:
        """About how long its sets and rests take."""
        return self.sets * (self.reps * (REPETITION_S + self.exercise.pause_s) + self.exercise.rest_s) / 60

    @property
    def effort(self) -> float:
        """What it takes, in repetitions as heavy as the best."""
        return self.sets * self.reps * self.percent / 100


@dataclass(frozen=True)
class Slot:
    """One exercise on one day; `item` counts the block's items from 0, and is None for the test of the full lift."""

    on: date
    week: int
    item: int | None
    sets: int
    percent: float
    light: bool = False


@dataclass(frozen=True)
class Broken:
    """A rule that a plan does not keep, and where."""

    rule: str
    on: date
    says: str


def percent_in(item: Item, week: int, weeks: int) -> float:
    """The share of the best in a week (from 1): a step a week up to the exercise's ceiling, and light in the last."""
    if item.exercise.basis == "none":
        return 0.0
    if week == weeks:
        return max(item.percent - LIGHT_LESS_PERCENT, 0.0)
    return min(item.percent + STEP_PERCENT * (week - 1), item.exercise.percent[1])


def plan_block(items: Sequence[Item], begins: date, weeks: int, days: Sequence[int]) -> list[Slot]:
    """Put a block on the calendar.

    Args:
        begins: the first day it may begin on.
        weeks: 4 to 6.
        days: training days of the week, 0 Monday to 6 Sunday.

    Raises:
        ValueError: no exercise, no training day, or a number of weeks that is no block; the message says which.
    """
    days = sorted(set(days))
    if not items:
        raise ValueError("There is nothing to plan: set at least one exercise first.")
    if not days or not all(0 <= day < WEEK for day in days):
        raise ValueError("Name at least one training day of the week.")
    if not FEWEST_WEEKS <= weeks <= MOST_WEEKS:
        raise ValueError(f"A block is {FEWEST_WEEKS} to {MOST_WEEKS} weeks long, not {weeks}.")
    chosen = _weekdays(items, days, begins.weekday())
    slots = []
    for week in range(1, weeks + 1):
        for index, item in enumerate(items):
            light = week == weeks
            sets = max(item.sets - LIGHT_SETS_LESS, 1) if light else item.sets
            for day in chosen[index]:
                on = begins + timedelta(days=WEEK * (week - 1) + (day - begins.weekday()) % WEEK)
                slots.append(Slot(on, week, index, sets, percent_in(item, week, weeks), light))
    last = max(slot.on for slot in slots)
    slots.append(Slot(next_training_day(last + timedelta(days=1), days), weeks + 1, None, 0, 0.0))
    return sorted(slots, key=lambda slot: (slot.on, slot.item is None, slot.item))


def next_training_day(since: date, days: Sequence[int]) -> date:
    """The first training day that is not before a date."""
    return next(since + timedelta(days=ahead) for ahead in range(WEEK) if (since + timedelta(days=ahead)).weekday() in days)


def broken(slots: Sequence[Slot], items: Sequence[Item], days: Sequence[int] = (), most_sets: int | None = None) -> list[Broken]:
    """Which rules a plan does not keep, in the order of the days.

    Args:
        days: training days of the week; left out, any day is one.
        most_sets: how many sets a week the coach allows.
    """
    found = []
    work = [slot for slot in slots if slot.item is not None]
    for index, item in enumerate(items):
        own = sorted(slot.on for slot in work if slot.item == index)
        name = item.exercise.named(item.lift).lower()
        found += [Broken("twice_a_day", a, f"The {name} stands twice on {_day(a)}.") for a, b in pairwise(own) if a == b]
        for first in own:
            within = [on for on in own if first <= on < first + timedelta(days=WEEK)]
            if len(within) > item.exercise.per_week and within[0] == first:
                asked = "once" if item.exercise.per_week == 1 else f"{item.exercise.per_week} times"
                found.append(
                    Broken(
                        "too_often",
                        within[-1],
                        f"The {name} is for {asked} a week; with {_day(within[-1])} it comes {len(within)} times in 7 days.",
                    )
                )
        found += [
            Broken("too_heavy", slot.on, f"The {name} goes up to {item.exercise.percent[1]:.0f} %, not {slot.percent:.0f} %.")
            for slot in work
            if slot.item == index and slot.percent > item.exercise.percent[1] + 1e-9
        ]
    backs = sorted({slot.on for slot in work if slot.item is not None and items[slot.item].exercise.low_back})
    found += [
        Broken("low_back", b, f"{_day(a)} and {_day(b)} both load the low back: leave a day between them.")
        for a, b in pairwise(backs)
        if (b - a).days == 1
    ]
    if days:
        found += [Broken("no_training", slot.on, f"{_day(slot.on)} is no training day.") for slot in slots if slot.on.weekday() not in days]
    if most_sets is not None and work:
        for week in sorted({slot.week for slot in work}):
            sets = sum(slot.sets for slot in work if slot.week == week)
            if sets > most_sets:
                first = min(slot.on for slot in work if slot.week == week)
                found.append(Broken("too_many_sets", first, f"Week {week} has {sets} sets; {most_sets} are allowed."))
    return sorted({(one.on, one.rule, one.says): one for one in found}.values(), key=lambda one: (one.on, one.rule))


def week_of(slots: Sequence[Slot], items: Sequence[Item], week: int) -> tuple[int, float, float]:
    """Of one week of a plan: sets; minutes of work and rest; and effort, in repetitions as heavy as the best."""
    of_week = [(slot, items[slot.item]) for slot in slots if slot.week == week and slot.item is not None]
    work = [replace(item, sets=slot.sets, percent=slot.percent) for slot, item in of_week]
    return sum(item.sets for item in work), sum(item.minutes for item in work), sum(item.effort for item in work)


def _weekdays(items: Sequence[Item], days: Sequence[int], begins: int) -> list[tuple[int, ...]]:
    """The days of the week for each item: the first training day from the one it begins on is used; low-back work with a day between, the
    rest spread out."""
    choices = [list(combinations(days, min(item.per_week, len(days)))) for item in items]
    first = min(days, key=lambda day: (day - begins) % WEEK)

    def worse(chosen: Iterable[tuple[int, ...]]) -> tuple[bool, int, int, int]:
        chosen = list(chosen)
        backs = {day for item, own in zip(items, chosen, strict=True) if item.exercise.low_back for day in own}
        touching = sum((day + 1) % WEEK in backs for day in backs)
        counts = [sum(day in own for own in chosen) for day in days]
        apart = sum(-min((b - a) % WEEK for a, b in pairwise([*own, own[0] + WEEK])) for own in chosen if len(own) > 1)
        return not any(first in own for own in chosen), touching, max(counts), apart

    return list(min(product(*choices), key=worse))


def _day(on: date) -> str:
    return f"{on:%A} {on.day} {on:%B}"
