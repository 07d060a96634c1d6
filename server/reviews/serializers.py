from __future__ import annotations

from itertools import pairwise
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from atleta.faults.own import check_words
from atleta_site.fields import DayField
from clips.models import LIFT_CHOICES
from people.serializers import DRAWN

from .models import Correction, DiscPoint, HandOver, JointPoint, Mark, Note, Review, Verdict
from .openapi import DOCUMENT_REF


class DiscPointSerializer(serializers.ModelSerializer):
    class Meta:
        model = DiscPoint
        fields = ["frame", "x_px", "y_px"]


class JointPointSerializer(serializers.ModelSerializer):
    class Meta:
        model = JointPoint
        fields = ["frame", "joint", "x_px", "y_px"]


class PlaceSerializer(serializers.Serializer):
    """A place in the picture, in pixels of the upright original."""

    x_px = serializers.FloatField()
    y_px = serializers.FloatField()


class FrameSerializer(serializers.Serializer):
    frame = serializers.IntegerField(min_value=0)


class ByHandSerializer(serializers.Serializer):
    """What was lifted, and facts of a clip set by hand; null where nothing was said or the program's own finding stands. Only what is
    sent is changed."""

    lift = serializers.ChoiceField(choices=LIFT_CHOICES, required=False)
    # Which loads there are the clip's own field says.
    load = serializers.FloatField(allow_null=True, required=False, help_text="In the clip's own unit.")
    facing = serializers.ChoiceField(choices=["left", "right"], allow_null=True, required=False)
    plumb_deg = serializers.FloatField(allow_null=True, required=False, min_value=-45, max_value=45)
    disc_diameter_m = serializers.FloatField(allow_null=True, required=False, min_value=0.1, max_value=1.0)
    m_per_px = serializers.FloatField(allow_null=True, required=False, min_value=1e-5, max_value=0.1)
    capture_rate_hz = serializers.FloatField(allow_null=True, required=False, min_value=5, max_value=2000)
    lifter_box = serializers.ListField(child=serializers.IntegerField(), allow_null=True, required=False)
    exercise = serializers.CharField(max_length=60, allow_null=True, required=False, help_text="The exercise of the library that it shows.")
    trim = serializers.ListField(child=serializers.IntegerField(), allow_null=True, required=False)
    distrusted = serializers.ListField(child=serializers.ListField(child=serializers.IntegerField()), allow_null=True, required=False)


class LimitSerializer(serializers.Serializer):
    """Where watching begins and where it is a fault, in the measure's unit; for this athlete, or for all of the coach's."""

    watch = serializers.FloatField()
    fault_at = serializers.FloatField()
    everyone = serializers.BooleanField(default=False)


class OwnLimitSerializer(LimitSerializer):
    """A limit of the coach's own beside the usual one."""

    fault = serializers.CharField()
    measure = serializers.CharField()
    usual_watch = serializers.FloatField()
    usual_fault_at = serializers.FloatField()
    at = serializers.DateTimeField()


class PositionSerializer(serializers.Serializer):
    id = serializers.CharField()
    says = serializers.CharField()


class SchoolSerializer(serializers.Serializer):
    """A question on which coaches differ, and where this coach stands; the first position is the usual one."""

    id = serializers.CharField()
    asks = serializers.CharField()
    why = serializers.CharField()
    positions = PositionSerializer(many=True)
    position = serializers.CharField()
    everyone = serializers.BooleanField(allow_null=True, help_text="Set for all athletes, or for this one; null as usual.")
    at = serializers.DateTimeField(allow_null=True)


class TakeSerializer(serializers.Serializer):
    """A position, for one athlete or (null) for all."""

    position = serializers.CharField(max_length=60)
    athlete = serializers.IntegerField(allow_null=True, default=None)
    clip = serializers.UUIDField(allow_null=True, default=None, help_text="The clip it is said on: it is undone there.")


class AgreementSerializer(serializers.Serializer):
    """How often the coach confirmed, dismissed and added a fault so far."""

    fault = serializers.CharField()
    confirmed = serializers.IntegerField()
    dismissed = serializers.IntegerField()
    added = serializers.IntegerField()


class CorrectionSerializer(serializers.ModelSerializer):
    by = serializers.SerializerMethodField()

    class Meta:
        model = Correction
        fields = ["id", "what", "before", "after", "state", "turn", "by", "at"]
        read_only_fields = ["state", "turn"]

    def get_by(self, correction: Correction) -> str:
        return correction.by.first_name or correction.by.get_username()


class VerdictSerializer(serializers.ModelSerializer):
    class Meta:
        model = Verdict
        fields = ["place", "fault", "decision", "frame", "note"]
        extra_kwargs = {"fault": {"validators": []}}


@extend_schema_field(DOCUMENT_REF)
class DocumentField(serializers.DictField):
    pass


class DrawnMarkSerializer(serializers.ModelSerializer):
    """What the coach drew, in pixels of the upright original."""

    points = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField(), min_length=2, max_length=2), min_length=2, max_length=400
    )

    class Meta:
        model = Mark
        fields = ["shape", "ink", "points"]


class DrawingSerializer(serializers.Serializer):
    """Lines over a picture, in pixels of the upright original."""

    width = serializers.IntegerField()
    height = serializers.IntegerField()
    path = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))
    plumb_x = serializers.FloatField(allow_null=True)
    bar = serializers.ListField(child=serializers.FloatField(), allow_null=True)
    radius = serializers.FloatField(allow_null=True)
    lifter = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField()), required=False,
        help_text="Where the lifter's joints are in this frame; empty where nobody was seen.",
    )  # fmt: skip
    line = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField()), required=False,
        help_text="What was measured, as one broken line; empty where it does not show in this frame.",
    )  # fmt: skip
    marks = DrawnMarkSerializer(many=True, required=False, help_text="What the coach drew into this frame.")


class BenchSerializer(serializers.Serializer):
    """All that the review bench shows of a clip."""

    document = DocumentField(help_text="The analysis document (atleta.analysis/1).")
    disc_points = DiscPointSerializer(many=True)
    joint_points = JointPointSerializer(many=True)
    by_hand = ByHandSerializer()
    corrections = CorrectionSerializer(many=True, help_text="Every change by hand, oldest first.")
    limits = OwnLimitSerializer(many=True, help_text="Limits of the coach's own that stand for this athlete.")
    verdicts = VerdictSerializer(many=True)
    absent = serializers.ListField(
        child=serializers.ListField(child=serializers.CharField()),
        help_text="Lift by lift, the positions that were not found and can be set by hand.",
    )
    good = serializers.ListField(child=serializers.CharField(), help_text="Faults whose absence deserves to be said first.")
    agreement = AgreementSerializer(many=True)
    playback_s = serializers.ListField(
        child=serializers.FloatField(),
        allow_null=True,
        help_text="Presentation time of each frame of the copy for stepping; null until it is ready.",
    )
    outdated = serializers.BooleanField(help_text="It was judged by limits, preferences or numbers that no longer stand: ask for it anew.")


class ReferenceSerializer(serializers.Serializer):
    """A lift of a clip as a made-up lifter of the athlete's build does it."""

    document = DocumentField(help_text="The analysis document (atleta.analysis/1); there is no footage.")
    stature_m = serializers.FloatField()
    own_limbs = serializers.BooleanField(help_text="Whether arms and legs are as long as the athlete's, and not as most people's.")


class PointSerializer(serializers.Serializer):
    fault = serializers.CharField()
    name = serializers.CharField()
    says = serializers.CharField(allow_blank=True)
    why = serializers.CharField(allow_blank=True, required=False)
    cue = serializers.CharField(allow_blank=True)
    frame = serializers.IntegerField(allow_null=True)
    drawing = DrawingSerializer(allow_null=True)


class TaskSerializer(serializers.Serializer):
    name = serializers.CharField()
    how = serializers.CharField()
    cue = serializers.CharField()
    cautions = serializers.ListField(child=serializers.CharField())
    safeties = serializers.CharField(allow_blank=True, required=False, help_text="How it is done safely under a load.")
    film = serializers.CharField()
    pause_s = serializers.IntegerField()
    rest_s = serializers.IntegerField()
    sets = serializers.IntegerField()
    reps = serializers.IntegerField()
    percent = serializers.FloatField()
    basis = serializers.CharField()
    per_week = serializers.IntegerField()
    weeks = serializers.IntegerField()
    unit = serializers.CharField()
    total = serializers.FloatField(allow_null=True)
    per_side = serializers.ListField(child=serializers.FloatField())
    load = serializers.CharField(allow_blank=True, default="")
    note = serializers.CharField(allow_blank=True)


class MomentSerializer(serializers.Serializer):
    """What the coach said, wrote or drew at one moment of the clip."""

    time_s = serializers.FloatField()
    frame = serializers.IntegerField(required=False)
    drawing = DrawingSerializer(required=False)
    words = serializers.CharField(allow_blank=True)
    voice = serializers.IntegerField(allow_null=True, required=False, help_text="The note whose voice is to be heard; null where none is.")
    film = serializers.BooleanField(required=False, help_text="Whether what was shown meanwhile can be seen, with the voice.")


class LookSerializer(serializers.Serializer):
    """How the stage was looked at from a moment of a spoken note on."""

    s = serializers.FloatField(min_value=0, help_text="Seconds from the note's beginning.")
    zoom = serializers.FloatField(min_value=1, max_value=10, help_text="How many times as large as the whole picture.")
    x = serializers.FloatField(min_value=0, max_value=1, help_text="What lay in the middle, as a share of the picture's width.")
    y = serializers.FloatField(min_value=0, max_value=1, help_text="The same, of its height.")
    drawn = serializers.ListField(child=serializers.ChoiceField(DRAWN), max_length=len(DRAWN))


class NoteSerializer(serializers.ModelSerializer):
    words = serializers.CharField(max_length=500)
    shown = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField(), min_length=2, max_length=2), read_only=True,
        help_text="What stood on the stage while it was spoken: seconds from its beginning, and the frame.",
    )  # fmt: skip
    looked = LookSerializer(many=True, read_only=True)

    class Meta:
        model = Note
        fields = ["id", "frame", "words", "seconds", "shown", "looked", "at"]
        read_only_fields = ["seconds", "at"]


# A joint that is followed closely for as long as a note may be, a look at every picture.
MOST_LOOKS = 12_000
# Three minutes as a browser records them are a tenth of this.
MOST_SPOKEN_BYTES = 30 * 1024**2


class VoiceSerializer(serializers.Serializer):
    """A spoken note on its way in."""

    frame = serializers.IntegerField(min_value=0)
    sound = serializers.FileField()
    shown = serializers.JSONField(default=list)
    looked = serializers.JSONField(default=list)

    def validate_looked(self, looked: object) -> list[dict[str, Any]]:
        rows = LookSerializer(data=looked, many=True, max_length=MOST_LOOKS)
        if not rows.is_valid() or any(one["s"] > other["s"] for one, other in pairwise(rows.validated_data)):
            raise serializers.ValidationError("How it was looked at is a list of moments in order, each with what was enlarged and drawn.")
        return [dict(row) for row in rows.validated_data]

    def validate_sound(self, sound: UploadedFile) -> UploadedFile:
        if (sound.size or 0) > MOST_SPOKEN_BYTES:
            raise serializers.ValidationError("This recording is too large. Say it in two.")
        return sound


class MarkSerializer(DrawnMarkSerializer):
    class Meta:
        model = Mark
        fields = ["id", "frame", *DrawnMarkSerializer.Meta.fields]


class HandedSerializer(serializers.Serializer):
    """A review as the athlete reads it."""

    athlete = serializers.CharField()
    lift = serializers.CharField()
    load = serializers.FloatField(allow_null=True)
    load_unit = serializers.CharField()
    made = serializers.BooleanField(allow_null=True)
    filmed_on = serializers.CharField(allow_null=True)
    good = serializers.ListField(child=serializers.CharField())
    points = PointSerializer(many=True)
    words = serializers.CharField(allow_blank=True)
    notes = MomentSerializer(many=True, required=False)
    tasks = TaskSerializer(many=True)
    film_next = serializers.CharField()


def _no_numbers(words: str) -> str:
    try:
        check_words(words)
    except ValueError as error:
        raise serializers.ValidationError(str(error)) from error
    return words


class LinkSerializer(serializers.ModelSerializer):
    class Meta:
        model = HandOver
        fields = ["token", "published_at", "expires_at", "opened_at", "opened_count"]
        read_only_fields = fields


class ReviewSerializer(serializers.ModelSerializer):
    """The draft of what will be said, how it will read, and the link if it was handed over."""

    preview = HandedSerializer(read_only=True)
    wordings = serializers.DictField(
        child=serializers.DictField(child=serializers.CharField(max_length=300, allow_blank=True)), required=False,
        help_text="What is said otherwise in this review alone: by fault, `athlete` and `cue`.",
    )  # fmt: skip
    link = LinkSerializer(read_only=True, allow_null=True)
    written_at = serializers.CharField(read_only=True, help_text="When it was written last; empty before that.")
    seen = serializers.CharField(
        write_only=True, required=False, allow_blank=True, help_text="`written_at` as it was when whoever writes looked at it."
    )

    class Meta:
        model = Review
        fields = ["good", "first_priority", "words", "wordings", "preview", "link", "written_at", "seen"]

    def validate_wordings(self, wordings: dict[str, dict[str, str]]) -> dict[str, dict[str, str]]:
        for words in wordings.values():
            if strange := set(words) - {"athlete", "cue"}:
                raise serializers.ValidationError(
                    f"Only the athlete's sentence and the cue can be changed, not {', '.join(sorted(strange))}."
                )
            for said in words.values():
                _no_numbers(said)
        return {fault: said for fault, words in wordings.items() if (said := {name: text for name, text in words.items() if text.strip()})}


class OwnFaultSerializer(serializers.Serializer):
    """A fault of the coach's own. What is missing or cannot be is refused with what to change."""

    name = serializers.CharField(max_length=200, allow_blank=True)
    phase = serializers.CharField()
    kinds = serializers.ListField(child=serializers.CharField(), help_text="Kinds of lift it can occur in.")
    view = serializers.CharField(help_text="From where a film shows it: side, front, 45 or any.")
    coach = serializers.CharField(max_length=1000, allow_blank=True)
    athlete = serializers.CharField(max_length=1000, allow_blank=True)
    cue = serializers.CharField(max_length=1000, allow_blank=True)
    why = serializers.CharField(max_length=1000, allow_blank=True)
    good = serializers.CharField(max_length=1000, allow_blank=True)
    drills = serializers.ListField(child=serializers.CharField())
    causes = serializers.ListField(child=serializers.CharField(), help_text="Faults that lead to it.")
    effects = serializers.ListField(child=serializers.CharField(), help_text="Faults that follow from it.")


class WordingSerializer(serializers.Serializer):
    """The coach's own words for a fault; what is empty stands as it ships."""

    sentence = serializers.CharField(max_length=300, allow_blank=True, default="")
    athlete = serializers.CharField(max_length=300, allow_blank=True, default="")
    cue = serializers.CharField(max_length=300, allow_blank=True, default="")


class FaultSerializer(OwnFaultSerializer):
    """A fault of the catalogue, as the coach has it."""

    id = serializers.CharField()
    measured = serializers.BooleanField(help_text="A film tells whether it is there, and whether it is gone.")
    measures = serializers.ListField(child=serializers.CharField())
    praise = serializers.BooleanField()
    seen_by_coach = serializers.BooleanField()
    refusable = serializers.BooleanField(help_text="Referees may refuse the lift for it.")
    own = serializers.BooleanField()
    reworded = serializers.BooleanField(help_text="Said in the coach's own words.")
    put_away = serializers.BooleanField(help_text="A fault of the coach's own that is no longer offered.")


class FaultLinkSerializer(serializers.Serializer):
    cause = serializers.CharField()
    effect = serializers.CharField()


class PhaseSerializer(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()


class MeasureSerializer(serializers.Serializer):
    id = serializers.CharField()
    label = serializers.CharField()
    unit = serializers.CharField()
    about = serializers.CharField()


class CatalogueSerializer(serializers.Serializer):
    faults = FaultSerializer(many=True)
    links = FaultLinkSerializer(many=True, help_text="Which fault leads to which, in the order of the lift.")
    measures = MeasureSerializer(many=True)
    phases = PhaseSerializer(many=True, help_text="The parts of a lift, in order.")


class MeasureNameSerializer(serializers.Serializer):
    measure = serializers.CharField()
    label = serializers.CharField()
    unit = serializers.CharField()


class DifferenceSerializer(MeasureNameSerializer):
    """A measure in two groups of lifts: their means, and the standard deviation of the difference."""

    first = serializers.FloatField()
    then = serializers.FloatField()
    sd = serializers.FloatField()
    first_lifts = serializers.IntegerField()
    then_lifts = serializers.IntegerField()


class BreakSerializer(MeasureNameSerializer):
    """A measure that passes its limit at some load and stays beyond it."""

    fault = serializers.CharField()
    name = serializers.CharField()
    load_kg = serializers.FloatField()
    lightest = serializers.FloatField()
    there = serializers.FloatField()
    heaviest = serializers.FloatField()
    limit = serializers.FloatField()


class RepetitionsSerializer(MeasureNameSerializer):
    """A trend over the repetitions of one set."""

    clip = serializers.CharField()
    on = DayField()
    load_kg = serializers.FloatField()
    repetitions = serializers.IntegerField()
    spread = serializers.FloatField()
    each = serializers.FloatField(help_text="Change from one repetition to the next.")
    sd = serializers.FloatField()


class BandSerializer(MeasureNameSerializer):
    """Where a measure usually lies for this athlete."""

    low = serializers.FloatField()
    middle = serializers.FloatField()
    high = serializers.FloatField()
    lifts = serializers.IntegerField()


class ProfileSerializer(serializers.Serializer):
    lifts = serializers.IntegerField()
    loads = serializers.IntegerField()
    plateau_m_s = serializers.FloatField(allow_null=True)
    break_kg = serializers.FloatField(allow_null=True)
    slope_m_s_per_10_kg = serializers.FloatField()
    spread_m_s = serializers.FloatField()
    line = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))


class SeriesLiftSerializer(serializers.Serializer):
    clip = serializers.CharField()
    place = serializers.IntegerField()
    on = DayField()
    load_kg = serializers.FloatField()
    made = serializers.BooleanField(allow_null=True)
    value = serializers.FloatField(allow_null=True, help_text="Of the measure asked for; null where it could not be taken.")
    sd = serializers.FloatField(allow_null=True)


class ConfirmedSerializer(serializers.Serializer):
    """A fault that stands on some of the lifts by the coach's word."""

    fault = serializers.CharField()
    name = serializers.CharField()
    entries = serializers.ListField(child=serializers.CharField(), help_text="Its lifts, as clip:place, oldest first.")
    lightest_kg = serializers.FloatField()
    heaviest_kg = serializers.FloatField()
    last_on = DayField()


class KindCountSerializer(serializers.Serializer):
    kind = serializers.CharField()
    lifts = serializers.IntegerField()


class SeriesSerializer(serializers.Serializer):
    """An athlete's lifts of one kind laid together."""

    kinds = KindCountSerializer(many=True)
    kind = serializers.CharField(allow_blank=True)
    best_kg = serializers.FloatField(allow_null=True)
    measure = serializers.CharField(help_text="Which measure the lifts are told with.")
    lifts = SeriesLiftSerializer(many=True)
    measures = MeasureNameSerializer(many=True)
    profile = ProfileSerializer(allow_null=True)
    breaks = BreakSerializer(many=True)
    confirmed = ConfirmedSerializer(many=True)
    missed = DifferenceSerializer(many=True)
    tired = DifferenceSerializer(many=True)
    repetitions = RepetitionsSerializer(many=True)
    bands = BandSerializer(many=True)
    band_lifts = serializers.IntegerField()
    band_needs = serializers.IntegerField()


class PeriodSerializer(serializers.Serializer):
    """Which lifts are laid together."""

    kind = serializers.CharField(required=False)
    since = DayField(required=False)
    until = DayField(required=False)
    measure = serializers.CharField(required=False, help_text="One of the series' measures, to be told of each lift.")
