"""A coach's clips by what they wait for, in the order in which a coach goes through them."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import UUID

import django_filters
from django.db.models import Case, CharField, Exists, OuterRef, Q, QuerySet, TextChoices, Value, When
from django.db.models.functions import Cast
from django.utils import timezone
from rest_framework.request import Request

from atleta_site.paging import Pages
from jobs.models import AnalysisJob
from reviews.models import Analysis, HandOver

from .models import Clip

# An athlete's next session is mostly so far off: what is said later than that is said too late for it.
LATE = timedelta(days=2)
# Of lifts to be laid beside one, so many of each sort are named.
MOST_LIKE_IT, MOST_OTHERS = 60, 20


class Waiting(TextChoices):
    """What a clip waits for."""

    FAILED = "failed"
    OVERDUE = "overdue"
    """For the coach, too long."""
    LOOK = "look"
    """For the coach."""
    WORKING = "working"
    HANDED = "handed"


def coachs_clips(user_id: int) -> QuerySet[Clip]:
    """The coach's clips with what the queue shows, in one statement, what came in last first."""
    handed = HandOver.objects.filter(clip=OuterRef("pk"), withdrawn_at__isnull=True)
    measured = Analysis.objects.filter(clip=OuterRef("pk"))
    waits = Case(
        When(job__state=AnalysisJob.State.FAILED, then=Value(Waiting.FAILED)),
        When(measured=False, then=Value(Waiting.WORKING)),
        When(handed=True, then=Value(Waiting.HANDED)),
        When(added_at__lte=timezone.now() - LATE, then=Value(Waiting.OVERDUE)),
        default=Value(Waiting.LOOK),
    )
    return (
        Clip.objects.filter(athlete__coach_id=user_id)
        .select_related("athlete", "job")
        .defer("info")
        .annotate(handed=Exists(handed), measured=Exists(measured), waits=waits)
        .order_by("-added_at", "pk")
    )


def queue_of(user_id: int, most: int) -> list[dict[str, Any]]:
    """Of every sort how many wait, and the first of them, in turn."""
    sorts: dict[str, list[Any]] = {what: [] for what in Waiting.values}
    # Ids as they are kept: thousands are not made into objects to be counted.
    for pk, what in coachs_clips(user_id).values_list(Cast("pk", CharField()), "waits"):
        sorts[what].append(pk)
    # Who has waited too long, longest first.
    sorts[Waiting.OVERDUE].reverse()
    first = {what: rows[:most] for what, rows in sorts.items()}
    clips = coachs_clips(user_id).in_bulk([UUID(pk) for rows in first.values() for pk in rows])
    return [
        {"waiting": what, "count": len(sorts[what]), "clips": [clips[key] for pk in rows if (key := UUID(pk)) in clips]}
        for what, rows in first.items()
    ]


def next_after(clip: Clip, user_id: int) -> Clip | None:
    """The clip after this one that waits for the coach; after the last one the first."""
    clips = coachs_clips(user_id).exclude(pk=clip.pk)
    overdue, fresh = clips.filter(waits=Waiting.OVERDUE).order_by("added_at", "pk"), clips.filter(waits=Waiting.LOOK)
    if clip.added_at <= timezone.now() - LATE:
        turn = [overdue.filter(added_at__gte=clip.added_at), fresh, overdue]
    else:
        turn = [fresh.filter(added_at__lte=clip.added_at), overdue, fresh]
    return next((found for rows in turn if (found := rows.first()) is not None), None)


def beside(clip: Clip, user_id: int) -> list[Clip]:
    """Measured clips that can be laid beside one: the athlete's same lift first, then their others, models, the same lift of others."""
    clips = coachs_clips(user_id).filter(measured=True).exclude(pk=clip.pk)
    own, like = Q(athlete=clip.athlete_id), Q(lift=clip.lift)
    sorts = [(own & like, MOST_LIKE_IT), (own & ~like, MOST_OTHERS), (~own & ~Q(model_name=""), MOST_OTHERS), (~own & like, MOST_OTHERS)]
    return list({found.pk: found for chosen, most in sorts for found in clips.filter(chosen)[:most]}.values())


class Turn(Pages):
    """Clips page by page; where one waits too long, who has waited longest comes first."""

    def get_ordering(self, request: Request, queryset: QuerySet[Clip], view: object) -> tuple[str, ...]:
        return ("added_at", "pk") if request.query_params.get("waiting") == Waiting.OVERDUE else self.ordering


class ClipFilter(django_filters.FilterSet):
    # A number, so that somebody else's athlete is as one who is not there.
    athlete = django_filters.NumberFilter(field_name="athlete_id")
    waiting = django_filters.ChoiceFilter(choices=Waiting.choices, method="waits", label="What they wait for.")

    class Meta:
        model = Clip
        fields = ["lift"]

    def waits(self, clips: QuerySet[Clip], name: str, what: str) -> QuerySet[Clip]:
        return clips.filter(waits=what)
