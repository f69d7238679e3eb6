"""Backups that were asked for: each a file with everything that a person has decided and brought in."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models

__all__ = ["Backup"]


class Backup(models.Model):
    """One backup; it can be taken away once it is whole."""

    name = models.CharField(max_length=80)
    with_media = models.BooleanField(default=False)
    size_bytes = models.PositiveBigIntegerField(default=0)  # 0 until it is whole
    problem = models.TextField(blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return self.name

    @property
    def path(self) -> Path:
        return Path(settings.BACKUPS) / self.name

    @property
    def is_whole(self) -> bool:
        return bool(self.size_bytes) and self.path.exists()
