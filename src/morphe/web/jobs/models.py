"""Long work of every kind: one row that any worker can pick up again."""

from __future__ import annotations

from django.db import models
from django.utils import timezone

__all__ = ["Job"]


class JobQuerySet(models.QuerySet["Job"]):
    def live(self) -> JobQuerySet:
        """Jobs that wait or run."""
        return self.filter(state__in=(Job.State.WAITING, Job.State.RUNNING))

    def of(self, kind: str, *subjects: int) -> JobQuerySet:
        return self.filter(kind=kind, subject__in=subjects)


class Job(models.Model):
    """One piece of long work on a subject (the number of a row that its kind knows).

    Whoever claims it has its token and keeps its heart beating; only with that token can it be finished.
    """

    class State(models.TextChoices):
        WAITING = "waiting", "Waiting"
        RUNNING = "running", "Running"
        DONE = "done", "Done"
        FAILED = "failed", "Failed"
        STOPPED = "stopped", "Stopped"

    kind = models.CharField(max_length=20)
    subject = models.BigIntegerField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    claim = models.CharField(max_length=32, blank=True)
    heartbeat = models.DateTimeField(default=timezone.now)
    attempts = models.PositiveSmallIntegerField(default=0)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    stop_wanted = models.BooleanField(default=False)
    problem = models.TextField(blank=True)
    created = models.DateTimeField(default=timezone.now)
    ended = models.DateTimeField(null=True, blank=True)

    objects = JobQuerySet.as_manager()

    class Meta:
        ordering = ("-id",)
        indexes = (
            models.Index(fields=("kind", "subject"), name="jobs_job_kind_subject"),
            models.Index(fields=("state", "heartbeat"), name="jobs_job_state_heart"),
        )
        constraints = (
            models.UniqueConstraint(
                fields=("kind", "subject"),
                condition=models.Q(state="waiting"),
                name="one_waiting_per_subject",
            ),
        )

    def __str__(self) -> str:
        return f"{self.kind} {self.subject}: {self.get_state_display()}"

    @property
    def is_live(self) -> bool:
        return self.state in (self.State.WAITING, self.State.RUNNING)

    @property
    def percent(self) -> int:
        return min(100, round(100 * self.done / self.total)) if self.total else 0
