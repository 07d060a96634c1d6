from __future__ import annotations

from rest_framework import serializers

from atleta_site.fields import DayField
from clips.models import LIFT_CHOICES
from people.models import UNITS

from .models import SITE_CHOICES, Report

# More than a phone gathers in weeks without a connection comes from no phone.
MOST_AT_ONCE, MOST_SETS = 200, 60


class SetSerializer(serializers.Serializer):
    """One set: the load, repetitions made and missed, how hard it was, whether the hook was kept."""

    load = serializers.FloatField(allow_null=True, min_value=0, max_value=1300)
    unit = serializers.ChoiceField(choices=UNITS, default="kg")
    reps = serializers.IntegerField(min_value=0, max_value=100)
    missed = serializers.IntegerField(min_value=0, max_value=100, default=0)
    rpe = serializers.FloatField(allow_null=True, min_value=0, max_value=10, default=None)
    hook = serializers.BooleanField(allow_null=True, default=None)


class DoneSerializer(serializers.Serializer):
    id = serializers.IntegerField(read_only=True)
    key = serializers.UUIDField()
    on = DayField()
    exercise = serializers.CharField(max_length=60)
    name = serializers.CharField(read_only=True)
    lift = serializers.CharField(max_length=30, allow_blank=True, default="", write_only=True)
    slot = serializers.IntegerField(allow_null=True, default=None, write_only=True)
    sets = SetSerializer(many=True, max_length=MOST_SETS)
    note = serializers.CharField(max_length=500, allow_blank=True, default="")
    planned = serializers.BooleanField(read_only=True)


class ReportSerializer(serializers.Serializer):
    key = serializers.UUIDField()
    kind = serializers.ChoiceField(choices=Report.KINDS)
    site = serializers.ChoiceField(choices=SITE_CHOICES)
    degree = serializers.IntegerField(min_value=0, max_value=10)
    since = DayField()
    until = DayField(allow_null=True, default=None)
    note = serializers.CharField(max_length=500, allow_blank=True, default="")
    by_coach = serializers.BooleanField(read_only=True)
    earlier = serializers.ListField(child=serializers.DictField(), read_only=True, help_text="What was told of it before.")


class DaySerializer(serializers.Serializer):
    key = serializers.UUIDField(write_only=True)
    on = DayField()
    readiness = serializers.IntegerField(min_value=1, max_value=5, allow_null=True, default=None)
    bodyweight_kg = serializers.FloatField(min_value=20, max_value=300, allow_null=True, default=None)


class SaidSerializer(serializers.Serializer):
    key = serializers.UUIDField()
    words = serializers.CharField(max_length=1000)


class EntriesSerializer(serializers.Serializer):
    """What was entered on a phone since it last had a connection. Each row is kept once, however often it is sent."""

    done = DoneSerializer(many=True, default=list, max_length=MOST_AT_ONCE)
    reports = ReportSerializer(many=True, default=list, max_length=MOST_AT_ONCE)
    days = DaySerializer(many=True, default=list, max_length=MOST_AT_ONCE)
    said = SaidSerializer(many=True, default=list, max_length=MOST_AT_ONCE)


class WorkSlotSerializer(serializers.Serializer):
    id = serializers.IntegerField()
    assignment = serializers.IntegerField(allow_null=True)
    on = DayField()
    exercise = serializers.CharField()
    lift = serializers.CharField()
    name = serializers.CharField()
    how = serializers.CharField()
    cue = serializers.CharField(allow_blank=True)
    cautions = serializers.ListField(child=serializers.CharField())
    safeties = serializers.CharField(allow_blank=True)
    sets = serializers.IntegerField()
    reps = serializers.IntegerField()
    percent = serializers.FloatField()
    basis = serializers.CharField(allow_blank=True)
    unit = serializers.CharField()
    total = serializers.FloatField(allow_null=True)
    per_side = serializers.ListField(child=serializers.FloatField())
    load = serializers.CharField(allow_blank=True)
    pause_s = serializers.IntegerField()
    rest_s = serializers.IntegerField()
    film = serializers.CharField()
    light = serializers.BooleanField()
    withheld = serializers.CharField(allow_blank=True)
    done_sets = SetSerializer(many=True, allow_null=True)
    done_key = serializers.CharField(allow_null=True)


class OpenReportSerializer(serializers.Serializer):
    key = serializers.CharField()
    kind = serializers.CharField()
    site = serializers.CharField()
    degree = serializers.IntegerField()
    since = DayField()


class WorkReviewSerializer(serializers.Serializer):
    token = serializers.CharField()
    lift = serializers.CharField()
    filmed_on = serializers.CharField(allow_null=True)


class WorkSerializer(serializers.Serializer):
    """The athlete's own page for a day."""

    name = serializers.CharField()
    on = DayField()
    stop = serializers.CharField(allow_blank=True)
    today = WorkSlotSerializer(many=True)
    before = WorkSlotSerializer(many=True, help_text="Planned in the seven days before.")
    coming = WorkSlotSerializer(many=True)
    reports = OpenReportSerializer(many=True)
    reviews = WorkReviewSerializer(many=True)
    done = DoneSerializer(many=True)


class SentClipSerializer(serializers.Serializer):
    """A clip that an athlete sends of their work."""

    file = serializers.FileField(write_only=True)
    assignment = serializers.IntegerField(allow_null=True, default=None)
    lift = serializers.ChoiceField(choices=LIFT_CHOICES, required=False, allow_blank=True)
    load = serializers.FloatField(allow_null=True, default=None, min_value=0.5, max_value=1300)
    load_unit = serializers.ChoiceField(choices=UNITS, default="kg")


class LoadBandSerializer(serializers.Serializer):
    from_percent = serializers.IntegerField()
    to_percent = serializers.IntegerField()
    made = serializers.IntegerField()
    missed = serializers.IntegerField()


class BestDoneSerializer(serializers.Serializer):
    name = serializers.CharField()
    kind = serializers.CharField()
    kilos = serializers.FloatField()
    on = DayField()
    month = serializers.CharField(allow_blank=True)


class SaidRowSerializer(serializers.Serializer):
    id = serializers.IntegerField()
    words = serializers.CharField()
    at = serializers.DateTimeField()
    read = serializers.BooleanField()


class WeekKeptSerializer(serializers.Serializer):
    monday = DayField()
    planned = serializers.IntegerField()
    kept = serializers.IntegerField()


class LogSerializer(serializers.Serializer):
    """An athlete's log as the coach reads it."""

    done = DoneSerializer(many=True)
    weeks = WeekKeptSerializer(many=True)
    planned_days = serializers.IntegerField()
    kept_days = serializers.IntegerField()
    bands = LoadBandSerializer(many=True)
    bests = BestDoneSerializer(many=True)
    days = DaySerializer(many=True)
    reports = ReportSerializer(many=True)
    said = SaidRowSerializer(many=True)


class CsvSerializer(serializers.Serializer):
    text = serializers.CharField(max_length=4_000_000, trim_whitespace=False)


class ReadInSerializer(serializers.Serializer):
    read = serializers.IntegerField()


class MorningRowSerializer(serializers.Serializer):
    athlete = serializers.IntegerField()
    name = serializers.CharField()
    says = serializers.ListField(child=serializers.CharField())


class MorningSerializer(serializers.Serializer):
    """What a coach wants to know before the first athlete comes in."""

    due = MorningRowSerializer(many=True)
    missed = MorningRowSerializer(many=True)
    moved = MorningRowSerializer(many=True)
    ending = MorningRowSerializer(many=True)
    reported = MorningRowSerializer(many=True)
    said = MorningRowSerializer(many=True)
    waiting = MorningRowSerializer(many=True)


class WorkLinkSerializer(serializers.Serializer):
    token = serializers.CharField()
