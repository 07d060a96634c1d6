"""A coach's clips by what they wait for, in the order in which a coach goes through them."""

from __future__ import annotations

from datetime import timedelta

import django_filters
from django.db.models import Exists, OuterRef, Q, QuerySet, TextChoices
from django.utils import timezone
from rest_framework.request import Request

from atleta_site.paging import Pages
from jobs.models import AnalysisJob
from reviews.models import Analysis, HandOver

from .models import Clip

# An athlete's next session is mostly so far off: what is said later than that is said too late for it.
LATE = timedelta(days=2)
# Of lifts to be laid beside one, so many of each sort are named.
MOST_LIKE_IT, MOST_OTHERS = 100, 40


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
    return (
        Clip.objects.filter(athlete__coach_id=user_id)
        .select_related("athlete", "job")
        .defer("info")
        .annotate(handed=Exists(handed), measured=Exists(measured))
        .order_by("-added_at", "pk")
    )


def waiting_for(clips: QuerySet[Clip], what: str) -> QuerySet[Clip]:
    """Those of a coach's clips that wait for it, in turn."""
    failed, measured = Q(job__state=AnalysisJob.State.FAILED), Q(measured=True)
    late = Q(added_at__lte=timezone.now() - LATE)
    match what:
        case Waiting.FAILED:
            return clips.filter(failed)
        case Waiting.WORKING:
            return clips.filter(~failed, measured=False)
        case Waiting.HANDED:
            return clips.filter(~failed, measured, handed=True)
        case Waiting.OVERDUE:
            # Who has waited longest comes first.
            return clips.filter(~failed, measured, late, handed=False).order_by("added_at", "pk")
        case _:
            return clips.filter(~failed, measured, ~late, handed=False)


def next_after(clip: Clip, user_id: int) -> Clip | None:
    """The clip after this one that waits for the coach; after the last one the first."""
    clips = coachs_clips(user_id).exclude(pk=clip.pk)
    overdue, fresh = (waiting_for(clips, what) for what in (Waiting.OVERDUE, Waiting.LOOK))
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
    waiting = django_filters.ChoiceFilter(choices=Waiting.choices, method="waits", label="What they wait for.")

    class Meta:
        model = Clip
        fields = ["athlete", "lift"]

    def waits(self, clips: QuerySet[Clip], name: str, what: str) -> QuerySet[Clip]:
        return waiting_for(clips, what)
