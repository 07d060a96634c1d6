from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.utils.http import content_disposition_header
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import parsers, permissions, status
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from atleta.analysis import fault_as_data
from atleta.document import bar_csv, captions, joints_c3d, joints_trc
from atleta.events import EVENTS, FAMILY_OF_KIND
from atleta.faults import edges, taught
from atleta.faults.catalogue import PHASE_NAMES, PHASES
from atleta.footage import FootageError, jpeg_of_frame
from atleta.measures import declarations
from clips.models import Clip
from clips.ranged import ranged_file
from clips.views import own_clip
from people import accounts
from people.models import Athlete

from . import corrections, films, limits, own, pictures, reference, schools, series, services, verdicts
from .models import OwnFault, Review
from .serializers import (
    BenchSerializer,
    ByHandSerializer,
    CatalogueSerializer,
    CorrectionSerializer,
    FrameSerializer,
    HandedSerializer,
    LimitSerializer,
    MarkSerializer,
    NoteSerializer,
    OwnFaultSerializer,
    PeriodSerializer,
    PlaceSerializer,
    ReferenceSerializer,
    ReviewSerializer,
    SchoolSerializer,
    SeriesSerializer,
    TakeSerializer,
    VerdictSerializer,
    VoiceSerializer,
    WordingSerializer,
)

# The turn of the last change of a clip that whoever asks has seen: what would undo a later one unseen is refused with it.
SEEN = "X-Seen"


def measured_clip(request: Request, pk: str) -> Clip:
    """The coach's own clip, once there is an analysis of it."""
    clip = own_clip(request, pk)
    if not hasattr(clip, "analysis"):
        raise NotFound("This clip has not been measured yet.")
    seen = request.headers.get(SEEN, "")
    clip.seen = int(seen) if seen.isascii() and seen.isdecimal() and len(seen) < 16 else None
    return clip


def bench(clip: Clip, *, outdated: bool = False) -> dict[str, Any]:
    clip = Clip.objects.select_related("analysis").get(pk=clip.pk)
    times = clip.proxy_times_file
    return {
        "document": clip.analysis.document,
        "disc_points": list(clip.disc_points.values("frame", "x_px", "y_px")),
        "joint_points": list(clip.joint_points.values("frame", "joint", "x_px", "y_px")),
        "by_hand": {name: getattr(clip, name) or None for name in corrections.FACTS},
        "corrections": CorrectionSerializer(clip.corrections.select_related("by"), many=True).data,
        "limits": limits.shown(clip),
        "verdicts": list(clip.verdicts.values("place", "fault", "decision", "frame", "note")),
        "absent": [
            [name for name in EVENTS[FAMILY_OF_KIND[lift["kind"]]] if name not in lift["events"]]
            for lift in clip.analysis.document["lifts"]
        ],
        "good": services.good_in(clip),
        "agreement": [{"fault": fault, **times} for fault, times in services.agreement(clip.athlete.coach).items()],
        "playback_s": json.loads(times.read_text()) if times.exists() else None,
        "outdated": outdated,
    }


class BenchView(APIView):
    """The analysis of a clip with everything the coach has said about it."""

    @extend_schema(responses=BenchSerializer)
    def get(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        return Response(bench(clip, outdated=services.outdated(clip)))

    @extend_schema(request=None, responses=BenchSerializer)
    def post(self, request: Request, pk: str) -> Response:
        """Judge the clip by what stands now, where it was judged by something else."""
        clip = measured_clip(request, pk)
        services.up_to_date(clip)
        return Response(bench(clip))


class ReferenceView(APIView):
    """The technical model that ships: a lift of the clip as a made-up lifter of the athlete's build does it. Answers 202 while it is being
    made."""

    @extend_schema(responses={200: ReferenceSerializer, 202: None})
    def get(self, request: Request, pk: str, lift: int) -> Response:
        told = reference.reference_of(measured_clip(request, pk), lift)
        return Response(told, status=status.HTTP_202_ACCEPTED if told is None else status.HTTP_200_OK)


class DiscPointView(APIView):
    """Where the disc is at one frame, by the coach's word. Answers with everything that follows from it."""

    @extend_schema(request=PlaceSerializer, responses=BenchSerializer)
    def put(self, request: Request, pk: str, frame: int) -> Response:
        clip = measured_clip(request, pk)
        place = PlaceSerializer(data=request.data)
        place.is_valid(raise_exception=True)
        corrections.correct(clip, f"disc:{frame}", dict(place.validated_data), request.user)
        return Response(bench(clip))

    @extend_schema(responses={200: BenchSerializer})
    def delete(self, request: Request, pk: str, frame: int) -> Response:
        clip = measured_clip(request, pk)
        corrections.correct(clip, f"disc:{frame}", None, request.user)
        return Response(bench(clip))


class JointPointView(APIView):
    """Where a joint is at one frame, by the coach's word."""

    @extend_schema(request=PlaceSerializer, responses=BenchSerializer)
    def put(self, request: Request, pk: str, frame: int, joint: str) -> Response:
        clip = measured_clip(request, pk)
        place = PlaceSerializer(data=request.data)
        place.is_valid(raise_exception=True)
        corrections.correct(clip, f"joint:{frame}:{joint}", dict(place.validated_data), request.user)
        return Response(bench(clip))

    @extend_schema(responses={200: BenchSerializer})
    def delete(self, request: Request, pk: str, frame: int, joint: str) -> Response:
        clip = measured_clip(request, pk)
        corrections.correct(clip, f"joint:{frame}:{joint}", None, request.user)
        return Response(bench(clip))


class EventView(APIView):
    """At which frame a position of a lift is, by the coach's word."""

    @extend_schema(request=FrameSerializer, responses=BenchSerializer)
    def put(self, request: Request, pk: str, lift: int, event: str) -> Response:
        clip = measured_clip(request, pk)
        asked = FrameSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        corrections.correct(clip, f"event:{lift}:{event}", asked.validated_data["frame"], request.user)
        return Response(bench(clip))

    @extend_schema(responses={200: BenchSerializer})
    def delete(self, request: Request, pk: str, lift: int, event: str) -> Response:
        clip = measured_clip(request, pk)
        corrections.correct(clip, f"event:{lift}:{event}", None, request.user)
        return Response(bench(clip))


class LimitView(APIView):
    """The coach's own limits of a rule."""

    @extend_schema(request=LimitSerializer, responses=BenchSerializer)
    def put(self, request: Request, pk: str, fault: str, measure: str) -> Response:
        clip = measured_clip(request, pk)
        asked = LimitSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        verdicts.set_limit(clip, fault, measure, by=request.user, **asked.validated_data)
        return Response(bench(clip))

    @extend_schema(responses={200: BenchSerializer})
    def delete(self, request: Request, pk: str, fault: str, measure: str) -> Response:
        clip = measured_clip(request, pk)
        verdicts.take_back_limit(clip, fault, measure, request.user)
        return Response(bench(clip))


def own_athlete(request: Request, pk: int | str | None) -> Athlete | None:
    """The coach's own athlete, or None when none is named."""
    if pk in (None, ""):
        return None
    found = Athlete.objects.filter(coach=request.user, pk=pk).first() if str(pk).isdecimal() else None
    if found is None:
        raise NotFound("You have no such athlete.")
    return found


ATHLETE = OpenApiParameter("athlete", int, description="An athlete of yours; left out for what holds for all of them.")

ON_CLIP = OpenApiParameter("clip", str, description="The clip it is said on: it is undone there; left out apart from any.")


class SchoolsView(APIView):
    """Where coaches disagree, and where this coach stands."""

    @extend_schema(parameters=[ATHLETE], responses=SchoolSerializer(many=True))
    def get(self, request: Request) -> Response:
        return Response(schools.shown(request.user, own_athlete(request, request.query_params.get("athlete"))))


class SchoolView(APIView):
    """The coach's position on one question. Clips are judged by it from then on, also those already measured."""

    @extend_schema(request=TakeSerializer, responses=SchoolSerializer(many=True))
    def put(self, request: Request, question: str) -> Response:
        asked = TakeSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        held = asked.validated_data
        athlete = own_athlete(request, held["athlete"])
        clip = measured_clip(request, str(held["clip"])) if held["clip"] else None
        verdicts.take_position(request.user, athlete, question, held["position"], clip)
        return Response(schools.shown(request.user, athlete))

    @extend_schema(parameters=[ATHLETE, ON_CLIP], responses={200: SchoolSerializer(many=True)})
    def delete(self, request: Request, question: str) -> Response:
        athlete = own_athlete(request, request.query_params.get("athlete"))
        asked = request.query_params.get("clip")
        verdicts.leave_position(request.user, athlete, question, measured_clip(request, asked) if asked else None)
        return Response(schools.shown(request.user, athlete))


class PreferencesUndoView(APIView):
    """Take the last change of preferences back that was made apart from any clip."""

    @extend_schema(request=None, responses=SchoolSerializer(many=True))
    def post(self, request: Request) -> Response:
        corrections.undo(None, request.user)
        return Response(schools.shown(request.user, None))


class PreferencesRedoView(APIView):
    """Make the change of preferences again that was undone last."""

    @extend_schema(request=None, responses=SchoolSerializer(many=True))
    def post(self, request: Request) -> Response:
        corrections.redo(None, request.user)
        return Response(schools.shown(request.user, None))


class SeriesView(APIView):
    """An athlete's lifts laid together: what breaks as it gets heavy, speed against load, what is usual."""

    @extend_schema(parameters=[PeriodSerializer], responses=SeriesSerializer)
    def get(self, request: Request, pk: int) -> Response:
        athlete = own_athlete(request, pk)
        asked = PeriodSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        held = asked.validated_data
        told = series.series_of(athlete, held.get("kind"), held.get("since"), held.get("until"), held.get("measure", series.SPEED))
        return Response(told)


class ByHandView(APIView):
    """Which lift and load it was, scale, upright, facing, capture rate, trim and stretches not to be trusted, by the coach's word."""

    @extend_schema(request=ByHandSerializer, responses=BenchSerializer)
    def put(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        asked = ByHandSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        if asked.validated_data:
            corrections.correct_all(clip, asked.validated_data, request.user)
        return Response(bench(clip))


class UndoView(APIView):
    """Take the last correction back."""

    @extend_schema(request=None, responses=BenchSerializer)
    def post(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        corrections.undo(clip, request.user)
        return Response(bench(clip))


class RedoView(APIView):
    """Do the correction again that was undone last."""

    @extend_schema(request=None, responses=BenchSerializer)
    def post(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        corrections.redo(clip, request.user)
        return Response(bench(clip))


class VerdictView(APIView):
    """The coach's decision on one fault of one of a clip's lifts, counted from 0."""

    @extend_schema(request=VerdictSerializer, responses=BenchSerializer)
    def put(self, request: Request, pk: str, lift: int, fault: str) -> Response:
        clip = measured_clip(request, pk)
        asked = VerdictSerializer(data={**request.data, "place": lift, "fault": fault})
        asked.is_valid(raise_exception=True)
        held = asked.validated_data
        verdicts.put_verdict(clip, lift, fault, held["decision"], request.user, frame=held.get("frame"), note=held.get("note", ""))
        return Response(bench(clip))

    @extend_schema(responses={200: BenchSerializer})
    def delete(self, request: Request, pk: str, lift: int, fault: str) -> Response:
        clip = measured_clip(request, pk)
        verdicts.take_back_verdict(clip, lift, fault, request.user)
        return Response(bench(clip))


class NotesView(APIView):
    """The coach's words at frames of a clip."""

    @extend_schema(responses=NoteSerializer(many=True))
    def get(self, request: Request, pk: str) -> Response:
        return Response(NoteSerializer(own_clip(request, pk).notes.all(), many=True).data)

    @extend_schema(request=NoteSerializer, responses={201: NoteSerializer(many=True)})
    def post(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        asked = NoteSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        services.note(clip, asked.validated_data["frame"], asked.validated_data["words"], request.user)
        return Response(NoteSerializer(clip.notes.all(), many=True).data, status=status.HTTP_201_CREATED)


class NoteView(APIView):
    """One note; taking it back leaves the others."""

    @extend_schema(responses={200: NoteSerializer(many=True)})
    def delete(self, request: Request, pk: str, note: int) -> Response:
        clip = own_clip(request, pk)
        services.unsay(clip, note)
        return Response(NoteSerializer(clip.notes.all(), many=True).data)


class VoiceView(APIView):
    """A spoken note: the recording, and what stood on the stage while it was made."""

    parser_classes = [parsers.MultiPartParser]

    @extend_schema(request={"multipart/form-data": VoiceSerializer}, responses={201: NoteSerializer(many=True)})
    def post(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        asked = VoiceSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        held = asked.validated_data
        services.say(clip, held["frame"], held["sound"].read(), held["shown"], held["looked"], request.user)
        return Response(NoteSerializer(clip.notes.all(), many=True).data, status=status.HTTP_201_CREATED)


def voice_file(request: HttpRequest, pk: str, note: int) -> HttpResponseBase:
    """What was said at one of the coach's own notes."""
    row = own_clip(request, pk).notes.filter(pk=note).first()
    return _private(request, row.voice_file if row else None, "audio/mp4")


def _private(request: HttpRequest, file: Path | None, content_type: str) -> HttpResponseBase:
    """A file that nobody else may keep, or a part of it: a phone plays nothing that it cannot ask for in parts."""
    if file is None or not file.exists():
        return HttpResponse(status=404)
    answer = ranged_file(request, file, content_type)
    answer["Cache-Control"] = "private, no-store"
    return answer


class MarksView(APIView):
    """What the coach drew into the pictures of a clip."""

    @extend_schema(responses=MarkSerializer(many=True))
    def get(self, request: Request, pk: str) -> Response:
        return Response(MarkSerializer(own_clip(request, pk).marks.all(), many=True).data)

    @extend_schema(request=MarkSerializer, responses={201: MarkSerializer(many=True)})
    def post(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        asked = MarkSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        services.mark(clip, asked.validated_data, request.user)
        return Response(MarkSerializer(clip.marks.all(), many=True).data, status=status.HTTP_201_CREATED)


class MarkView(APIView):
    """One mark; taking it back leaves the others."""

    @extend_schema(responses={200: MarkSerializer(many=True)})
    def delete(self, request: Request, pk: str, mark: int) -> Response:
        clip = own_clip(request, pk)
        clip.marks.filter(pk=mark).delete()
        return Response(MarkSerializer(clip.marks.all(), many=True).data)


class ReviewView(APIView):
    """The draft of the hand-over."""

    @extend_schema(responses=ReviewSerializer)
    def get(self, request: Request, pk: str) -> Response:
        return Response(_review(measured_clip(request, pk)))

    @extend_schema(request=ReviewSerializer, responses=ReviewSerializer)
    def put(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        draft = ReviewSerializer(data=request.data, partial=True)
        draft.is_valid(raise_exception=True)
        held = dict(draft.validated_data)
        services.write_review(clip, held, held.pop("seen", None))
        return Response(_review(clip))


class PublishView(APIView):
    """Hand over, or take the link back."""

    @extend_schema(request=None, responses=ReviewSerializer)
    def post(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        services.publish(clip)
        return Response(_review(clip), status=status.HTTP_201_CREATED)

    @extend_schema(responses={200: ReviewSerializer})
    def delete(self, request: Request, pk: str) -> Response:
        clip = measured_clip(request, pk)
        services.withdraw(clip)
        accounts.note(request.user, f"Review of a clip of {clip.athlete.name} withdrawn")
        return Response(_review(clip))


class HandedView(APIView):
    """What an athlete reads behind the private link; no account needed."""

    permission_classes = [permissions.AllowAny]
    authentication_classes: list[type] = []

    @extend_schema(responses=HandedSerializer)
    def get(self, request: Request, token: str) -> Response:
        handed = services.open_link(token)
        if handed is None:
            raise NotFound("This link has been withdrawn or has run out. Ask your coach for a new one.")
        content = services.with_films(handed.content, lambda note: handed.film(note).exists())
        return Response(content, headers={"Cache-Control": "private, no-store"})


def handed_picture(request: HttpRequest, token: str, place: int = 0) -> HttpResponseBase:
    """A point's picture behind the private link."""
    handed = services.find_link(token)
    return _private(request, handed.picture(place) if handed else None, "image/jpeg")


def handed_moment(request: HttpRequest, token: str, frame: int) -> HttpResponseBase:
    """The picture at a moment that something was noted or drawn at, behind the private link."""
    handed = services.find_link(token)
    return _private(request, handed.moment(frame) if handed else None, "image/jpeg")


def handed_film(request: HttpRequest, token: str, note: int) -> HttpResponseBase:
    """What stood on the stage while a note was spoken, with the voice, behind the private link."""
    handed = services.find_link(token)
    return _private(request, handed.film(note) if handed else None, "video/mp4")


def handed_voice(request: HttpRequest, token: str, note: int) -> HttpResponseBase:
    """What was said at a note, behind the private link."""
    handed = services.find_link(token)
    return _private(request, handed.voice_file(note) if handed else None, "audio/mp4")


def frame_picture(request: HttpRequest, pk: str, frame: int) -> HttpResponseBase:
    """One frame of the coach's own clip."""
    clip = own_clip(request, pk)
    try:
        asked = request.GET.get("long_side", "")
        long_side = min(max(int(asked), 80), 1280) if asked.isdecimal() else 1280
        picture = jpeg_of_frame(clip.footage, frame, long_side_px=long_side)
    except FootageError as error:
        return HttpResponse(error.message, status=404, content_type="text/plain")
    return HttpResponse(picture, content_type="image/jpeg", headers={"Cache-Control": "private, max-age=3600"})


def _as_file(
    request: HttpRequest, pk: str, suffix: str, content_type: str, written: Callable[[dict[str, Any]], str | bytes]
) -> HttpResponse:
    """What was measured of the coach's own clip as a file to keep, or 404 while nothing was."""
    clip = own_clip(request, pk)
    if not hasattr(clip, "analysis"):
        return HttpResponse("This clip has not been measured yet.", status=404, content_type="text/plain")
    name = content_disposition_header(True, f"{Path(clip.file_name).stem}{suffix}")
    try:
        content = written(clip.analysis.document)
    except ValueError as error:
        return HttpResponse(str(error), status=409, content_type="text/plain")
    return HttpResponse(content, content_type=content_type, headers={"Content-Disposition": name or "attachment"})


def analysis_file(request: HttpRequest, pk: str) -> HttpResponse:
    """The analysis document."""
    return _as_file(request, pk, ".json", "application/json", lambda document: json.dumps(document, ensure_ascii=False))


def bar_file(request: HttpRequest, pk: str) -> HttpResponse:
    """The bar's track as comma-separated text."""
    return _as_file(request, pk, ".csv", "text/csv; charset=utf-8", bar_csv)


def joints_c3d_file(request: HttpRequest, pk: str) -> HttpResponse:
    """The same in the binary form of motion laboratories."""
    return _as_file(request, pk, ".c3d", "application/octet-stream", joints_c3d)


def joints_file(request: HttpRequest, pk: str) -> HttpResponse:
    """The joints over the frames of the clip, in the tab-separated form that motion laboratories exchange."""
    return _as_file(request, pk, ".trc", "text/plain; charset=utf-8", joints_trc)


def notes_file(request: HttpRequest, pk: str) -> HttpResponse:
    """The coach's notes as captions for the clip."""
    clip = own_clip(request, pk)
    rows = [(note.frame, note.words) for note in clip.notes.exclude(words="")]
    return _as_file(request, pk, ".vtt", "text/vtt; charset=utf-8", lambda document: captions(document, rows))


def _picture_file(request: HttpRequest, pk: str, suffix: str, content_type: str, made: Callable[[Clip, int], bytes]) -> HttpResponse:
    clip = own_clip(request, pk)
    if not hasattr(clip, "analysis"):
        return HttpResponse("This clip has not been measured yet.", status=404, content_type="text/plain")
    number = _lift_asked(request)
    if number >= len(clip.analysis.document["lifts"]):
        return HttpResponse("No such lift was measured in this clip.", status=404, content_type="text/plain")
    return _kept(made(clip, number), clip, _which_lift(clip, number) + suffix, content_type)


def _lift_asked(request: HttpRequest) -> int:
    asked = request.GET.get("lift", "0")
    return int(asked) if asked.isdecimal() else 0


def _which_lift(clip: Clip, number: int) -> str:
    return f"-lift-{number + 1}" if len(clip.analysis.document["lifts"]) > 1 else ""


def _kept(made: bytes, clip: Clip, suffix: str, content_type: str) -> HttpResponse:
    name = content_disposition_header(True, f"{Path(clip.file_name).stem}{suffix}")
    return HttpResponse(made, content_type=content_type, headers={"Content-Disposition": name or "attachment"})


def sheet_file(request: HttpRequest, pk: str) -> HttpResponse:
    """The picture at every position of a lift, with what was measured there, as one picture."""
    return _picture_file(request, pk, "-positions.png", "image/png", pictures.sheet)


def sheet_pdf_file(request: HttpRequest, pk: str) -> HttpResponse:
    """The same as a page to print."""
    return _picture_file(request, pk, "-positions.pdf", "application/pdf", pictures.sheet_pdf)


def drawn_file(request: HttpRequest, pk: str) -> HttpResponseBase:
    """A lift with the bar's path, the plumb line, the joints and the coach's notes drawn into it; with `?voice=` and the number of a
    spoken note, what stood on the stage while the coach spoke, with the voice. Answers 202 while it is being made."""
    clip, voice = own_clip(request, pk), request.GET.get("voice", "")
    if not hasattr(clip, "analysis"):
        return JsonResponse({"detail": "This clip has not been measured yet."}, status=404)
    note = clip.notes.filter(pk=int(voice), seconds__isnull=False).first() if voice.isdecimal() else None
    if voice and note is None:
        return JsonResponse({"detail": "There is no such spoken note."}, status=404)
    lift = _lift_asked(request)
    if lift >= len(clip.analysis.document["lifts"]) and note is None:
        return JsonResponse({"detail": "No such lift was measured in this clip."}, status=404)
    try:
        film = films.film_of(clip, voice=note.pk) if note else films.film_of(clip, lift=lift)
    except films.CannotFilm as error:
        return JsonResponse({"detail": str(error)}, status=error.status)
    if film is None:
        return JsonResponse({"detail": "This film is being made."}, status=202)
    answer = ranged_file(request, film, "video/mp4")
    suffix = f"-spoken-{note.frame}.mp4" if note else f"{_which_lift(clip, lift)}-drawn.mp4"
    answer["Content-Disposition"] = content_disposition_header(True, f"{Path(clip.file_name).stem}{suffix}") or "attachment"
    return answer


class CatalogueView(APIView):
    """Every fault and measure Atleta can speak of, with the coach's own faults and words, and which fault leads to which."""

    @extend_schema(responses=CatalogueSerializer)
    def get(self, request: Request) -> Response:
        return Response(CatalogueSerializer(_catalogue(request.user)).data)


class OwnFaultsView(APIView):
    """Faults of the coach's own."""

    @extend_schema(request=OwnFaultSerializer, responses={201: CatalogueSerializer})
    def post(self, request: Request) -> Response:
        asked = OwnFaultSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        own.put_own_fault(request.user, dict(asked.validated_data))
        return Response(CatalogueSerializer(_catalogue(request.user)).data, status=status.HTTP_201_CREATED)


class OwnFaultView(APIView):
    """One fault of the coach's own."""

    @extend_schema(request=OwnFaultSerializer, responses=CatalogueSerializer)
    def put(self, request: Request, fault: str) -> Response:
        asked = OwnFaultSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        own.put_own_fault(request.user, dict(asked.validated_data), fault)
        return Response(CatalogueSerializer(_catalogue(request.user)).data)

    @extend_schema(responses={200: CatalogueSerializer})
    def delete(self, request: Request, fault: str) -> Response:
        own.take_back_own_fault(request.user, fault)
        return Response(CatalogueSerializer(_catalogue(request.user)).data)


class WordingView(APIView):
    """The coach's own words for a fault, for good."""

    @extend_schema(request=WordingSerializer, responses=CatalogueSerializer)
    def put(self, request: Request, fault: str) -> Response:
        asked = WordingSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        own.put_wording(request.user, fault, **asked.validated_data)
        return Response(CatalogueSerializer(_catalogue(request.user)).data)


def _catalogue(coach: Any) -> dict[str, Any]:
    """The catalogue as a coach has it. Own faults that were put away are in it, and say so."""
    mine = {row.fault: row for row in OwnFault.objects.filter(coach=coach)}
    words = own.wordings_of(coach.pk)
    catalogue = taught({}, own.own_faults_of(coach.pk), words)
    rows = [
        fault_as_data(fault)
        | {
            "seen_by_coach": not fault.measured, "refusable": fault.refusable, "own": fault.own, "reworded": fault.id in words,
            "put_away": fault.id in mine and mine[fault.id].put_away,
            "causes": mine[fault.id].data["causes"] if fault.id in mine else [],
            "effects": mine[fault.id].data["effects"] if fault.id in mine else [],
        }
        for fault in catalogue.faults.values()
    ]  # fmt: skip
    return {
        "faults": rows, "measures": declarations(), "phases": [{"id": phase, "name": PHASE_NAMES[phase]} for phase in PHASES],
        "links": [{"cause": cause, "effect": effect} for cause, effect in edges(catalogue)],
    }  # fmt: skip


def _review(clip: Clip) -> dict[str, Any]:
    review = Review.objects.filter(clip=clip).first() or Review(clip=clip)
    link = clip.hand_overs.filter(withdrawn_at__isnull=True).first()
    data = ReviewSerializer(review).data
    data["written_at"] = services.written_at(review)
    data["preview"] = services.with_films(services.compose(clip), lambda note: films.is_there(clip, note))
    data["link"] = (
        {name: getattr(link, name) for name in ("token", "published_at", "expires_at", "opened_at", "opened_count")} if link else None
    )
    return data
