"""What was done and what hurt: entered by the athlete behind a private link, or by the coach.

Whatever is entered carries a key made where it was entered, so that an entry sent twice on a bad connection is kept once.
"""

from __future__ import annotations

import uuid
from typing import Any

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from people.models import Athlete, new_token
from plans.models import Slot

SITES = (
    "head", "neck", "shoulder", "elbow", "wrist", "hand", "upper back", "low back", "chest", "hip", "pubic bone", "thigh", "knee", "shin",
    "ankle", "foot",
)  # fmt: skip
SITE_CHOICES = [(site, site) for site in SITES]


class Link(models.Model):
    """An athlete's private link to their own work: it needs no account, runs until it is withdrawn, and says when it was used."""

    athlete = models.OneToOneField(Athlete, on_delete=models.CASCADE, related_name="link")
    token = models.CharField(max_length=64, unique=True, default=new_token)
    made_at = models.DateTimeField(auto_now_add=True)
    opened_at = models.DateTimeField(null=True, blank=True)
    opened_count = models.PositiveIntegerField(default=0)


class Entered(models.Model):
    """What everything that is entered has in common."""

    key = models.UUIDField(default=uuid.uuid4)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        abstract = True


class Done(Entered):
    """One exercise as it was done on one day, set by set."""

    athlete = models.ForeignKey(Athlete, on_delete=models.CASCADE, related_name="done")
    slot = models.ForeignKey(Slot, on_delete=models.SET_NULL, null=True, blank=True, related_name="done")
    exercise = models.CharField(max_length=60)
    lift = models.CharField(max_length=30, blank=True)
    on = models.DateField()
    sets = models.JSONField(default=list)
    """Rows of `load`, `unit`, `reps` made, `missed`, `rpe` and `hook` (kept in the catch)."""
    note = models.CharField(max_length=500, blank=True)

    class Meta:
        ordering = ["-on", "-pk"]
        constraints = [models.UniqueConstraint(fields=["athlete", "key"], name="done_once")]


class Report(Entered):
    """Pain or a bruise, from when to when."""

    KINDS = [("pain", "pain"), ("bruise", "bruise")]

    athlete = models.ForeignKey(Athlete, on_delete=models.CASCADE, related_name="reports")
    kind = models.CharField(max_length=6, choices=KINDS)
    site = models.CharField(max_length=20, choices=SITE_CHOICES)
    degree = models.PositiveSmallIntegerField(validators=[MaxValueValidator(10)])
    since = models.DateField()
    until = models.DateField(null=True, blank=True)
    note = models.CharField(max_length=500, blank=True)
    by_coach = models.BooleanField(default=False)
    earlier = models.JSONField(default=list)
    """What was told of it before, oldest first."""

    class Meta:
        ordering = ["-since", "-pk"]
        constraints = [models.UniqueConstraint(fields=["athlete", "key"], name="reported_once")]

    def told(self) -> dict[str, Any]:
        """What is told of it, as it can be kept."""
        return {
            "kind": self.kind, "site": self.site, "degree": self.degree, "since": str(self.since),
            "until": str(self.until) if self.until else None, "note": self.note,
        }  # fmt: skip


class Day(Entered):
    """How an athlete was on one day."""

    athlete = models.ForeignKey(Athlete, on_delete=models.CASCADE, related_name="days")
    on = models.DateField()
    readiness = models.PositiveSmallIntegerField(null=True, blank=True, validators=[MinValueValidator(1), MaxValueValidator(5)])
    bodyweight_kg = models.FloatField(null=True, blank=True, validators=[MinValueValidator(20), MaxValueValidator(300)])

    class Meta:
        ordering = ["-on"]
        constraints = [models.UniqueConstraint(fields=["athlete", "on"], name="one_day_each")]


class Said(Entered):
    """An answer to the coach."""

    athlete = models.ForeignKey(Athlete, on_delete=models.CASCADE, related_name="said")
    words = models.CharField(max_length=1000)
    said_at = models.DateTimeField(auto_now_add=True)
    read_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-said_at"]
        constraints = [models.UniqueConstraint(fields=["athlete", "key"], name="said_once")]
