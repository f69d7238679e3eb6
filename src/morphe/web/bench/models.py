"""Versions of a clip's grade: only ever added, so that undo and history fall out of them."""

from django.db import models

from morphe.web.clips.models import Clip

__all__ = ["GradeVersion"]


class GradeVersion(models.Model):
    """One state of a clip's grade. `parent` is the version it was made from."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="versions")
    parent = models.ForeignKey(
        "self", on_delete=models.CASCADE, null=True, blank=True, related_name="children"
    )
    grade = models.JSONField()
    change = models.CharField(max_length=200)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.clip}: {self.change}"
