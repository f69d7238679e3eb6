"""The record: what was done, with numbers."""

from django.db import models

from morphe.web.clips.models import Clip
from morphe.web.outings.models import Outing

__all__ = ["LogEntry"]


class LogEntry(models.Model):
    """One thing that was done to a clip."""

    class Kind(models.TextChoices):
        BROUGHT_IN = "brought-in", "Brought in"
        DECIDED = "decided", "Decided"
        ANSWERED = "answered", "Answered"
        HANDED_OVER = "handed-over", "Handed over"
        FAILED = "failed", "Failed"

    outing = models.ForeignKey(Outing, on_delete=models.CASCADE, related_name="log")
    clip = models.ForeignKey(Clip, on_delete=models.SET_NULL, null=True, blank=True, related_name="log")
    clip_title = models.CharField(max_length=200, blank=True)
    kind = models.CharField(max_length=12, choices=Kind.choices)
    sentence = models.CharField(max_length=400)
    numbers = models.JSONField(default=dict)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return self.sentence
