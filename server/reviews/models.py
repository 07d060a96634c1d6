"""What the program derived from a clip, what the coach said of it, and what was handed to the athlete."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models
from django.utils import timezone

from atleta_site.quick import QuickJSONField
from clips.models import Clip
from people.models import Athlete, new_token

from .packed import NumbersField


class Analysis(models.Model):
    """The analysis document of a clip. Derived: it can be thrown away and made again from tracks and corrections."""

    clip = models.OneToOneField(Clip, on_delete=models.CASCADE, related_name="analysis")
    document = QuickJSONField()
    judged_by = models.JSONField(default=dict)
    """The coach's own limits and positions, and the version, that it was judged by."""
    better = models.JSONField(default=dict)
    """By lift of the clip, the faults whose numbers are better than usual for this athlete; null where too few lifts tell."""
    revision = models.PositiveIntegerField(default=0)
    """Grows with every change."""
    made_at = models.DateTimeField(auto_now=True)


class LiftNumbers(models.Model):
    """The measures of one lift out of a clip's document, kept beside it so that many lifts can be laid together. Derived."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="numbers")
    place = models.PositiveSmallIntegerField()
    """Which lift of the clip, counted from 0."""
    kind = models.CharField(max_length=30)
    made = models.BooleanField(null=True)
    """By the coach's word, else as the bar's way shows it."""
    numbers = NumbersField()
    """By measure: value and standard deviation."""

    class Meta:
        ordering = ["place"]
        constraints = [models.UniqueConstraint(fields=["clip", "place"], name="one_row_per_lift")]


class DiscPoint(models.Model):
    """The coach's word on where the disc is at one frame, in pixels of the upright original."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="disc_points")
    frame = models.PositiveIntegerField()
    x_px = models.FloatField()
    y_px = models.FloatField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["frame"]
        constraints = [models.UniqueConstraint(fields=["clip", "frame"], name="one_disc_point_per_frame")]


class JointPoint(models.Model):
    """The coach's word on where a joint is at one frame, in pixels of the upright original."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="joint_points")
    frame = models.PositiveIntegerField()
    joint = models.CharField(max_length=20)
    x_px = models.FloatField()
    y_px = models.FloatField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["frame", "joint"]
        constraints = [models.UniqueConstraint(fields=["clip", "frame", "joint"], name="one_joint_point_per_frame")]


class Correction(models.Model):
    """One change by the coach, as it was before and after: what can be undone and done again, and who changed what. A change of preferences
    for all athletes, made apart from any clip, has none."""

    class State(models.TextChoices):
        DONE = "done"
        UNDONE = "undone"
        LEFT_BEHIND = "left_behind"
        """Undone, and then something else was changed: it cannot be done again."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="corrections", null=True)
    what = models.CharField(max_length=140)
    before = models.JSONField(null=True)
    after = models.JSONField(null=True)
    state = models.CharField(max_length=11, choices=State.choices, default=State.DONE)
    turn = models.PositiveBigIntegerField(default=0, db_index=True)
    """Of all that was ever changed, undone or done again, which this was last."""
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    @classmethod
    def next_turn(cls) -> int:
        """Asked for and used within one transaction, as only one can write."""
        return (cls.objects.aggregate(last=models.Max("turn"))["last"] or 0) + 1


class Verdict(models.Model):
    """The coach's decision on a fault of one lift; it outranks the program's."""

    class Decision(models.TextChoices):
        CONFIRMED = "confirmed"
        DISMISSED = "dismissed"
        ADDED = "added"

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="verdicts")
    place = models.PositiveSmallIntegerField(default=0)
    """Which lift of the clip, counted from 0."""
    fault = models.CharField(max_length=60)
    decision = models.CharField(max_length=10, choices=Decision.choices)
    frame = models.PositiveIntegerField(null=True, blank=True)
    note = models.CharField(max_length=300, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["at"]
        constraints = [models.UniqueConstraint(fields=["clip", "place", "fault"], name="one_verdict_per_fault_of_a_lift")]


class Note(models.Model):
    """The coach's words at one frame, written or spoken."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="notes")
    frame = models.PositiveIntegerField()
    words = models.CharField(max_length=500, blank=True)
    seconds = models.FloatField(null=True)
    """How long it was spoken; null where nothing was."""
    shown = models.JSONField(default=list)
    """What stood on the stage while it was spoken: `[[seconds from its beginning, frame], …]`."""
    looked = models.JSONField(default=list)
    """How it was looked at meanwhile, where that changed: `[{"s": …, "zoom": …, "x": …, "y": …, "drawn": […]}, …]`; empty for notes spoken
    before that was kept."""
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["frame", "pk"]

    @property
    def voice_file(self) -> Path:
        return self.clip.voices_dir / f"{self.pk}.m4a"


class Mark(models.Model):
    """What the coach drew into the picture at one frame."""

    class Shape(models.TextChoices):
        STROKE = "stroke"
        LINE = "line"
        ARROW = "arrow"
        CIRCLE = "circle"
        ANGLE = "angle"

    class Ink(models.TextChoices):
        WHITE = "white"
        AMBER = "amber"
        SKY = "sky"

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="marks")
    frame = models.PositiveIntegerField()
    shape = models.CharField(max_length=6, choices=Shape.choices)
    ink = models.CharField(max_length=5, choices=Ink.choices, default=Ink.WHITE)
    points = models.JSONField()
    """`[[x, y], …]` in pixels of the upright original: the way of a stroke; two ends; a circle's middle and a point of it; an angle's
    one arm, corner, other arm."""
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["frame", "pk"]


class Limit(models.Model):
    """A coach's own limits of a rule, in its measure's unit: for one athlete, or for all of theirs."""

    coach = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="limits")
    athlete = models.ForeignKey(Athlete, on_delete=models.CASCADE, related_name="limits", null=True, blank=True)
    fault = models.CharField(max_length=60)
    measure = models.CharField(max_length=60)
    watch = models.FloatField()
    fault_at = models.FloatField()
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["at"]
        constraints = [
            models.UniqueConstraint(fields=["coach", "athlete", "fault", "measure"], name="one_limit_per_athlete"),
            models.UniqueConstraint(
                fields=["coach", "fault", "measure"], condition=models.Q(athlete__isnull=True), name="one_limit_for_all"
            ),
        ]


class Stance(models.Model):
    """A coach's position where coaches disagree: for one athlete, or for all of theirs."""

    coach = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="stances")
    athlete = models.ForeignKey(Athlete, on_delete=models.CASCADE, related_name="stances", null=True, blank=True)
    question = models.CharField(max_length=60)
    position = models.CharField(max_length=60)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["at"]
        constraints = [
            models.UniqueConstraint(fields=["coach", "athlete", "question"], name="one_stance_per_athlete"),
            models.UniqueConstraint(fields=["coach", "question"], condition=models.Q(athlete__isnull=True), name="one_stance_for_all"),
        ]


class OwnFault(models.Model):
    """A fault of a coach's own, with all that the catalogue says of one. Put away it is offered no more, and keeps its name where it
    stands."""

    coach = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="own_faults")
    fault = models.CharField(max_length=60)
    data = models.JSONField()
    put_away = models.BooleanField(default=False)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["fault"]
        constraints = [models.UniqueConstraint(fields=["coach", "fault"], name="one_own_fault_per_id")]


class Wording(models.Model):
    """A coach's own words for a fault, for good; what is empty stands as it ships."""

    coach = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="wordings")
    fault = models.CharField(max_length=60)
    sentence = models.CharField(max_length=300, blank=True)
    athlete = models.CharField(max_length=300, blank=True)
    cue = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["fault"]
        constraints = [models.UniqueConstraint(fields=["coach", "fault"], name="one_wording_per_fault")]


class Review(models.Model):
    """What the coach will say: drafted while looking, kept until it is handed over and after."""

    clip = models.OneToOneField(Clip, on_delete=models.CASCADE, related_name="review")
    good = models.TextField(blank=True, max_length=1000)
    first_priority = models.CharField(max_length=60, blank=True)
    words = models.TextField(blank=True, max_length=2000)
    wordings = models.JSONField(default=dict, blank=True)
    """What is said otherwise in this review alone: by fault, `athlete` and `cue`."""
    updated_at = models.DateTimeField(auto_now=True)


class HandOver(models.Model):
    """A review as it was handed over: a copy that later changes do not touch, behind a link that nobody can guess."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="hand_overs")
    token = models.CharField(max_length=64, unique=True, default=new_token)
    content = models.JSONField()
    published_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True, blank=True)
    opened_at = models.DateTimeField(null=True, blank=True)
    opened_count = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["-published_at"]

    @property
    def open(self) -> bool:
        return self.withdrawn_at is None and self.expires_at > timezone.now()

    def picture(self, place: int) -> Path:
        """The picture of a point, counted from 0."""
        return settings.MEDIA_DIR / "handed" / (f"{self.pk}-{place}.jpg" if place else f"{self.pk}.jpg")

    def moment(self, frame: int) -> Path:
        """The picture at a moment that something was noted or drawn at."""
        return settings.MEDIA_DIR / "handed" / f"{self.pk}-at-{frame}.jpg"

    def voice_file(self, note: int) -> Path:
        """What was said at a note, as it was when handed over."""
        return settings.MEDIA_DIR / "handed" / f"{self.pk}-{note}.m4a"

    def film(self, note: int) -> Path:
        """What stood on the stage while a note was spoken, with the voice; made by the worker after handing over."""
        return settings.MEDIA_DIR / "handed" / f"{self.pk}-{note}.mp4"

    def files(self) -> list[Path]:
        """Everything kept with it."""
        folder = settings.MEDIA_DIR / "handed"
        return [*folder.glob(f"{self.pk}.*"), *folder.glob(f"{self.pk}-*")]
