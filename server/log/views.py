from __future__ import annotations

from pathlib import Path
from typing import Any

from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import parsers, permissions, status
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from atleta.coaching import filmed_as
from clips.services import receive_clip
from people import accounts
from people.models import Athlete
from plans.blocks import calendar_of, follows
from plans.models import Assignment
from plans.views import own_athlete

from . import leaving, services
from .models import Said
from .serializers import (
    CsvSerializer,
    EntriesSerializer,
    LogSerializer,
    MorningSerializer,
    ReadInSerializer,
    SentClipSerializer,
    WorkLinkSerializer,
    WorkSerializer,
)

NO_LINK = "This link has been withdrawn. Ask your coach for a new one."
NOT_KEPT = {"Cache-Control": "private, no-store"}

# An athlete films a heavy day set by set, and no more.
MOST_FILMS_A_DAY = 60


class PrivateView(APIView):
    """Behind an athlete's private link; no account needed."""

    permission_classes = [permissions.AllowAny]
    authentication_classes: list[type] = []

    def athlete(self, token: str) -> Athlete:
        athlete = services.find(token)
        if athlete is None:
            raise NotFound(NO_LINK)
        return athlete


class WorkView(PrivateView):
    """Today's work and what is around it; and what was entered on the phone."""

    @extend_schema(responses=WorkSerializer)
    def get(self, request: Request, token: str) -> Response:
        athlete = self.athlete(token)
        services.opened(token)
        return Response(_work(athlete), headers=NOT_KEPT)

    @extend_schema(request=EntriesSerializer, responses=WorkSerializer)
    def post(self, request: Request, token: str) -> Response:
        athlete = self.athlete(token)
        asked = EntriesSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        services.enter(athlete, asked.validated_data, by_coach=False)
        return Response(_work(athlete), headers=NOT_KEPT)


class SentClipView(PrivateView):
    """The athlete's next clip, into the right task."""

    parser_classes = [parsers.MultiPartParser]

    @extend_schema(request={"multipart/form-data": SentClipSerializer}, responses={201: WorkSerializer})
    def post(self, request: Request, token: str) -> Response:
        athlete = self.athlete(token)
        sent = athlete.clips.filter(added_at__date=timezone.localdate(), by_link=True)
        if sent.count() >= MOST_FILMS_A_DAY:
            raise services.CannotLog(f"{MOST_FILMS_A_DAY} films came in from you today, and no more do. Send the next one tomorrow.")
        asked = SentClipSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        held = asked.validated_data
        task = None
        if held["assignment"] is not None:
            task = get_object_or_404(Assignment, pk=held["assignment"], clip__athlete=athlete)
        upload, lift = held["file"], filmed_as(task.exercise, task.lift) if task else held.get("lift") or "other"
        clip = receive_clip(
            Path(upload.temporary_file_path()), upload.name, athlete, lift=lift, load=held["load"],
            load_unit=held["load_unit"], filmed_on=timezone.localdate(), by_link=True,
        )  # fmt: skip
        if task is not None:
            follows(clip, task)
        return Response(_work(athlete), status=status.HTTP_201_CREATED, headers=NOT_KEPT)


def feed(request: HttpRequest, token: str) -> HttpResponse:
    """The athlete's plan as a calendar that a phone can subscribe to."""
    athlete = services.find(token)
    if athlete is None:
        return HttpResponse(NO_LINK, status=404, content_type="text/plain")
    return HttpResponse(calendar_of(athlete), content_type="text/calendar; charset=utf-8", headers=NOT_KEPT)


def _work(athlete: Athlete) -> dict[str, Any]:
    return services.work_of(Athlete.objects.get(pk=athlete.pk), timezone.localdate())


class LinkView(APIView):
    """The athlete's private link: made, or withdrawn so that nobody gets in by it any more."""

    @extend_schema(request=None, responses=WorkLinkSerializer)
    def post(self, request: Request, pk: int) -> Response:
        return Response({"token": services.link_of(own_athlete(request, pk)).token})

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        athlete = own_athlete(request, pk)
        services.withdraw(athlete)
        accounts.note(request.user, f"{athlete.name}'s link withdrawn")
        return Response(status=status.HTTP_204_NO_CONTENT)


class LogView(APIView):
    """An athlete's log; what the coach enters of it."""

    @extend_schema(responses=LogSerializer)
    def get(self, request: Request, pk: int) -> Response:
        return Response(services.log_of(own_athlete(request, pk)))

    @extend_schema(request=EntriesSerializer, responses=LogSerializer)
    def post(self, request: Request, pk: int) -> Response:
        athlete = own_athlete(request, pk)
        asked = EntriesSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        services.enter(athlete, asked.validated_data, by_coach=True)
        return Response(services.log_of(own_athlete(request, pk)))


class ReadView(APIView):
    """That an answer was read."""

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, pk: int, said: int) -> Response:
        Said.objects.filter(pk=said, athlete=own_athlete(request, pk)).update(read_at=timezone.now())
        return Response(status=status.HTTP_204_NO_CONTENT)


class ReadInView(APIView):
    """Take a log in from comma-separated text."""

    @extend_schema(request=CsvSerializer, responses=ReadInSerializer)
    def post(self, request: Request, pk: int) -> Response:
        asked = CsvSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        return Response({"read": services.read_in(own_athlete(request, pk), asked.validated_data["text"])})


class MorningView(APIView):
    """The coach's morning."""

    @extend_schema(responses=MorningSerializer)
    def get(self, request: Request) -> Response:
        return Response(services.morning_of(request.user.pk, timezone.localdate()))


def log_file(request: HttpRequest, pk: int) -> HttpResponse:
    """The log as a file to keep."""
    athlete = own_athlete(request, pk)
    name = f'attachment; filename="log-{athlete.pk}.csv"'
    return HttpResponse(services.written(athlete), content_type="text/csv; charset=utf-8", headers={"Content-Disposition": name})


class LeavingView(APIView):
    """An athlete leaves: clips, films, reviews, links, work and log go with them."""

    @extend_schema(request=None, responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        athlete = own_athlete(request, pk)
        leaving.remove(athlete)
        accounts.note(request.user, f"{athlete.name} removed, with everything of theirs")
        return Response(status=status.HTTP_204_NO_CONTENT)


def taken_along(request: HttpRequest, pk: int) -> FileResponse:
    """Everything of an athlete, as a zip of open formats."""
    athlete = own_athlete(request, pk)
    return FileResponse(
        leaving.taken_along(athlete), as_attachment=True, filename=f"athlete-{athlete.pk}.zip", content_type="application/zip"
    )
