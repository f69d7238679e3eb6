"""References that clips are matched to, and what each match found."""

from __future__ import annotations

from typing import Any

from django.db import models

from morphe.core.match.match import Match
from morphe.web.clips.models import Clip
from morphe.web.jobs.models import Job
from morphe.web.outings.models import Outing

__all__ = ["Matching", "PinnedFrame"]


class PinnedFrame(models.Model):
    """A reference as it looked when pinned: a clip's frame, a still from a file, or a light's middle."""

    outing = models.ForeignKey(Outing, on_delete=models.CASCADE, related_name="pinned")
    clip = models.ForeignKey(Clip, on_delete=models.SET_NULL, null=True, blank=True, related_name="pins")
    name = models.CharField(max_length=120)
    pictures = models.FileField(upload_to="pinned/", max_length=300)  # (n, H, W, 3), half floats
    shown = models.FileField(upload_to="pinned/", max_length=300)  # a JPEG of it
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return self.name


class Matching(models.Model):
    """A clip on its way to a reference, or there."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="matchings")
    pin = models.ForeignKey(PinnedFrame, on_delete=models.CASCADE, related_name="matchings")
    job = models.ForeignKey(Job, on_delete=models.SET_NULL, null=True, related_name="+")
    source = models.JSONField(default=dict)  # the grade beneath, as recipe JSON, where it had to be converted
    found = models.JSONField(default=dict)
    shares = models.JSONField(default=dict)  # how much of each stage was taken, 0..1
    used = models.BooleanField(default=False)

    class Meta:
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("clip", "pin"), name="one_matching_per_pair"),)

    def __str__(self) -> str:
        return f"{self.clip} to {self.pin}"

    @property
    def is_busy(self) -> bool:
        return self.job is not None and self.job.is_live

    @property
    def problem(self) -> str:
        return self.job.problem if self.job is not None and not self.found else ""

    @property
    def match(self) -> Match | None:
        """What was found, if it has been."""
        kept: dict[str, Any] = self.found
        return Match.of_record(kept) if kept else None
