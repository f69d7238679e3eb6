"""Plans of outings: the cameras taken along, the takes slated, the lessons learnt."""

from __future__ import annotations

from django.db import models

from morphe.web.outings.models import Camera, Outing

__all__ = ["DiveLesson", "Lesson", "PairLesson", "Plan", "PlannedCamera", "Take", "TakeCheck"]


class Plan(models.Model):
    """What is known of a day before it is filmed; `answers` are those that hold for every camera."""

    outing = models.OneToOneField(Outing, on_delete=models.CASCADE, related_name="plan")
    answers = models.JSONField(default=dict)

    def __str__(self) -> str:
        return f"Plan of {self.outing}"


class PlannedCamera(models.Model):
    """One camera of a plan: its own answers, what is held fast, and the settings that came of it."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="cameras")
    camera = models.ForeignKey(Camera, on_delete=models.CASCADE, related_name="planned")
    answers = models.JSONField(default=dict)
    pins = models.JSONField(default=dict)
    ticked = models.JSONField(default=list)  # keys of cautions that have been seen to
    settings = models.JSONField(default=dict)  # as last shown, kept even if the camera's data changes

    class Meta:
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("plan", "camera"), name="one_card_per_camera"),)

    def __str__(self) -> str:
        return f"{self.camera} on {self.plan.outing}"


class Take(models.Model):
    """One take by its slate number, with the note made for it."""

    planned = models.ForeignKey(PlannedCamera, on_delete=models.CASCADE, related_name="takes")
    number = models.PositiveIntegerField()
    time = models.DateTimeField()
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("planned", "number"), name="one_take_per_number"),)

    def __str__(self) -> str:
        return f"Take {self.number} of {self.planned.camera}"


class TakeCheck(models.Model):
    """A clip or still looked at on the spot: what was found, and a picture of it; the file is let go."""

    class State(models.TextChoices):
        WAITING = "waiting"
        READY = "ready"
        FAILED = "failed"

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="checks")
    file = models.FileField(upload_to="checks/", max_length=300, blank=True)
    name = models.CharField(max_length=120)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    problem = models.CharField(max_length=300, blank=True)
    found = models.JSONField(default=dict)  # as `TakeCheck.as_json` of the core gives it
    picture = models.FileField(upload_to="checks/", max_length=300, blank=True)  # half floats, for scopes
    shown = models.FileField(upload_to="checks/", max_length=300, blank=True)  # a JPEG of it
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.name}, check of {self.take}"

    @property
    def is_ready(self) -> bool:
        return self.state == self.State.READY

    @property
    def is_waiting(self) -> bool:
        return self.state == self.State.WAITING


class Lesson(models.Model):
    """What finished clips taught about one profile of a camera."""

    camera = models.ForeignKey(Camera, on_delete=models.CASCADE, related_name="lessons")
    profile = models.CharField(max_length=40)
    stops = models.FloatField()
    clips = models.PositiveIntegerField()
    sentence = models.CharField(max_length=200)

    class Meta:
        ordering = ("camera", "profile")
        constraints = (models.UniqueConstraint(fields=("camera", "profile"), name="one_lesson_per_profile"),)

    def __str__(self) -> str:
        return self.sentence


class PairLesson(models.Model):
    """What matches taught of two cameras: how one sits against the other."""

    camera = models.ForeignKey(Camera, on_delete=models.CASCADE, related_name="pair_lessons")
    other = models.ForeignKey(Camera, on_delete=models.CASCADE, related_name="+")
    mired = models.FloatField()  # above 0 where the camera sits cooler
    stops = models.FloatField()  # above 0 where it sits darker
    clips = models.PositiveIntegerField()
    sentence = models.CharField(max_length=200)

    class Meta:
        ordering = ("camera", "other")
        constraints = (models.UniqueConstraint(fields=("camera", "other"), name="one_lesson_per_pair"),)

    def __str__(self) -> str:
        return self.sentence


class DiveLesson(models.Model):
    """What a clip filmed under water taught: another way to film, as answers to the plan's questions."""

    camera = models.ForeignKey(Camera, on_delete=models.CASCADE, related_name="dive_lessons")
    way = models.CharField(max_length=20)
    sentence = models.CharField(max_length=200)
    answers = models.JSONField(default=dict)

    class Meta:
        ordering = ("camera", "way")
        constraints = (models.UniqueConstraint(fields=("camera", "way"), name="one_lesson_per_way"),)

    def __str__(self) -> str:
        return self.sentence
