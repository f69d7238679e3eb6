"""Renders on their way: each a row that any worker can pick up again."""

from __future__ import annotations

from django.db import models

from morphe.core.handover.measured import said_of
from morphe.core.handover.presets import PRESETS
from morphe.core.handover.sound import Heard
from morphe.web.clips.models import Clip, GradeVersion
from morphe.web.jobs.models import Job

__all__ = ["HandOver"]


class HandOverQuerySet(models.QuerySet["HandOver"]):
    def live(self) -> HandOverQuerySet:
        return self.filter(job__state__in=(Job.State.WAITING, Job.State.RUNNING))

    def done(self) -> HandOverQuerySet:
        """Those with a whole file."""
        return self.exclude(result="")


class HandOver(models.Model):
    """One delivery of a clip. A result has its file only when whole."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="hand_overs")
    version = models.ForeignKey(GradeVersion, on_delete=models.PROTECT, null=True, blank=True)
    grade = models.JSONField()
    preset = models.CharField(max_length=20)
    megabytes = models.FloatField(default=0)  # a size that is kept; 0 leaves that to the preset
    parts = models.JSONField(default=list)  # of the clip, as they were when it was ordered
    sound = models.CharField(max_length=12, default=Heard.KEPT)
    job = models.OneToOneField(Job, on_delete=models.SET_NULL, null=True, related_name="hand_over")
    result = models.FileField(upload_to="results/", max_length=400, blank=True)
    cube = models.FileField(upload_to="results/", max_length=400, blank=True)
    recipe = models.FileField(upload_to="results/", max_length=400, blank=True)
    seconds = models.FloatField(null=True, blank=True)
    measured = models.JSONField(default=dict)  # banding, blocks and noise in the file, before and after
    created = models.DateTimeField(auto_now_add=True)

    objects = HandOverQuerySet.as_manager()

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.clip} as {self.preset}"

    @property
    def is_active(self) -> bool:
        return self.job is not None and self.job.is_live

    @property
    def is_done(self) -> bool:
        return bool(self.result)

    @property
    def label(self) -> str:
        """What it is delivered as."""
        return PRESETS.get(self.preset).label if self.preset in PRESETS else self.preset

    @property
    def advice(self) -> str:
        """What to try if a device refuses the file."""
        return PRESETS.get(self.preset).advice if self.preset in PRESETS else ""

    @property
    def strain(self) -> str:
        """What was measured in the file, in a sentence."""
        return said_of(self.measured)

    @property
    def state(self) -> str:
        """The state of its work, in the words that a page styles by."""
        return self.job.state if self.job is not None else Job.State.FAILED

    @property
    def state_word(self) -> str:
        return {"running": "Rendering"}.get(self.state, Job.State(self.state).label)

    @property
    def percent(self) -> int:
        return self.job.percent if self.job is not None else 0

    @property
    def problem(self) -> str:
        return self.job.problem if self.job is not None else ""
