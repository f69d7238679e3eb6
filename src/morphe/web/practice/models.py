"""Exercises made ahead, what was answered, and what is known of somebody's skill and eyes."""

from __future__ import annotations

from django.db import models

from morphe.web.clips.models import Clip

__all__ = ["Attempt", "Mend", "Prepared", "Skill", "Walk", "Wish"]


class Prepared(models.Model):
    """An exercise that waits to be taken: pictures, scopes and what is right, in one file."""

    subject = models.CharField(max_length=30)
    seed = models.BigIntegerField()
    level = models.FloatField()
    content = models.FileField(upload_to="practice/", max_length=300)
    taken = models.DateTimeField(null=True)
    answered = models.BooleanField(default=False)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.subject} {self.seed}"


class Skill(models.Model):
    """What is known of one subject: how hard its exercises are by now, and when it fades."""

    subject = models.CharField(max_length=30, unique=True)
    level = models.FloatField(default=0.0)  # 0 plain, 1 subtle
    card = models.JSONField(default=dict)  # of spaced repetition
    tries = models.PositiveIntegerField(default=0)
    rights = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return self.subject


class Attempt(models.Model):
    """One answer."""

    subject = models.CharField(max_length=30)
    seed = models.BigIntegerField()
    level = models.FloatField()
    right = models.BooleanField()
    score = models.PositiveSmallIntegerField(null=True)
    answered = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.subject}: {'right' if self.right else 'wrong'}"


class Walk(models.Model):
    """Blind comparisons of one sense: the staircase as it stands, and the smallest difference told so far."""

    sense = models.CharField(max_length=20, unique=True)
    state = models.JSONField(default=dict)
    seed = models.BigIntegerField(default=0)
    threshold = models.FloatField(null=True)
    ended = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.sense


class Mend(models.Model):
    """A clip that was spoiled in known ways, to be mended on the Bench."""

    class State(models.TextChoices):
        WAITING = "waiting", "Being made"
        READY = "ready", "Ready"
        OPEN = "open", "Begun"
        ENDED = "ended", "Ended"
        FAILED = "failed", "Cannot be made"

    kind = models.CharField(max_length=30)
    seed = models.BigIntegerField()
    level = models.FloatField(default=0.0)
    clip = models.OneToOneField(Clip, on_delete=models.CASCADE, null=True, related_name="mend")
    own = models.ForeignKey(Clip, on_delete=models.SET_NULL, null=True, related_name="+")  # it is made from
    truth = models.FileField(upload_to="practice/", max_length=300, blank=True)  # half floats
    begun = models.FloatField(default=0.0)  # distance from the truth at first
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    problem = models.CharField(max_length=300, blank=True)
    score = models.PositiveSmallIntegerField(null=True)
    left = models.JSONField(default=dict)  # what remained: distance, sentence

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.kind} {self.seed}"


class Wish(models.Model):
    """Whether the person's own thresholds are the tolerance elsewhere: one row."""

    own_thresholds = models.BooleanField(default=False)

    def __str__(self) -> str:
        return "own thresholds" if self.own_thresholds else "usual tolerances"
