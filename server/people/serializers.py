from __future__ import annotations

from typing import Any

from django.db import transaction
from rest_framework import serializers

from atleta.coaching.loading import POUND_KG
from atleta_site.fields import DayField

from .models import Athlete, Best, GymRack, Looks


class BestSerializer(serializers.ModelSerializer):
    """A best, kept in kilograms; `load` is the same as the gym counts it, and what is entered in `unit`."""

    kilos = serializers.FloatField(required=False, min_value=1, max_value=600)
    load = serializers.FloatField(required=False, min_value=0.5, max_value=1325, help_text="In `unit`; kept in kilograms.")
    unit = serializers.ChoiceField(choices=["kg", "lb"], required=False, help_text="As the gym counts.")

    on = DayField()

    class Meta:
        model = Best
        fields = ["lift", "kilos", "load", "unit", "on"]

    def validate(self, best: dict[str, Any]) -> dict[str, Any]:
        load, unit = best.pop("load", None), best.pop("unit", None) or self._unit()
        if load is not None:
            best["kilos"] = load * (POUND_KG if unit == "lb" else 1.0)
        if not 1 <= best.get("kilos", 0) <= 600:
            raise serializers.ValidationError("Enter the load of the best, between 1 and 600 kg.")
        return best

    def to_representation(self, best: Best) -> dict[str, Any]:
        unit = self._unit()
        load = best.kilos / POUND_KG if unit == "lb" else best.kilos
        return {"lift": best.lift, "kilos": best.kilos, "load": round(load, 1), "unit": unit, "on": best.on.isoformat()}

    def _unit(self) -> str:
        """What the coach's gym counts in, looked up once for an answer."""
        if "unit" not in self.context:
            rack = GymRack.objects.filter(coach=self.context["request"].user).first()
            self.context["unit"] = rack.unit if rack else "kg"
        return str(self.context["unit"])


class AthleteSerializer(serializers.ModelSerializer):
    bests = BestSerializer(many=True, required=False)
    training_days = serializers.ListField(
        child=serializers.IntegerField(min_value=0, max_value=6), min_length=1, max_length=7, required=False
    )

    class Meta:
        model = Athlete
        fields = ["id", "name", "stature_m", "pain", "contact_bruise", "notes", "training_days", "most_sets", "clearance", "bests"]

    def validate_name(self, name: str) -> str:
        coach = self.context["request"].user
        taken = Athlete.objects.filter(coach=coach, name=name)
        if self.instance:
            taken = taken.exclude(pk=self.instance.pk)
        if taken.exists():
            raise serializers.ValidationError(f"You already have an athlete called {name}. Add something to tell them apart.")
        return name

    def validate_training_days(self, days: list[int]) -> list[int]:
        return sorted(set(days))

    def validate_bests(self, bests: list[dict[str, Any]]) -> list[dict[str, Any]]:
        if len({best["lift"] for best in bests}) != len(bests):
            raise serializers.ValidationError("Each lift can have one best.")
        return bests

    @transaction.atomic
    def create(self, data: dict[str, Any]) -> Athlete:
        bests = data.pop("bests", [])
        athlete = Athlete.objects.create(coach=self.context["request"].user, **data)
        self._write_bests(athlete, bests)
        return athlete

    @transaction.atomic
    def update(self, athlete: Athlete, data: dict[str, Any]) -> Athlete:
        bests = data.pop("bests", None)
        athlete = super().update(athlete, data)
        if bests is not None:
            self._write_bests(athlete, bests)
        return athlete

    def _write_bests(self, athlete: Athlete, bests: list[dict[str, Any]]) -> None:
        for best in bests:
            Best.objects.update_or_create(athlete=athlete, lift=best["lift"], defaults={"kilos": best["kilos"], "on": best["on"]})
        if hasattr(athlete, "_prefetched_objects_cache"):
            athlete._prefetched_objects_cache.clear()


class RackSerializer(serializers.ModelSerializer):
    pairs = serializers.DictField(child=serializers.IntegerField(min_value=0, max_value=20))

    class Meta:
        model = GymRack
        fields = ["unit", "bar", "collars", "pairs"]

    def validate_pairs(self, pairs: dict[str, int]) -> dict[str, int]:
        for weight in pairs:
            try:
                sound = 0 < float(weight) <= 50
            except ValueError:
                sound = False
            if not sound:
                raise serializers.ValidationError(f"A disc of '{weight}' is not a weight between 0 and 50.")
        return pairs


DRAWN = ["path", "upright", "joints", "angles", "relations", "mid_foot", "balance", "own_start", "marks"]
ANGLES = ["trunk", "hip", "knee", "shin", "elbow"]
TRACES = ["height", "aside", "speed", "force", "trunk", "hip", "knee", "shin", "elbow", "heel", "balance", "sound", "level", "knees"]


class LooksSerializer(serializers.ModelSerializer):
    drawn = serializers.ListField(child=serializers.ChoiceField(DRAWN), max_length=len(DRAWN), allow_null=True)
    traces = serializers.ListField(child=serializers.ChoiceField(TRACES), max_length=3)
    angles = serializers.ListField(child=serializers.ChoiceField(ANGLES), max_length=len(ANGLES), allow_null=True, required=False)

    class Meta:
        model = Looks
        fields = ["drawn", "traces", "angles"]


class SignInSerializer(serializers.Serializer):
    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class SessionSerializer(serializers.Serializer):
    signed_in = serializers.BooleanField()
    name = serializers.CharField(allow_blank=True)
    demo = serializers.BooleanField(help_text="This is the demo world, and no one's own athletes.")
    first_run = serializers.BooleanField(help_text="Nobody coaches here yet: the first account is to be made.")


class NewCoachSerializer(serializers.Serializer):
    """An account that is made by a link: the first one's, or an invitation's."""

    token = serializers.CharField(max_length=64, write_only=True)
    username = serializers.CharField(max_length=150)
    name = serializers.CharField(max_length=150, allow_blank=True, default="")
    password = serializers.CharField(max_length=200, trim_whitespace=False, write_only=True)


class PasswordSerializer(serializers.Serializer):
    old = serializers.CharField(max_length=200, trim_whitespace=False, write_only=True)
    new = serializers.CharField(max_length=200, trim_whitespace=False, write_only=True)


class InvitationSerializer(serializers.Serializer):
    token = serializers.CharField(read_only=True)
    ends_at = serializers.DateTimeField(read_only=True)


class TrailSerializer(serializers.Serializer):
    at = serializers.DateTimeField()
    what = serializers.CharField()


class TableSerializer(serializers.Serializer):
    """Athletes as comma-separated text; nothing of it is kept unless `keep` says so."""

    text = serializers.CharField(max_length=400_000, trim_whitespace=False)
    keep = serializers.BooleanField(default=False)


class TableRowSerializer(serializers.Serializer):
    name = serializers.CharField()
    stature_m = serializers.FloatField(allow_null=True)
    bests = serializers.DictField(child=serializers.FloatField(), help_text="Kilograms by lift.")
    there = serializers.BooleanField(help_text="Whether the athlete is there already.")
