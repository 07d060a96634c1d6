"""A clip as it came in: whose, which lift, what load, and where its file lies. Originals are never changed."""

from __future__ import annotations

import uuid
from pathlib import Path

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from atleta.events import COMPLEXES, LIFT_KINDS
from atleta.tracking import TRACKS_VERSION
from people.models import UNITS, Athlete

LIFT_CHOICES = [(lift, lift) for lift in (*LIFT_KINDS, "jerk", *COMPLEXES)]


class Clip(models.Model):
    """One uploaded clip. The file is kept under its content hash, so the same file sent twice is stored once."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    athlete = models.ForeignKey(Athlete, on_delete=models.CASCADE, related_name="clips")
    lift = models.CharField(max_length=30, choices=LIFT_CHOICES)
    load = models.FloatField(null=True, blank=True, validators=[MinValueValidator(0.5), MaxValueValidator(1300)])
    load_unit = models.CharField(max_length=2, choices=UNITS, default="kg")
    made = models.BooleanField(null=True, blank=True)
    exercise = models.CharField(max_length=60, blank=True)
    """Which exercise of the library it shows, by the coach's word; blank where nobody said."""
    filmed_on = models.DateField(null=True, blank=True)
    facing = models.CharField(max_length=5, choices=[("left", "left"), ("right", "right")], blank=True)
    """The coach's word on it; blank means found from the clip."""
    plumb_deg = models.FloatField(null=True, blank=True, validators=[MinValueValidator(-45), MaxValueValidator(45)])
    disc_diameter_m = models.FloatField(null=True, blank=True, validators=[MinValueValidator(0.1), MaxValueValidator(1.0)])
    m_per_px = models.FloatField(null=True, blank=True, validators=[MinValueValidator(1e-5), MaxValueValidator(0.1)])
    capture_rate_hz = models.FloatField(null=True, blank=True, validators=[MinValueValidator(5), MaxValueValidator(2000)])
    lifter_box = models.JSONField(null=True, blank=True)
    """Where the lifter is, by the coach's word: left, top, right, bottom in pixels."""
    event_frames = models.JSONField(default=dict, blank=True)
    """Events set by hand: `lift:name` to the frame."""
    trim = models.JSONField(null=True, blank=True)
    """First and last frame that count."""
    distrusted = models.JSONField(default=list, blank=True)
    """Stretches of frames, first and last, in which the disc's track is not believed."""
    model_name = models.CharField(max_length=80, blank=True)
    """What the coach calls it as a lift to measure others by; blank for one that is not."""
    model_agreed = models.BooleanField(default=False)
    """Whether the lifter agrees to be shown to others as such."""
    file_name = models.CharField(max_length=255)
    suffix = models.CharField(max_length=8)
    sha256 = models.CharField(max_length=64)
    size_bytes = models.BigIntegerField()
    info = models.JSONField()
    """What the file says about itself (footage.ClipInfo)."""
    by_link = models.BooleanField(default=False)
    """Whether the athlete sent it in, by their private link."""
    added_at = models.DateTimeField(auto_now_add=True)

    seen: int | None = None
    """The turn of the last change of it that whoever asks has seen; not kept. None where they do not say."""

    class Meta:
        ordering = ["-added_at"]
        indexes = [models.Index(fields=["-added_at"])]

    @property
    def original(self) -> Path:
        return settings.MEDIA_DIR / "originals" / self.sha256[:2] / f"{self.sha256}{self.suffix}"

    @property
    def derived_dir(self) -> Path:
        """Where everything made from the pixels lies; one place per file, shared by clips that are the same file."""
        return settings.MEDIA_DIR / "derived" / self.sha256[:2] / self.sha256

    @property
    def tracks_file(self) -> Path:
        """The tracks, with the lifter looked at in the coach's box if there is one: others may have sent the same file."""
        box = "".join(f"-{side}" for side in self.lifter_box or ())
        return self.derived_dir / f"tracks-{TRACKS_VERSION}{box}.json.gz"

    @property
    def bodies_dir(self) -> Path:
        """Fitted bodies, by what they rest on; each clip has its own, as each has its own corrections."""
        return settings.MEDIA_DIR / "bodies" / str(self.pk)

    @property
    def voices_dir(self) -> Path:
        """What was spoken over the clip."""
        return settings.MEDIA_DIR / "voice" / str(self.pk)

    @property
    def drawn_dir(self) -> Path:
        """Films drawn from the clip."""
        return settings.MEDIA_DIR / "drawn" / str(self.pk)

    @property
    def proxy_file(self) -> Path:
        return self.derived_dir / "proxy-1.mp4"

    @property
    def footage(self) -> Path:
        """The copy for stepping, or the original while that is being made."""
        return self.proxy_file if self.proxy_file.exists() else self.original

    @property
    def proxy_times_file(self) -> Path:
        return self.derived_dir / "proxy-1.json"

    @property
    def loudness_file(self) -> Path:
        return self.derived_dir / "loudness-1.json"

    @property
    def poster_file(self) -> Path:
        return self.derived_dir / "poster-1.jpg"
