from __future__ import annotations

from rest_framework import serializers

from .models import Assignment


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
    reason = serializers.CharField()
    how = serializers.CharField()
    cautions = serializers.ListField(child=serializers.CharField())
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
            "id", "exercise", "name", "sets", "reps", "percent", "per_week", "weeks", "note", "basis", "best_kilos", "unit", "total",
            "per_side",
        ]  # fmt: skip
        read_only_fields = ["basis", "best_kilos", "unit", "total", "per_side"]

    def get_name(self, assignment: Assignment) -> str:
        from atleta.coaching import load_library

        return load_library()[assignment.exercise].named(assignment.lift)
