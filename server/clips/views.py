from __future__ import annotations

from pathlib import Path
from typing import Any

from django.db.models import QuerySet
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, parsers, status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from atleta.footage import FootageError, clip_sound
from atleta_site.paging import Pages
from atleta_site.sent import ObjectParser
from jobs.models import AnalysisJob
from jobs.services import request_analysis, stop
from people import accounts
from reviews.services import follow

from . import queue
from .derived import loudness_of
from .models import Clip
from .queue import ClipFilter, Turn
from .ranged import ranged_file
from .serializers import ClipSerializer, LoudnessSerializer, NextSerializer, ProgressSerializer, QueueSerializer, UploadSerializer
from .services import forget, receive_clip

ON_THE_RECORD = {"lift", "load", "load_unit", "made", "facing", "athlete"}


class ClipViewSet(
    mixins.ListModelMixin, mixins.RetrieveModelMixin, mixins.UpdateModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet
):
    """The coach's own clips: the queue."""

    serializer_class = ClipSerializer
    queryset = Clip.objects.none()
    pagination_class = Turn
    filterset_class = ClipFilter
    http_method_names = ["get", "post", "patch", "delete"]

    def get_queryset(self) -> QuerySet[Clip]:
        return queue.coachs_clips(self.request.user.pk)

    @extend_schema(responses=QueueSerializer(many=True))
    @action(detail=False, pagination_class=None, filterset_class=None)
    def queue(self, request: Request) -> Response:
        """What the coach's clips wait for: of each sort how many, and the first of them."""
        told = queue.queue_of(request.user.pk, Pages.page_size)
        return Response(QueueSerializer(told, many=True, context=self.get_serializer_context()).data)

    @extend_schema(responses=NextSerializer)
    @action(detail=True)
    def next(self, request: Request, pk: str) -> Response:
        """The next clip that waits for the coach; null where none does."""
        found = queue.next_after(self.get_object(), request.user.pk)
        return Response({"clip": found and str(found.pk)})

    @extend_schema(responses=ClipSerializer(many=True))
    @action(detail=True, pagination_class=None, filterset_class=None)
    def beside(self, request: Request, pk: str) -> Response:
        """Lifts that can be laid beside this one, the likest first."""
        return Response(self.get_serializer(queue.beside(self.get_object(), request.user.pk), many=True).data)

    @extend_schema(request={"multipart/form-data": UploadSerializer}, responses={201: ClipSerializer})
    def create(self, request: Request) -> Response:
        asked = UploadSerializer(data=request.data, context={"request": request})
        asked.is_valid(raise_exception=True)
        facts: dict[str, Any] = dict(asked.validated_data)
        upload, athlete = facts.pop("file"), facts.pop("athlete")
        clip = receive_clip(Path(upload.temporary_file_path()), upload.name, athlete, **facts)
        return Response(self.get_serializer(self.get_queryset().get(pk=clip.pk)).data, status=status.HTTP_201_CREATED)

    def perform_update(self, serializer: ClipSerializer) -> None:  # type: ignore[override]
        clip, said = self.get_object(), serializer.validated_data

        def change(now: Clip) -> None:
            for name, value in said.items():
                setattr(now, name, value)
            now.save(update_fields=list(said))

        if hasattr(clip, "analysis") and ON_THE_RECORD & set(said):
            follow(clip, change)
        else:
            change(clip)
        serializer.instance = self.get_object()

    def perform_destroy(self, clip: Clip) -> None:
        forget(clip)
        accounts.note(self.request.user, f"Clip {clip.file_name} of {clip.athlete.name} deleted")

    @extend_schema(responses=ProgressSerializer(many=True))
    @action(detail=False, pagination_class=None)
    def progress(self, request: Request) -> Response:
        """How far the analyses are that wait or are under way: all that the queue asks for while it shows them."""
        busy = AnalysisJob.objects.filter(
            clip__athlete__coach_id=request.user.pk, state__in=[AnalysisJob.State.QUEUED, AnalysisJob.State.RUNNING]
        )  # fmt: skip
        return Response(ProgressSerializer(busy, many=True).data)

    @extend_schema(request=None, responses=ClipSerializer)
    @action(detail=True, methods=["post"])
    def retry(self, request: Request, pk: str) -> Response:
        """Try a failed analysis again."""
        clip = self.get_object()
        if clip.job.state == AnalysisJob.State.FAILED:
            request_analysis(clip)
        return Response(self.get_serializer(self.get_queryset().get(pk=clip.pk)).data)

    @extend_schema(request=None, responses=ClipSerializer)
    @action(detail=True, methods=["post"])
    def stop(self, request: Request, pk: str) -> Response:
        """Stop an analysis that waits or runs."""
        stop(self.get_object().job)
        return Response(self.get_serializer(self.get_queryset().get(pk=pk)).data)

    def get_parsers(self) -> list[parsers.BaseParser]:
        return [parsers.MultiPartParser(), ObjectParser()]


def own_clip(request: HttpRequest, pk: str) -> Clip:
    """The signed-in coach's clip, or 404: whose clip it is otherwise is nobody's business."""
    if not request.user.is_authenticated:
        return get_object_or_404(Clip.objects.none(), pk=pk)
    mine = Clip.objects.filter(athlete__coach_id=request.user.pk).select_related("athlete", "job", "analysis")
    return get_object_or_404(mine.defer("analysis__document"), pk=pk)


def video(request: HttpRequest, pk: str) -> HttpResponseBase:
    """The copy for stepping, by ranges."""
    clip = own_clip(request, pk)
    if not clip.proxy_times_file.exists():
        return HttpResponse("The copy for stepping is not ready yet.", status=404, content_type="text/plain")
    return ranged_file(request, clip.proxy_file, "video/mp4")


def sound(request: HttpRequest, pk: str) -> HttpResponseBase:
    """What the clip's microphone heard, on the clock of its frames."""
    clip = own_clip(request, pk)
    try:
        heard = clip_sound(clip.original)
    except FootageError as error:
        return HttpResponse(error.message, status=404, content_type="text/plain")
    if heard is None:
        return HttpResponse("This clip has no sound.", status=404, content_type="text/plain")
    return HttpResponse(heard, content_type="audio/mp4")


class LoudnessView(APIView):
    """How loud the clip is, frame by frame."""

    @extend_schema(responses=LoudnessSerializer)
    def get(self, request: Request, pk: str) -> Response:
        return Response({"loudness": loudness_of(own_clip(request, pk))})


def poster(request: HttpRequest, pk: str) -> HttpResponseBase:
    clip = own_clip(request, pk)
    if not clip.poster_file.exists():
        return HttpResponse(status=404)
    return FileResponse(clip.poster_file.open("rb"), content_type="image/jpeg")
