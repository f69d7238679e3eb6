"""Regions that are being followed through their clip."""

from django.db import models

from morphe.web.clips.models import Clip
from morphe.web.jobs.models import Job

__all__ = ["Following"]


class Following(models.Model):
    """One wish to follow a region from a moment on; `lost_s` says where that ended early."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="followings")
    layer = models.CharField(max_length=40)
    start_s = models.FloatField()
    lost_s = models.FloatField(null=True, blank=True)
    job = models.OneToOneField(Job, on_delete=models.SET_NULL, null=True, related_name="+")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.clip}: {self.layer} from {self.start_s:.1f} s"
