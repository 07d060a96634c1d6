from __future__ import annotations

from typing import Any

from rest_framework import serializers

from atleta_site.fields import DayField
from jobs.models import AnalysisJob
from people.models import Athlete

from .models import Clip
from .queue import Waiting


class JobSerializer(serializers.ModelSerializer):
    class Meta:
        model = AnalysisJob
        fields = ["state", "stage", "progress", "attempts", "error_code", "error_message"]
        read_only_fields = fields


class ProgressSerializer(serializers.Serializer):
    """How far the analysis of a clip is."""

    clip = serializers.CharField(source="clip_id")
    job = JobSerializer(source="*")


class ClipSerializer(serializers.ModelSerializer):
    """A clip in the queue."""

    athlete_name = serializers.CharField(source="athlete.name", read_only=True)
    filmed_on = DayField(required=False, allow_null=True)
    stature_m = serializers.FloatField(source="athlete.stature_m", read_only=True, allow_null=True)
    job = JobSerializer(read_only=True)
    measured = serializers.SerializerMethodField()
    reviewed = serializers.SerializerMethodField()

    class Meta:
        model = Clip
        fields = [
            "id", "athlete", "athlete_name", "stature_m", "lift", "load", "load_unit", "made", "filmed_on", "facing", "file_name",
            "size_bytes",
            "model_name", "model_agreed", "added_at", "job", "measured", "reviewed",
        ]  # fmt: skip
        read_only_fields = ["file_name", "size_bytes", "added_at"]

    def get_measured(self, clip: Clip) -> bool:
        """Whether an analysis can be looked at, though the copy for stepping may still be on its way."""
        return bool(getattr(clip, "measured", False))

    def get_reviewed(self, clip: Clip) -> bool:
        return bool(getattr(clip, "handed", False))

    def validate(self, facts: dict[str, Any]) -> dict[str, Any]:
        named = facts.get("model_name", getattr(self.instance, "model_name", ""))
        if named and not facts.get("model_agreed", getattr(self.instance, "model_agreed", False)):
            raise serializers.ValidationError("Ask the lifter first: a lift serves as a model only when its lifter agrees to be shown.")
        clip, athlete = self.instance, facts.get("athlete")
        if clip and athlete and athlete.pk != clip.athlete_id:
            if any(handed.open for handed in clip.hand_overs.all()):
                raise serializers.ValidationError(f"The review of this lift is with {clip.athlete.name}. Withdraw it first.")
            if clip.assignments.exists() or clip.blocks.exists() or hasattr(clip, "follows"):
                raise serializers.ValidationError(
                    f"Work of {clip.athlete.name} rests on this clip. Take that back first, or send the clip once more for who lifted."
                )
        return facts

    def validate_athlete(self, athlete: Athlete) -> Athlete:
        if athlete.coach_id != self.context["request"].user.id:
            raise serializers.ValidationError("There is no such athlete.")
        return athlete


class UploadSerializer(ClipSerializer):
    """A clip on its way in, with its file."""

    file = serializers.FileField(write_only=True)

    class Meta(ClipSerializer.Meta):
        fields = [*ClipSerializer.Meta.fields, "file"]


class LoudnessSerializer(serializers.Serializer):
    loudness = serializers.ListField(
        child=serializers.FloatField(), allow_null=True,
        help_text="The loudest within each frame's time, 0 to 1 of full scale; null for a clip without sound.",
    )  # fmt: skip


class QueueSerializer(serializers.Serializer):
    """Clips that wait for the same."""

    waiting = serializers.ChoiceField(Waiting.choices)
    count = serializers.IntegerField()
    clips = ClipSerializer(many=True, help_text="The first of them, in turn.")


class NextSerializer(serializers.Serializer):
    clip = serializers.CharField(allow_null=True)
