"""Devices that may use this Morphe over the network, and the links by which new ones come."""

from __future__ import annotations

from django.db import models

__all__ = ["Device", "PairLink"]


class Device(models.Model):
    """A phone, tablet or computer that was paired; what it shows is kept as a hash alone."""

    name = models.CharField(max_length=60)
    may_work = models.BooleanField(default=True)  # else it looks only
    token = models.CharField(max_length=64, unique=True)
    token_next = models.CharField(max_length=64, blank=True)  # offered, and not shown yet
    token_before = models.CharField(max_length=64, blank=True)  # still good for a moment after a change
    token_since = models.DateTimeField()
    paired = models.DateTimeField(auto_now_add=True)
    last_used = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-last_used", "-paired")

    def __str__(self) -> str:
        return self.name


class PairLink(models.Model):
    """A link that pairs one device, once, for a few minutes."""

    token = models.CharField(max_length=64, unique=True)
    may_work = models.BooleanField(default=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-made",)

    def __str__(self) -> str:
        return f"made {self.made:%H:%M}"
