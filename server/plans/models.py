"""Work that was set: which exercise, how much, what goes on the bar; and when, over a block of weeks."""

from __future__ import annotations

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from clips.models import Clip
from people.models import Athlete


class Shelf(models.Model):
    """What a coach changed of the library: an exercise of their own or their own version of one, or one they do not use."""

    coach = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="shelf")
    exercise = models.CharField(max_length=60)
    data = models.JSONField(null=True, blank=True)
    hidden = models.BooleanField(default=False)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["exercise"]
        constraints = [models.UniqueConstraint(fields=["coach", "exercise"], name="one_shelf_row_per_exercise")]


class Block(models.Model):
    """Some weeks of an athlete's work for one cause, ended by a test of the full lift."""

    athlete = models.ForeignKey(Athlete, on_delete=models.CASCADE, related_name="blocks")
    clip = models.ForeignKey(Clip, on_delete=models.SET_NULL, null=True, related_name="blocks")
    """The clip that led to it."""
    lift = models.CharField(max_length=30)
    """Kind of the lift that is tested at the end."""
    fault = models.CharField(max_length=60, blank=True)
    measure = models.CharField(max_length=60, blank=True)
    """The number that is to move."""
    before = models.JSONField(default=list)
    """What it was: value, standard deviation and load (kg, null where it was not given) of every lift it rests on."""
    begins = models.DateField()
    weeks = models.PositiveSmallIntegerField()
    days = models.JSONField()
    made_at = models.DateTimeField(auto_now_add=True)
    closed_at = models.DateTimeField(null=True, blank=True)
    result = models.JSONField(null=True, blank=True)
    """How it ended, kept when it was closed."""

    class Meta:
        ordering = ["-begins", "-pk"]


class Assignment(models.Model):
    """One exercise set because of one clip. The load is stored as it was worked out, with what it was worked out from."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="assignments")
    block = models.ForeignKey(Block, on_delete=models.SET_NULL, null=True, blank=True, related_name="assignments")
    exercise = models.CharField(max_length=60)
    lift = models.CharField(max_length=10)
    sets = models.PositiveSmallIntegerField(validators=[MinValueValidator(1), MaxValueValidator(10)])
    reps = models.PositiveSmallIntegerField(validators=[MinValueValidator(1), MaxValueValidator(20)])
    percent = models.FloatField(validators=[MinValueValidator(0), MaxValueValidator(120)])
    per_week = models.PositiveSmallIntegerField(validators=[MinValueValidator(1), MaxValueValidator(7)])
    weeks = models.PositiveSmallIntegerField(validators=[MinValueValidator(1), MaxValueValidator(12)])
    basis = models.CharField(max_length=20)
    best_kilos = models.FloatField(null=True)
    unit = models.CharField(max_length=2)
    total = models.FloatField(null=True)
    """What to load, bar and discs together, in `unit`; null when there is no best to work it out from."""
    per_side = models.JSONField(default=list)
    note = models.CharField(max_length=300, blank=True)
    in_spite_of = models.CharField(max_length=300, blank=True)
    """The coach's reason for setting it against a caution."""
    set_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["set_at"]


class Excuse(models.Model):
    """The coach's reason why a piece of work goes on despite a caution."""

    assignment = models.ForeignKey(Assignment, on_delete=models.CASCADE, related_name="excuses")
    words = models.CharField(max_length=300)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at"]


class OwnLadder(models.Model):
    """A teaching order of a coach's own."""

    coach = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="ladders")
    ladder = models.CharField(max_length=60)
    data = models.JSONField()
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["ladder"]
        constraints = [models.UniqueConstraint(fields=["coach", "ladder"], name="one_own_ladder_per_id")]


class OnLadder(models.Model):
    """An athlete whom the coach put on a ladder."""

    athlete = models.ForeignKey(Athlete, on_delete=models.CASCADE, related_name="ladders")
    ladder = models.CharField(max_length=60)
    since = models.DateField()

    class Meta:
        ordering = ["since", "pk"]
        constraints = [models.UniqueConstraint(fields=["athlete", "ladder"], name="on_a_ladder_once")]


class Slot(models.Model):
    """One exercise on one day of a block; without an assignment it is the test of the full lift."""

    block = models.ForeignKey(Block, on_delete=models.CASCADE, related_name="slots")
    assignment = models.ForeignKey(Assignment, on_delete=models.CASCADE, null=True, blank=True, related_name="slots")
    on = models.DateField()
    week = models.PositiveSmallIntegerField()
    sets = models.PositiveSmallIntegerField()
    percent = models.FloatField()
    unit = models.CharField(max_length=2)
    total = models.FloatField(null=True)
    per_side = models.JSONField(default=list)
    light = models.BooleanField(default=False)

    class Meta:
        ordering = ["on", "pk"]


class FollowUp(models.Model):
    """A clip of the work itself, held against its pass rule; `taken_up` keeps which step the coach took from it."""

    clip = models.OneToOneField(Clip, on_delete=models.CASCADE, related_name="follows")
    assignment = models.ForeignKey(Assignment, on_delete=models.CASCADE, related_name="follow_ups")
    taken_up = models.CharField(max_length=10, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at"]


class Climb(models.Model):
    """A step of a ladder that an athlete has passed, by the coach's word."""

    athlete = models.ForeignKey(Athlete, on_delete=models.CASCADE, related_name="climbs")
    ladder = models.CharField(max_length=60)
    step = models.PositiveSmallIntegerField()
    """Counted from 0."""
    passed_on = models.DateField()

    class Meta:
        ordering = ["step"]
        constraints = [models.UniqueConstraint(fields=["athlete", "ladder", "step"], name="passed_once")]
