"""The worker's part, done in the test's own process."""

from __future__ import annotations

from morphe.web.jobs.kinds import KINDS
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import run_job

__all__ = ["work_all", "work_off"]


def work_off(kind: str, subject: int) -> Job:
    """Do a kind of work on a subject now, whether it was asked for or not."""
    job = ask(kind, subject)
    run_job(job.pk)
    job.refresh_from_db()
    return job


def work_all(*kinds: str) -> None:
    """Do all that waits, of some kinds or of all, the most urgent first, until nothing does."""
    while waiting := [j for j in Job.objects.filter(state="waiting") if not kinds or j.kind in kinds]:
        run_job(min(waiting, key=lambda job: (-KINDS.get(job.kind).priority, job.pk)).pk)
