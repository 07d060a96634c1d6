"""Work that was set: which exercise, how much, what goes on the bar."""

from __future__ import annotations

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from clips.models import Clip


class Assignment(models.Model):
    """One exercise set because of one clip. The load is stored as it was worked out, with what it was worked out from."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="assignments")
    exercise = models.CharField(max_length=60)
    lift = models.CharField(max_length=10)
    sets = models.PositiveSmallIntegerField(validators=[MinValueValidator(1), MaxValueValidator(10)])
    reps = models.PositiveSmallIntegerField(validators=[MinValueValidator(1), MaxValueValidator(10)])
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
    set_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["set_at"]
