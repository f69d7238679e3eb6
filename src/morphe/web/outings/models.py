"""Outings and the cameras taken along."""

from django.db import models
from django.utils import timezone

from morphe.core.plan.kit import Kit

__all__ = ["Camera", "Outing"]


class Shown(models.Manager):  # type: ignore[type-arg]
    """Outings that a person goes on; clips that are made for practice lie in one that is never listed."""

    def get_queryset(self):  # type: ignore[no-untyped-def]
        return super().get_queryset().filter(is_practice=False)


class Outing(models.Model):
    """One day out with cameras."""

    name = models.CharField(max_length=120)
    place = models.CharField(max_length=120, blank=True)
    date = models.DateField()
    notes = models.TextField(blank=True)
    created = models.DateTimeField(auto_now_add=True)
    working_space = models.CharField(max_length=10, default="auto")  # auto, bt709 or wide
    lamps = models.CharField(max_length=10, default="neutral")  # neutral, part or warm
    aims = models.JSONField(default=dict)  # where black, white and the middle are wanted
    school = models.CharField(max_length=20, default="usual")  # of correcting: order and method
    is_demo = models.BooleanField(default=False)  # made up, to try everything on
    is_practice = models.BooleanField(default=False)  # made up, to be mended in Practice
    opened = models.DateTimeField(default=timezone.now)  # the one opened last is the one worked on

    objects = Shown()
    everything = models.Manager()

    class Meta:
        ordering = ("-opened", "-id")
        default_manager_name = "everything"

    def __str__(self) -> str:
        return self.name

    @property
    def cameras_planned(self) -> bool:
        """Whether a shoot card has been made for this outing."""
        return self.plan.cameras.exists() if hasattr(self, "plan") else False


class Camera(models.Model):
    """A camera by the name its owner gave it; `kit` is what it can be set to, as plain values."""

    name = models.CharField(max_length=60, unique=True)
    about = models.CharField(max_length=160, blank=True)
    kit = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name

    @property
    def described(self) -> Kit | None:
        """The camera's data, or None while nobody has entered any."""
        return Kit.from_json(self.kit) if self.kit else None
