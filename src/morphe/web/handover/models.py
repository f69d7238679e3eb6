"""Renders on their way: each a row that any worker can pick up again."""

from __future__ import annotations

from django.db import models

from morphe.web.bench.models import GradeVersion
from morphe.web.clips.models import Clip

__all__ = ["HandOver"]


class HandOver(models.Model):
    """One delivery of a clip. A result has its file only when whole."""

    class State(models.TextChoices):
        WAITING = "waiting", "Waiting"
        RUNNING = "running", "Rendering"
        DONE = "done", "Done"
        FAILED = "failed", "Failed"
        CANCELLED = "cancelled", "Stopped"

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="hand_overs")
    version = models.ForeignKey(GradeVersion, on_delete=models.PROTECT, null=True, blank=True)
    grade = models.JSONField()
    preset = models.CharField(max_length=20)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    frames_done = models.PositiveIntegerField(default=0)
    frames_total = models.PositiveIntegerField(default=0)
    heartbeat = models.DateTimeField(auto_now_add=True)
    claim = models.CharField(max_length=32, blank=True)
    stop_wanted = models.BooleanField(default=False)
    result = models.FileField(upload_to="results/", max_length=400, blank=True)
    cube = models.FileField(upload_to="results/", max_length=400, blank=True)
    recipe = models.FileField(upload_to="results/", max_length=400, blank=True)
    problem = models.TextField(blank=True)
    seconds = models.FloatField(null=True, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.clip} as {self.preset}: {self.get_state_display()}"

    @property
    def is_active(self) -> bool:
        return self.state in (self.State.WAITING, self.State.RUNNING)

    @property
    def is_done(self) -> bool:
        return self.state == self.State.DONE

    @property
    def percent(self) -> int:
        return round(100 * self.frames_done / self.frames_total) if self.frames_total else 0
