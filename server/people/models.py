"""Who is coached, by whom, and what stands in the gym. A coach is a Django user; athletes belong to exactly one."""

from __future__ import annotations

import secrets

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from atleta.coaching import Rack

UNITS = [("kg", "kg"), ("lb", "lb")]
DEFAULT_PAIRS = {"25": 2, "20": 2, "15": 2, "10": 2, "5": 2, "2.5": 2, "1.5": 1, "1": 1, "0.5": 1}


def default_pairs() -> dict[str, int]:
    return dict(DEFAULT_PAIRS)


def usual_days() -> list[int]:
    return [0, 2, 4]


class Athlete(models.Model):
    """One lifter, seen only by their coach."""

    coach = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="athletes")
    name = models.CharField(max_length=80)
    stature_m = models.FloatField(null=True, blank=True, validators=[MinValueValidator(1.0), MaxValueValidator(2.4)])
    pain = models.PositiveSmallIntegerField(default=0, validators=[MaxValueValidator(10)])
    contact_bruise = models.BooleanField(default=False)
    notes = models.TextField(blank=True)
    training_days = models.JSONField(default=usual_days)
    """Days of the week on which work can be planned, 0 Monday to 6 Sunday."""
    most_sets = models.PositiveSmallIntegerField(null=True, blank=True, validators=[MinValueValidator(1), MaxValueValidator(200)])
    """How many planned sets a week are allowed."""
    clearance = models.CharField(max_length=120, blank=True)
    """Why a licensed professional's clearance is asked for before work is set; empty when it is not."""

    class Meta:
        ordering = ["name", "id"]
        constraints = [models.UniqueConstraint(fields=["coach", "name"], name="athlete_name_once_per_coach")]

    def __str__(self) -> str:
        return self.name


class Best(models.Model):
    """An athlete's best in one lift, always in kilograms; the date says how old it is."""

    LIFTS = [("snatch", "Snatch"), ("clean", "Clean"), ("jerk", "Jerk"), ("front_squat", "Front squat"), ("back_squat", "Back squat"),
             ("clean_and_press", "Clean and press")]  # fmt: skip

    athlete = models.ForeignKey(Athlete, on_delete=models.CASCADE, related_name="bests")
    lift = models.CharField(max_length=20, choices=LIFTS)
    kilos = models.FloatField(validators=[MinValueValidator(1), MaxValueValidator(600)])
    on = models.DateField()

    class Meta:
        ordering = ["lift"]
        constraints = [models.UniqueConstraint(fields=["athlete", "lift"], name="one_best_per_lift")]


class Looks(models.Model):
    """What a coach likes to see drawn on the bench, kept from one day and machine to the next."""

    coach = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="looks")
    drawn = models.JSONField(null=True)
    """Which of them; null where the coach never said."""
    traces = models.JSONField(default=list)
    angles = models.JSONField(null=True)
    """Which angles stand beside their joints; null where the coach never said."""


class GymRack(models.Model):
    """The bar and discs a coach's athletes load."""

    coach = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="rack")
    unit = models.CharField(max_length=2, choices=UNITS, default="kg")
    bar = models.FloatField(default=20.0, validators=[MinValueValidator(1), MaxValueValidator(60)])
    collars = models.FloatField(default=0.0, validators=[MinValueValidator(0), MaxValueValidator(20)])
    pairs = models.JSONField(default=default_pairs)

    def as_rack(self) -> Rack:
        return Rack(self.unit, self.bar, self.collars, {float(weight): int(count) for weight, count in self.pairs.items()})


class Sent(models.Model):
    """A request that carried a key, and how it was answered: sent again, it is answered so again."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    key = models.UUIDField()
    path = models.CharField(max_length=300)
    status = models.PositiveSmallIntegerField(null=True)
    """None while it is being done."""
    body = models.TextField(blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "key"], name="sent_once")]


def new_token() -> str:
    return secrets.token_urlsafe(32)


class Invitation(models.Model):
    """A link by which one more coach comes in, once, until it ends."""

    token = models.CharField(max_length=64, unique=True, default=new_token)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="invitations")
    made_at = models.DateTimeField(auto_now_add=True)
    ends_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-made_at"]


class Trail(models.Model):
    """What cannot be undone and who did it: sign-ins, removals, links that were withdrawn, passwords that were changed."""

    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="trail")
    what = models.CharField(max_length=200)

    class Meta:
        ordering = ["-at", "-pk"]
