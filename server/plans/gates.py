"""What an athlete's state forbids at present, and the coach's reasons for work despite it."""

from __future__ import annotations

from datetime import date, timedelta

from django.db.models import Q
from django.utils import timezone

from atleta.coaching import PAIN_STOPS_AT, Exercise, Gates, barred, low_readiness
from people.models import Athlete

from .models import Assignment, Excuse

# Readiness is that of today or of the day before; earlier entries only tell whether it falls, and no further back than this.
FRESH, TREND = timedelta(days=1), timedelta(days=14)
# A reason for work against a caution has at least so many letters.
REASON_LETTERS = 10


def gates_of(athlete: Athlete, on: date | None = None) -> Gates:
    """An athlete's state on a day, today when none is named: what was reported and is open, and how ready they are."""
    on = on or timezone.localdate()
    still = athlete.reports.filter(Q(until__isnull=True) | Q(until__gt=on), kind="pain", degree__gt=0, degree__lt=PAIN_STOPS_AT)
    rows = list(athlete.days.filter(on__lte=on, on__gt=on - TREND, readiness__isnull=False).order_by("-on")[:3])
    fresh = rows and rows[0].on >= on - FRESH
    return Gates(
        pain=athlete.pain,
        contact_bruise=athlete.contact_bruise,
        sore=frozenset(still.values_list("site", flat=True)),
        low_readiness=low_readiness([row.readiness for row in reversed(rows)]) if fresh else "",
    )


def paused(task: Assignment, exercise: Exercise, gates: Gates) -> str:
    """Why a piece of work waits at present; empty where nothing forbids it, or the coach gave a reason since it was reported. No reason
    stands against pain."""
    why = barred(exercise, gates)
    if not why or gates.stop:
        return why
    return "" if _excused(task) else why


def _excused(task: Assignment) -> bool:
    """Whether the coach gave a reason after everything that is open was reported."""
    reasons = [row.at for row in task.excuses.all()] + ([task.set_at] if len(task.in_spite_of) >= REASON_LETTERS else [])
    if not reasons:
        return False
    on = timezone.localdate()
    open_since = (
        task.clip.athlete.reports.filter(Q(until__isnull=True) | Q(until__gt=on)).order_by("-since").values_list("since", flat=True)
    )
    newest = next(iter(open_since), None)
    return newest is None or timezone.localdate(max(reasons)) >= newest


def excuse(task: Assignment, words: str, by: object) -> Excuse:
    """Keep the coach's reason why this work goes on despite a caution."""
    return Excuse.objects.create(assignment=task, words=words.strip(), by=by)
