"""Clips, what was read in them, and their judging frames."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.db import models
from django.utils import timezone

from morphe.web.outings.models import Camera, Outing

__all__ = ["Clip", "JudgingFrame"]


class ClipQuerySet(models.QuerySet["Clip"]):
    def for_listing(self) -> ClipQuerySet:
        """Clips with all that a card shows, in a constant number of queries."""
        return self.select_related("camera", "outing", "version", "take").prefetch_related(
            "frames", "hand_overs"
        )

    def ready(self) -> ClipQuerySet:
        return self.filter(state=Clip.State.READY)

    def usable(self) -> ClipQuerySet:
        return self.exclude(state=Clip.State.FAILED)

    def decided(self) -> ClipQuerySet:
        """Ready clips that wait for nothing; see `Clip.is_decided`."""
        return self.ready().filter(models.Q(version__parent__isnull=False) | models.Q(proposals=0))

    def undecided(self) -> ClipQuerySet:
        return self.ready().filter(version__parent=None, proposals__gt=0)

    def matching(self, words: str) -> ClipQuerySet:
        """Clips whose title or camera holds the words."""
        return self.filter(models.Q(title__icontains=words) | models.Q(camera__name__icontains=words))


class Clip(models.Model):
    """One clip: its untouched file, its facts, readings and advice as values."""

    class State(models.TextChoices):
        WAITING = "waiting", "Waiting"
        READING = "reading", "Being read"
        READY = "ready", "Ready"
        FAILED = "failed", "Cannot be used"

    outing = models.ForeignKey(Outing, on_delete=models.CASCADE, related_name="clips")
    camera = models.ForeignKey(Camera, on_delete=models.SET_NULL, null=True, blank=True, related_name="clips")
    title = models.CharField(max_length=200)
    file = models.FileField(upload_to="clips/", max_length=400)
    sha256 = models.CharField(max_length=64, db_index=True)
    size_bytes = models.BigIntegerField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    problem = models.TextField(blank=True)
    heartbeat = models.DateTimeField(default=timezone.now)
    profile_choice = models.CharField(max_length=40, default="auto")
    info = models.JSONField(default=dict)
    profile = models.JSONField(default=dict)
    readings = models.JSONField(default=dict)
    rungs = models.JSONField(default=list)
    proposal = models.JSONField(default=dict)  # the grade of "accept all", as recipe JSON
    proposals = models.PositiveSmallIntegerField(default=0)  # how many rungs propose something
    lost = models.JSONField(default=list)
    outside_nominal = models.BooleanField(default=False)
    filmed_at = models.DateTimeField(null=True, blank=True)  # by the file's tag, else its time on the card
    tags = models.JSONField(default=dict)  # the file's own text tags
    planned = models.ForeignKey(
        "plan.PlannedCamera", on_delete=models.SET_NULL, null=True, blank=True, related_name="clips"
    )
    take = models.ForeignKey(
        "plan.Take", on_delete=models.SET_NULL, null=True, blank=True, related_name="clips"
    )
    checks = models.JSONField(default=list)  # the plan against what was filmed
    version = models.ForeignKey(
        "bench.GradeVersion", on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )
    created = models.DateTimeField(auto_now_add=True)

    objects = ClipQuerySet.as_manager()

    class Meta:
        ordering = ("id",)
        constraints = (
            models.CheckConstraint(condition=models.Q(size_bytes__gte=0), name="clip_size_not_negative"),
        )

    def __str__(self) -> str:
        return self.title

    @property
    def path(self) -> Path:
        return Path(self.file.path)

    @property
    def is_ready(self) -> bool:
        return self.state == self.State.READY

    @property
    def is_decided(self) -> bool:
        """Whether the person has set something, or nothing was proposed."""
        return self.is_corrected or not self.proposals

    @property
    def is_corrected(self) -> bool:
        return self.version is not None and self.version.parent_id is not None

    @property
    def is_busy(self) -> bool:
        return self.state in (self.State.WAITING, self.State.READING)

    @property
    def poster(self) -> JudgingFrame | None:
        frames: list[Any] = list(self.frames.all())
        return frames[len(frames) // 2] if frames else None


class JudgingFrame(models.Model):
    """One moment by which the clip is judged; `picture` holds encoded R'G'B' at measuring size."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="frames")
    number = models.PositiveSmallIntegerField()
    role = models.CharField(max_length=20)
    time_s = models.FloatField()
    picture = models.FileField(upload_to="frames/", max_length=300)
    thumbnail = models.FileField(upload_to="thumbnails/", max_length=300)

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("clip", "number"), name="one_frame_per_number"),)

    def __str__(self) -> str:
        return f"{self.clip} at {self.time_s:.1f} s"
