"""The work of analysing a clip, as a row of our own: queues forget a killed worker's task, this row does not."""

from __future__ import annotations

from django.db import models

from clips.models import Clip


class AnalysisJob(models.Model):
    """Where a clip's analysis stands.

    Whoever works on it holds `lease` and renews `heartbeat_at`; every write is conditional on still holding the lease, so a worker
    that was given up on cannot write any more.
    """

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"

    class Stage(models.TextChoices):
        WAITING = "waiting"
        TRACKING = "tracking"
        LOOKING = "looking"
        MEASURING = "measuring"
        PREPARING = "preparing"
        READY = "ready"

    clip = models.OneToOneField(Clip, on_delete=models.CASCADE, related_name="job")
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    stage = models.CharField(max_length=10, choices=Stage.choices, default=Stage.WAITING)
    progress = models.FloatField(default=0.0)
    """Share of the present stage, 0 to 1."""
    attempts = models.PositiveSmallIntegerField(default=0)
    lease = models.CharField(max_length=32, blank=True)
    queued_at = models.DateTimeField()
    heartbeat_at = models.DateTimeField(null=True)
    finished_at = models.DateTimeField(null=True)
    error_code = models.CharField(max_length=40, blank=True)
    error_message = models.TextField(blank=True)

    class Meta:
        indexes = [models.Index(fields=["state", "heartbeat_at"])]
