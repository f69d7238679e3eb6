"""Outings and the cameras taken along."""

from django.db import models

__all__ = ["Camera", "Outing"]


class Outing(models.Model):
    """One day out with cameras."""

    name = models.CharField(max_length=120)
    place = models.CharField(max_length=120, blank=True)
    date = models.DateField()
    notes = models.TextField(blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-date", "-id")

    def __str__(self) -> str:
        return self.name


class Camera(models.Model):
    """A camera by the name its owner gave it."""

    name = models.CharField(max_length=60, unique=True)
    about = models.CharField(max_length=160, blank=True)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name
