from __future__ import annotations

from dataclasses import asdict

from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from atleta.coaching import drill_lift
from clips.views import own_clip
from reviews.views import measured_clip

from . import services
from .serializers import AskedPercentSerializer, AssignmentSerializer, DoseSerializer, OffersSerializer


class OffersView(APIView):
    """Exercises that answer what stands on a clip, best first."""

    @extend_schema(responses=OffersSerializer)
    def get(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        offered, caution = services.offered(clip)
        lift = drill_lift(clip.lift)
        rows = [
            {
                "exercise": one.exercise.id,
                "name": one.exercise.named(lift),
                "kind": one.exercise.kind,
                "reason": one.reason,
                "how": one.exercise.how,
                "cautions": list(one.exercise.cautions),
                "sets": one.exercise.sets,
                "reps": one.exercise.reps,
                "per_week": one.exercise.per_week,
                "weeks": one.exercise.weeks,
                "percent": one.exercise.start_percent,
                "percent_low": one.exercise.percent[0],
                "percent_high": one.exercise.percent[1],
                "dose": asdict(dose),
            }
            for one, dose in offered
        ]
        return Response({"caution": caution, "offers": rows})


class DoseView(APIView):
    """The load of one exercise at the share of the best that the coach is thinking of."""

    @extend_schema(parameters=[AskedPercentSerializer], responses=DoseSerializer)
    def get(self, request: Request, pk: str, exercise: str) -> Response:
        clip = measured_clip(request, pk)
        asked = AskedPercentSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        _, dose = services.allowed(clip, exercise, asked.validated_data["percent"])
        return Response(asdict(dose))


class AssignmentsView(APIView):
    """Work set because of a clip."""

    @extend_schema(responses=AssignmentSerializer(many=True))
    def get(self, request: Request, pk: str) -> Response:
        return Response(AssignmentSerializer(own_clip(request, pk).assignments.all(), many=True).data)

    @extend_schema(request=AssignmentSerializer, responses={201: AssignmentSerializer})
    def post(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        asked = AssignmentSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        held = dict(asked.validated_data)
        made = services.assign(clip, held.pop("exercise"), **held)
        return Response(AssignmentSerializer(made).data, status=status.HTTP_201_CREATED)


class AssignmentView(APIView):
    """One piece of work; it can be taken back until the review is handed over again."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: str, assignment: int) -> Response:
        own_clip(request, pk).assignments.filter(pk=assignment).delete()
        return Response(status=status.HTTP_204_NO_CONTENT)
