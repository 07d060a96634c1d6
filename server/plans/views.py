from __future__ import annotations

from dataclasses import asdict
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from atleta.coaching import Gates, Item, as_data, load_ladders, load_library, ratios_of
from atleta.measures import declarations
from clips.views import own_clip
from people.models import Athlete
from reviews.schools import catalogue_of
from reviews.series import day_of
from reviews.views import measured_clip

from . import blocks, classes, gates, services, shelf
from .models import Assignment, Block, FollowUp, Slot
from .serializers import (
    AskedPercentSerializer,
    AssignmentSerializer,
    BeginSerializer,
    BlockSerializer,
    ChangeBlockSerializer,
    ChangeDoseSerializer,
    ClassSerializer,
    DoseSerializer,
    ExcuseSerializer,
    ExerciseSerializer,
    FollowedSerializer,
    FollowsSerializer,
    HiddenSerializer,
    LibrarySerializer,
    OffersSerializer,
    OwnLadderSerializer,
    PassedSerializer,
    PlanSerializer,
    ShowsSerializer,
    SlotSerializer,
    TakeUpSerializer,
)


class OffersView(APIView):
    """Exercises that answer what stands on a clip, best first."""

    @extend_schema(responses=OffersSerializer)
    def get(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        offered, caution = services.offered(clip)
        rows = [
            {
                "exercise": offer.candidate.exercise.id,
                "name": offer.candidate.exercise.named(offer.lift),
                "kind": offer.candidate.exercise.kind,
                "sort": offer.candidate.exercise.sort,
                "first": offer.first,
                "another_day": offer.candidate.another_day,
                "contact": offer.candidate.exercise.contact,
                "safeties": offer.candidate.exercise.safeties,
                "reason": offer.candidate.reason,
                "how": offer.candidate.exercise.how,
                "cautions": list(offer.candidate.exercise.cautions),
                "before": list(offer.candidate.exercise.before),
                "load": offer.candidate.exercise.load,
                "sets": offer.candidate.exercise.sets,
                "reps": offer.candidate.exercise.reps,
                "per_week": offer.candidate.exercise.per_week,
                "weeks": offer.candidate.exercise.weeks,
                "percent": offer.candidate.percent,
                "percent_low": offer.candidate.exercise.percent[0],
                "percent_high": offer.candidate.exercise.percent[1],
                "dose": asdict(offer.dose),
            }
            for offer in offered
        ]
        return Response({"caution": caution, "offers": rows})


class DoseView(APIView):
    """The load of one exercise at the share of the best that the coach is thinking of."""

    @extend_schema(parameters=[AskedPercentSerializer], responses=DoseSerializer)
    def get(self, request: Request, pk: str, exercise: str) -> Response:
        clip = measured_clip(request, pk)
        asked = AskedPercentSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        _, _, dose = services.allowed(clip, exercise, asked.validated_data["percent"])
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
    """One piece of work: its dose can be changed, it can go on despite a caution, and it can be taken back."""

    @extend_schema(request=ChangeDoseSerializer, responses=AssignmentSerializer)
    def patch(self, request: Request, pk: str, assignment: int) -> Response:
        task = get_object_or_404(Assignment, pk=assignment, clip=own_clip(request, pk))
        asked = ChangeDoseSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        blocks.change_dose(task, **asked.validated_data)
        return Response(AssignmentSerializer(task).data)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: str, assignment: int) -> Response:
        own_clip(request, pk).assignments.filter(pk=assignment).delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


class ExcuseView(APIView):
    """The coach's reason why a piece of work goes on despite a caution."""

    @extend_schema(request=ExcuseSerializer, responses={201: ExcuseSerializer})
    def post(self, request: Request, assignment: int) -> Response:
        task = get_object_or_404(Assignment, pk=assignment, clip__athlete__coach_id=request.user.pk)
        asked = ExcuseSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        gates.excuse(task, asked.validated_data["words"], request.user)
        return Response({"words": asked.validated_data["words"]}, status=status.HTTP_201_CREATED)


# -- library ----------------------------------------------------------------------------------------------------------------


class LibraryView(APIView):
    """Every exercise and ladder, as this coach has them."""

    @extend_schema(responses=LibrarySerializer)
    def get(self, request: Request) -> Response:
        return Response(_library(request.user.pk))


class ExerciseView(APIView):
    """One exercise of the coach's library: their own version of it, or one of their own."""

    @extend_schema(request=ExerciseSerializer, responses=LibrarySerializer)
    def put(self, request: Request, exercise: str) -> Response:
        asked = ExerciseSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        data = dict(asked.validated_data)
        data["passes"] = [{name: value for name, value in one.items() if value is not None} for one in data.get("passes", ())]
        shelf.shelve(request.user.pk, exercise, {name: value for name, value in data.items() if value not in ([], "") or name in _LISTS})
        return Response(_library(request.user.pk))

    @extend_schema(responses={200: LibrarySerializer})
    def delete(self, request: Request, exercise: str) -> Response:
        shelf.put_back(request.user.pk, exercise)
        return Response(_library(request.user.pk))


class HiddenView(APIView):
    """Put an exercise away, or bring it back."""

    @extend_schema(request=HiddenSerializer, responses=LibrarySerializer)
    def put(self, request: Request, exercise: str) -> Response:
        asked = HiddenSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        shelf.hide(request.user.pk, exercise, asked.validated_data["hidden"])
        return Response(_library(request.user.pk))


# Lists that may be empty in an exercise and are still to be there.
_LISTS = ("muscles", "easier", "harder", "before", "cautions")


def _library(coach_id: int) -> dict[str, Any]:
    library, ships = shelf.library_of(coach_id), load_library()
    own, hidden, used = {one.id for one in shelf.own_of(coach_id)}, shelf.hidden_of(coach_id), shelf.used_by(coach_id)
    return {
        "exercises": [
            as_data(one) | {"own": one.id in own, "ships": one.id in ships, "hidden": one.id in hidden, "used_by": used.get(one.id, [])}
            for one in sorted(library.values(), key=lambda one: one.name.replace("{lift} ", "").lower())
        ],
        "ladders": [
            as_data(ladder)
            | {
                "own": ladder.id not in load_ladders(),
                "steps": [asdict(step) | {"name": library[step.exercise].named(ladder.lift)} for step in ladder.steps],
            }
            for ladder in classes.ladders_of(coach_id).values()
        ],
    }


class LaddersView(APIView):
    """Ladders of the coach's own."""

    @extend_schema(request=OwnLadderSerializer, responses={201: LibrarySerializer})
    def post(self, request: Request) -> Response:
        classes.put_ladder(request.user, _ladder_data(request))
        return Response(_library(request.user.pk), status=status.HTTP_201_CREATED)


class LadderView(APIView):
    """One ladder of the coach's own."""

    @extend_schema(request=OwnLadderSerializer, responses=LibrarySerializer)
    def put(self, request: Request, ladder: str) -> Response:
        classes.put_ladder(request.user, _ladder_data(request), ladder)
        return Response(_library(request.user.pk))

    @extend_schema(responses={200: LibrarySerializer})
    def delete(self, request: Request, ladder: str) -> Response:
        classes.take_ladder_back(request.user, ladder)
        return Response(_library(request.user.pk))


def _ladder_data(request: Request) -> dict[str, Any]:
    asked = OwnLadderSerializer(data=request.data)
    asked.is_valid(raise_exception=True)
    data = dict(asked.validated_data)
    data["step"] = [
        {**step, "passes": [{name: value for name, value in rule.items() if value is not None} for rule in step.get("passes", ())]}
        for step in data.pop("steps")
    ]
    return data


class ClassView(APIView):
    """The coach's athletes on one ladder."""

    @extend_schema(responses=ClassSerializer)
    def get(self, request: Request, ladder: str) -> Response:
        return Response(classes.class_of(request.user.pk, classes.one_of(request.user.pk, ladder)))


class OnLadderView(APIView):
    """Whether an athlete is on a ladder."""

    @extend_schema(request=None, responses=ClassSerializer)
    def put(self, request: Request, ladder: str, athlete: int) -> Response:
        found = classes.one_of(request.user.pk, ladder)
        classes.put_on(own_athlete(request, athlete), found)
        return Response(classes.class_of(request.user.pk, found))

    @extend_schema(responses={200: ClassSerializer})
    def delete(self, request: Request, ladder: str, athlete: int) -> Response:
        found = classes.one_of(request.user.pk, ladder)
        classes.take_off(own_athlete(request, athlete), found)
        return Response(classes.class_of(request.user.pk, found))


class ClassStepView(APIView):
    """The coach's word on whether an athlete has passed a step."""

    @extend_schema(request=PassedSerializer, responses=ClassSerializer)
    def put(self, request: Request, ladder: str, athlete: int, step: int) -> Response:
        asked = PassedSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        found = classes.one_of(request.user.pk, ladder, step)
        classes.pass_step(own_athlete(request, athlete), found, step, asked.validated_data["passed"])
        return Response(classes.class_of(request.user.pk, found))


# -- blocks -----------------------------------------------------------------------------------------------------------------


def own_athlete(request: HttpRequest, pk: int) -> Athlete:
    """The signed-in coach's athlete, or 404."""
    return get_object_or_404(Athlete, pk=pk, coach_id=request.user.pk or 0)


def own_block(request: HttpRequest, pk: int) -> Block:
    """A block of the signed-in coach's athlete, or 404."""
    return get_object_or_404(Block, pk=pk, athlete__coach_id=request.user.pk or 0)


class PlanView(APIView):
    """An athlete's blocks."""

    @extend_schema(responses=PlanSerializer)
    def get(self, request: Request, pk: int) -> Response:
        athlete = own_athlete(request, pk)
        rows = sorted(athlete.blocks.all(), key=lambda block: (block.closed_at is not None, -block.begins.toordinal(), -block.pk))
        link = getattr(athlete, "link", None)
        bests = {best.lift: best.kilos for best in athlete.bests.all()}
        # Who is to stop is advised nothing to train.
        stop = gates.gates_of(athlete).stop
        return Response({
            "athlete": athlete.pk, "name": athlete.name, "training_days": athlete.training_days, "blocks": [_block(row) for row in rows],
            "link": link.token if link else None, "link_opened": link.opened_count if link else 0,
            "ratios": [
                {"over": ratio.over, "under": ratio.under, "value": value, "low": ratio.low, "high": ratio.high,
                 "says": "" if stop else says}
                for ratio, value, says in ratios_of(bests)
            ],
        })  # fmt: skip


class BeginView(APIView):
    """Put the work set on a clip on the calendar."""

    @extend_schema(request=BeginSerializer, responses={201: BlockSerializer})
    def post(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        asked = BeginSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        return Response(_block(blocks.begin(clip, **asked.validated_data)), status=status.HTTP_201_CREATED)


class BlockView(APIView):
    """One block; taking it off the calendar leaves the work and the log."""

    @extend_schema(responses=BlockSerializer)
    def get(self, request: Request, pk: int) -> Response:
        return Response(_block(own_block(request, pk)))

    @extend_schema(request=ChangeBlockSerializer, responses=BlockSerializer)
    def patch(self, request: Request, pk: int) -> Response:
        block = own_block(request, pk)
        asked = ChangeBlockSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        blocks.change_block(block, **asked.validated_data)
        return Response(_block(own_block(request, pk)))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        blocks.take_back(own_block(request, pk))
        return Response(status=status.HTTP_204_NO_CONTENT)


class SlotView(APIView):
    """Move one day's work or change its load; the answer says which rules the plan no longer keeps."""

    @extend_schema(request=SlotSerializer, responses=BlockSerializer)
    def patch(self, request: Request, pk: int, slot: int) -> Response:
        block = own_block(request, pk)
        asked = SlotSerializer(data=request.data, partial=True)
        asked.is_valid(raise_exception=True)
        blocks.change_slot(get_object_or_404(Slot, pk=slot, block=block), **asked.validated_data)
        return Response(_block(own_block(request, pk)))


class CloseView(APIView):
    """End a block and keep what came of it."""

    @extend_schema(request=None, responses=BlockSerializer)
    def post(self, request: Request, pk: int) -> Response:
        return Response(_block(blocks.close(own_block(request, pk))))


class FollowsView(APIView):
    """That a clip shows work that was set, and what it says of it."""

    @extend_schema(responses=ShowsSerializer)
    def get(self, request: Request, pk: str) -> Response:
        clip = own_clip(request, pk)
        row = FollowUp.objects.filter(clip=clip).first()
        library = shelf.library_of(request.user.pk)
        offered = [{"assignment": task.pk, "name": library[task.exercise].named(task.lift), "on": on} for task, on in blocks.shown_by(clip)]
        return Response({"follows": _followed(row) if row else None, "offered": offered})

    @extend_schema(request=FollowsSerializer, responses=FollowedSerializer)
    def put(self, request: Request, pk: str) -> Response:
        clip = own_clip(request, pk)
        asked = FollowsSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        task = get_object_or_404(Assignment, pk=asked.validated_data["assignment"], clip__athlete__coach_id=request.user.pk)
        return Response(_followed(blocks.follows(clip, task)))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: str) -> Response:
        FollowUp.objects.filter(clip=own_clip(request, pk)).delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


class TakeUpView(APIView):
    """Carry the step that a follow-up asks for, or another, over to the days to come."""

    @extend_schema(request=TakeUpSerializer, responses=FollowedSerializer)
    def post(self, request: Request, pk: str) -> Response:
        row = get_object_or_404(FollowUp, clip=own_clip(request, pk))
        asked = TakeUpSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        blocks.take_up(row, asked.validated_data["step"])
        return Response(_followed(row))


def calendar_file(request: HttpRequest, pk: int) -> HttpResponse:
    """The athlete's plan as a calendar file, for the coach."""
    athlete = own_athlete(request, pk)
    name = f'attachment; filename="plan-{athlete.pk}.ics"'
    return HttpResponse(blocks.calendar_of(athlete), content_type="text/calendar; charset=utf-8", headers={"Content-Disposition": name})


def _block(block: Block) -> dict[str, Any]:
    library = shelf.library_of(block.athlete.coach_id)
    faults, state = catalogue_of(block.athlete).faults, gates.gates_of(block.athlete)
    rows = block.slots.select_related("assignment__clip__athlete").prefetch_related("done", "assignment__excuses")
    return {
        "id": block.pk, "athlete": block.athlete_id, "athlete_name": block.athlete.name,
        "clip": str(block.clip_id) if block.clip_id else None, "lift": block.lift, "fault": block.fault,
        "fault_name": faults[block.fault].name if block.fault in faults else "", "begins": block.begins, "weeks": blocks.weeks_of(block),
        "days": block.days, "closed": block.closed_at is not None, "slots": [_slot(row, library, state) for row in rows],
        "broken": [asdict(one) for one in blocks.rules_broken(block)],
        "follow_ups": [_followed(row) for task in block.assignments.all() for row in task.follow_ups.select_related("clip")],
        "result": blocks.result_of(block),
    }  # fmt: skip


def _slot(slot: Slot, library: dict[str, Any], state: Gates) -> dict[str, Any]:
    task = slot.assignment
    exercise = library[task.exercise] if task else None
    waits = gates.paused(task, exercise, state) if task and exercise and slot.on >= timezone.localdate() and not slot.done.all() else ""
    item = Item(exercise, task.lift, slot.sets, task.reps, slot.percent) if task and exercise else None
    return {
        "minutes": item.minutes if item else 0.0, "effort": item.effort if item else 0.0,
        "id": slot.pk, "assignment": slot.assignment_id, "on": slot.on, "week": slot.week, "sets": slot.sets,
        "name": exercise.named(task.lift) if task and exercise else f"Test: {slot.block.lift.replace('_', ' ')}",
        "reps": task.reps if task else 0, "percent": slot.percent, "unit": slot.unit, "total": slot.total, "per_side": slot.per_side,
        "load": exercise.load if exercise else "", "light": slot.light, "test": task is None,
        "low_back": bool(exercise and exercise.low_back), "done": bool(slot.done.all()), "paused": waits,
        "stops": bool(waits) and state.stop,
    }  # fmt: skip


def _followed(row: FollowUp) -> dict[str, Any]:
    told, names = blocks.followed(row), {one.id: one for one in declarations()}
    exercise = shelf.library_of(row.clip.athlete.coach_id)[row.assignment.exercise]
    return {
        "clip": str(row.clip_id), "on": day_of(row.clip), "name": exercise.named(row.assignment.lift), "taken_up": row.taken_up,
        "step": told.step if told else None, "says": told.says if told else "The clip is still being measured.",
        "rules": [
            asdict(rule) | {"label": names[rule.measure].label, "unit": names[rule.measure].unit} for rule in (told.rules if told else ())
        ],
    }  # fmt: skip
