"""Work that nobody waits for, as rows of our own: a row does not forget who works on it when that process is killed."""

from __future__ import annotations

from django.db import models

from clips.models import Clip


class Leased(models.Model):
    """A piece of work. Whoever does it holds `lease` and renews `heartbeat_at`; every write is conditional on still holding the lease, so a
    process that was given up on cannot write any more."""

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"

    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    attempts = models.PositiveSmallIntegerField(default=0)
    lease = models.CharField(max_length=32, blank=True)
    queued_at = models.DateTimeField()
    started_at = models.DateTimeField(null=True)
    heartbeat_at = models.DateTimeField(null=True)
    finished_at = models.DateTimeField(null=True)
    error_code = models.CharField(max_length=40, blank=True)
    error_message = models.TextField(blank=True)

    class Meta:
        abstract = True

    @property
    def limit_s(self) -> float:
        """How long it may take before it is taken for hung."""
        raise NotImplementedError


class AnalysisJob(Leased):
    """Where a clip's analysis stands."""

    class Stage(models.TextChoices):
        WAITING = "waiting"
        TRACKING = "tracking"
        LOOKING = "looking"
        MEASURING = "measuring"
        PREPARING = "preparing"
        READY = "ready"

    clip = models.OneToOneField(Clip, on_delete=models.CASCADE, related_name="job")
    stage = models.CharField(max_length=10, choices=Stage.choices, default=Stage.WAITING)
    progress = models.FloatField(default=0.0)
    """Share of the present stage, 0 to 1."""

    class Meta:
        indexes = [models.Index(fields=["state", "heartbeat_at"])]

    @property
    def limit_s(self) -> float:
        # A slow machine takes some seconds for each of a clip's; what takes many times that will not end.
        return 180.0 + 20.0 * float(self.clip.info.get("duration_s") or 0.0)


class Errand(Leased):
    """Any other work: what it is, and what it is done to. Its row goes once it is done."""

    kind = models.CharField(max_length=20)
    subject = models.CharField(max_length=64)
    priority = models.SmallIntegerField(default=0)
    """Above 0 it goes before a clip that waits, else after."""

    class Meta:
        constraints = [models.UniqueConstraint(fields=["kind", "subject"], name="one_errand_of_a_kind")]
        indexes = [models.Index(fields=["state", "priority", "queued_at"])]

    @property
    def limit_s(self) -> float:
        return 900.0
