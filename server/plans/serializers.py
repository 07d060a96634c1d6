from __future__ import annotations

from rest_framework import serializers

from atleta_site.fields import DayField

from .gates import REASON_LETTERS
from .models import Assignment
from .shelf import library_of


class DoseSerializer(serializers.Serializer):
    basis = serializers.CharField()
    best_kilos = serializers.FloatField(allow_null=True)
    unit = serializers.CharField()
    total = serializers.FloatField(allow_null=True)
    per_side = serializers.ListField(child=serializers.FloatField())


class AskedPercentSerializer(serializers.Serializer):
    percent = serializers.FloatField(min_value=0, max_value=120)


class OfferSerializer(serializers.Serializer):
    """An exercise offered for a clip, with its usual dose and the load that follows."""

    exercise = serializers.CharField()
    name = serializers.CharField()
    kind = serializers.CharField()
    sort = serializers.ChoiceField(choices=["drill", "pull", "support"], help_text="A position drill, a pull variation, or support.")
    first = serializers.BooleanField(help_text="One of the three to show first: the best of its sort.")
    another_day = serializers.BooleanField(help_text="Offered for a day of better readiness.")
    contact = serializers.CharField()
    safeties = serializers.CharField(allow_blank=True, help_text="How it is done safely under a load.")
    reason = serializers.CharField()
    how = serializers.CharField()
    cautions = serializers.ListField(child=serializers.CharField())
    before = serializers.ListField(child=serializers.CharField())
    load = serializers.CharField(allow_blank=True)
    sets = serializers.IntegerField()
    reps = serializers.IntegerField()
    per_week = serializers.IntegerField()
    weeks = serializers.IntegerField()
    percent = serializers.FloatField()
    percent_low = serializers.FloatField()
    percent_high = serializers.FloatField()
    dose = DoseSerializer()


class OffersSerializer(serializers.Serializer):
    caution = serializers.CharField(allow_blank=True)
    offers = OfferSerializer(many=True)


class AssignmentSerializer(serializers.ModelSerializer):
    name = serializers.SerializerMethodField()
    per_side = serializers.ListField(child=serializers.FloatField(), read_only=True)

    class Meta:
        model = Assignment
        fields = [
            "id", "exercise", "name", "sets", "reps", "percent", "per_week", "weeks", "note", "in_spite_of", "basis", "best_kilos", "unit",
            "total", "per_side",
        ]  # fmt: skip
        read_only_fields = ["basis", "best_kilos", "unit", "total", "per_side"]

    def get_name(self, assignment: Assignment) -> str:
        return library_of(assignment.clip.athlete.coach_id)[assignment.exercise].named(assignment.lift)


class ChangeDoseSerializer(serializers.Serializer):
    """A dose changed afterwards; what is left out stays."""

    sets = serializers.IntegerField(min_value=1, max_value=10, required=False)
    reps = serializers.IntegerField(min_value=1, max_value=20, required=False)
    percent = serializers.FloatField(min_value=0, max_value=120, required=False)
    by = serializers.FloatField(min_value=-50, max_value=50, required=False, help_text="Percent heavier or lighter than it is set.")
    note = serializers.CharField(max_length=300, allow_blank=True, required=False)


class ExcuseSerializer(serializers.Serializer):
    """Why a piece of work goes on despite a caution, in the coach's words."""

    words = serializers.CharField(min_length=REASON_LETTERS, max_length=300)


# -- library ----------------------------------------------------------------------------------------------------------------


class PassSerializer(serializers.Serializer):
    measure = serializers.CharField()
    at_least = serializers.FloatField(allow_null=True, default=None)
    at_most = serializers.FloatField(allow_null=True, default=None)


class ExerciseSerializer(serializers.Serializer):
    """An exercise with its usual dose, as the coach's library has it."""

    id = serializers.CharField(read_only=True)
    name = serializers.CharField()
    kind = serializers.CharField()
    lifts = serializers.ListField(child=serializers.CharField())
    positions = serializers.ListField(child=serializers.CharField())
    answers = serializers.DictField(child=serializers.FloatField())
    watch = serializers.ListField(child=serializers.CharField())
    sets = serializers.IntegerField()
    reps = serializers.IntegerField()
    pause_s = serializers.IntegerField()
    rest_s = serializers.IntegerField()
    per_week = serializers.IntegerField()
    weeks = serializers.IntegerField()
    basis = serializers.CharField()
    percent = serializers.ListField(child=serializers.FloatField())
    start_percent = serializers.FloatField()
    start = serializers.CharField()
    equipment = serializers.ListField(child=serializers.CharField())
    muscles = serializers.ListField(child=serializers.CharField())
    easier = serializers.ListField(child=serializers.CharField())
    harder = serializers.ListField(child=serializers.CharField())
    before = serializers.ListField(child=serializers.CharField())
    film = serializers.CharField()
    how = serializers.CharField()
    cue = serializers.CharField()
    cautions = serializers.ListField(child=serializers.CharField())
    passes = PassSerializer(many=True, required=False)
    load = serializers.CharField(allow_blank=True, required=False)
    contact = serializers.ChoiceField(
        choices=["none", "brush", "strike"], default="strike", help_text="Whether the bar meets thigh or hip."
    )
    safety = serializers.CharField(allow_blank=True, required=False)
    safeties = serializers.CharField(read_only=True, help_text="How it is done safely under a load.")
    low_back = serializers.BooleanField(required=False)


class ShelvedSerializer(ExerciseSerializer):
    own = serializers.BooleanField(read_only=True, help_text="The coach's own, or their own version.")
    ships = serializers.BooleanField(read_only=True, help_text="It comes with Atleta.")
    hidden = serializers.BooleanField(read_only=True)
    used_by = serializers.ListField(child=serializers.CharField(), read_only=True)


class StepSerializer(serializers.Serializer):
    exercise = serializers.CharField()
    name = serializers.CharField()
    says = serializers.CharField()
    implement = serializers.CharField()
    sets = serializers.IntegerField()
    reps = serializers.IntegerField()
    passes = PassSerializer(many=True)
    in_a_row = serializers.IntegerField()


class LadderSerializer(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()
    lift = serializers.CharField()
    about = serializers.CharField()
    own = serializers.BooleanField(help_text="The coach's own.")
    steps = StepSerializer(many=True)


class OwnStepSerializer(serializers.Serializer):
    exercise = serializers.CharField()
    says = serializers.CharField()
    implement = serializers.CharField()
    sets = serializers.IntegerField()
    reps = serializers.IntegerField()
    in_a_row = serializers.IntegerField(default=3)
    passes = PassSerializer(many=True, required=False)


class OwnLadderSerializer(serializers.Serializer):
    """A teaching order of the coach's own. What cannot be is refused with what to change."""

    name = serializers.CharField()
    lift = serializers.CharField()
    about = serializers.CharField()
    steps = OwnStepSerializer(many=True)


class LibrarySerializer(serializers.Serializer):
    exercises = ShelvedSerializer(many=True)
    ladders = LadderSerializer(many=True)


class HiddenSerializer(serializers.Serializer):
    hidden = serializers.BooleanField()


# -- blocks -----------------------------------------------------------------------------------------------------------------


class BeginSerializer(serializers.Serializer):
    begins = DayField()
    weeks = serializers.IntegerField()
    days = serializers.ListField(child=serializers.IntegerField(min_value=0, max_value=6), min_length=1)


class ChangeBlockSerializer(serializers.Serializer):
    """A block changed afterwards; what is left out stays."""

    begins = DayField(required=False)
    weeks = serializers.IntegerField(required=False)
    days = serializers.ListField(child=serializers.IntegerField(min_value=0, max_value=6), min_length=1, required=False)


class SlotSerializer(serializers.Serializer):
    id = serializers.IntegerField(read_only=True)
    assignment = serializers.IntegerField(allow_null=True, read_only=True)
    name = serializers.CharField(read_only=True)
    on = DayField()
    week = serializers.IntegerField(read_only=True)
    sets = serializers.IntegerField(min_value=0, max_value=10)
    reps = serializers.IntegerField(read_only=True)
    percent = serializers.FloatField(min_value=0, max_value=120)
    unit = serializers.CharField(read_only=True)
    total = serializers.FloatField(allow_null=True, read_only=True)
    per_side = serializers.ListField(child=serializers.FloatField(), read_only=True)
    load = serializers.CharField(read_only=True, allow_blank=True)
    light = serializers.BooleanField(read_only=True)
    test = serializers.BooleanField(read_only=True)
    low_back = serializers.BooleanField(read_only=True)
    done = serializers.BooleanField(read_only=True)
    paused = serializers.CharField(read_only=True, allow_blank=True, help_text="Why it waits at present; empty where nothing forbids it.")
    stops = serializers.BooleanField(read_only=True, help_text="It waits for pain, against which no reason stands.")
    minutes = serializers.FloatField(read_only=True)
    effort = serializers.FloatField(read_only=True, help_text="Repetitions as heavy as the best.")


class BrokenSerializer(serializers.Serializer):
    rule = serializers.CharField()
    on = DayField()
    says = serializers.CharField()


class WeekSerializer(serializers.Serializer):
    week = serializers.IntegerField()
    sets = serializers.IntegerField()
    minutes = serializers.FloatField()
    effort = serializers.FloatField(help_text="Repetitions as heavy as the best.")


class ResultSerializer(serializers.Serializer):
    """The number that led to a block, before and after; `by` is positive for better."""

    word = serializers.CharField()
    says = serializers.CharField()
    measure = serializers.CharField()
    label = serializers.CharField()
    unit = serializers.CharField()
    before = serializers.FloatField(allow_null=True)
    after = serializers.FloatField(allow_null=True)
    by = serializers.FloatField(allow_null=True)
    sd = serializers.FloatField(allow_null=True)
    load_kg = serializers.FloatField(allow_null=True, default=None, help_text="The load that both were lifted with.")
    next = serializers.CharField()
    before_clip = serializers.CharField(allow_null=True)
    after_clip = serializers.CharField()
    lifts = serializers.ListField(child=serializers.IntegerField())


class KeptSerializer(serializers.Serializer):
    measure = serializers.CharField()
    label = serializers.CharField()
    unit = serializers.CharField()
    value = serializers.FloatField(allow_null=True)
    sd = serializers.FloatField(allow_null=True)
    at_least = serializers.FloatField(allow_null=True)
    at_most = serializers.FloatField(allow_null=True)
    probability = serializers.FloatField(allow_null=True)


class FollowedSerializer(serializers.Serializer):
    clip = serializers.CharField()
    on = DayField()
    name = serializers.CharField()
    step = serializers.CharField(allow_null=True, help_text="up, repeat or back; null while the clip is not measured.")
    says = serializers.CharField()
    rules = KeptSerializer(many=True)
    taken_up = serializers.CharField(allow_blank=True)


class FollowsSerializer(serializers.Serializer):
    assignment = serializers.IntegerField()


class ShownWorkSerializer(serializers.Serializer):
    assignment = serializers.IntegerField()
    name = serializers.CharField()
    on = DayField(help_text="The planned day nearest to the film.")


class ShowsSerializer(serializers.Serializer):
    """What work a clip shows by the coach's word, and what it may show where nothing was said."""

    follows = FollowedSerializer(allow_null=True)
    offered = ShownWorkSerializer(many=True)


class TakeUpSerializer(serializers.Serializer):
    step = serializers.ChoiceField(choices=["up", "repeat", "back"])


class BlockSerializer(serializers.Serializer):
    id = serializers.IntegerField()
    athlete = serializers.IntegerField()
    athlete_name = serializers.CharField()
    clip = serializers.CharField(allow_null=True)
    lift = serializers.CharField()
    fault = serializers.CharField(allow_blank=True)
    fault_name = serializers.CharField(allow_blank=True)
    begins = DayField()
    weeks = WeekSerializer(many=True)
    days = serializers.ListField(child=serializers.IntegerField())
    closed = serializers.BooleanField()
    slots = SlotSerializer(many=True)
    broken = BrokenSerializer(many=True)
    follow_ups = FollowedSerializer(many=True)
    result = ResultSerializer(allow_null=True)


class RatioSerializer(serializers.Serializer):
    over = serializers.CharField()
    under = serializers.CharField()
    value = serializers.FloatField()
    low = serializers.FloatField()
    high = serializers.FloatField()
    says = serializers.CharField(allow_blank=True)


class PlanSerializer(serializers.Serializer):
    """An athlete's blocks, the one under way first; the link to their own page; their bests against each other."""

    athlete = serializers.IntegerField()
    name = serializers.CharField()
    training_days = serializers.ListField(child=serializers.IntegerField())
    blocks = BlockSerializer(many=True)
    link = serializers.CharField(allow_null=True)
    link_opened = serializers.IntegerField()
    ratios = RatioSerializer(many=True)


class ClassRowSerializer(serializers.Serializer):
    """One athlete on a ladder: the day each step was passed, the next one, and what the last film of it shows."""

    athlete = serializers.IntegerField()
    name = serializers.CharField()
    passed = serializers.ListField(child=DayField(allow_null=True))
    next = serializers.IntegerField(allow_null=True)
    clip = serializers.CharField(allow_null=True)
    says = serializers.CharField()
    waits = serializers.CharField(allow_blank=True, help_text="Why the next step waits at present; empty where nothing forbids it.")


class OtherSerializer(serializers.Serializer):
    athlete = serializers.IntegerField()
    name = serializers.CharField()


class ClassSerializer(serializers.Serializer):
    """Who is on a ladder, and who else there is."""

    rows = ClassRowSerializer(many=True)
    others = OtherSerializer(many=True)


class PassedSerializer(serializers.Serializer):
    passed = serializers.BooleanField()
