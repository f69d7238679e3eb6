"""Ask for long work, stop it, and give back what a dead worker left."""

from __future__ import annotations

import logging
from datetime import timedelta

from django.conf import settings
from django.db import IntegrityError, transaction
from django.db.models import Q
from django.dispatch import Signal
from django.utils import timezone
from huey.contrib.djhuey import HUEY

from morphe.web.jobs.kinds import KINDS
from morphe.web.jobs.models import Job
from morphe.web.jobs.tasks import run_job_task
from morphe.web.shell.disk import has_room

__all__ = ["ask", "give_back", "rescue", "stop", "watched"]

logger = logging.getLogger(__name__)
watched = Signal()  # sent after every round of the watch
UNKNOWN = "This Morphe does not know this kind of work; ask for it again."
MOST_ATTEMPTS = 3  # a job that takes its worker down with it is not tried for ever


def ask(kind: str, subject: int, *, total: int = 0) -> Job:
    """Have a kind of work done on a subject; if it waits already, that one serves."""
    KINDS.get(kind)
    waiting = Job.objects.of(kind, subject).filter(state=Job.State.WAITING)
    found = waiting.first()
    if found is not None:
        return found
    try:
        with transaction.atomic():
            job = Job.objects.create(kind=kind, subject=subject, total=total)
    except IntegrityError:  # somebody asked for the same at this moment
        return waiting.get()
    transaction.on_commit(lambda: _enqueue(job))
    return job


def _enqueue(job: Job) -> None:
    run_job_task(job.pk, priority=KINDS.get(job.kind).priority)


def stop(job: Job) -> None:
    """Stop a job; one that still waits never starts."""
    waiting = Job.objects.filter(pk=job.pk, state=Job.State.WAITING)
    if not waiting.update(state=Job.State.STOPPED, ended=timezone.now()):
        Job.objects.filter(pk=job.pk).update(stop_wanted=True)


def rescue() -> int:
    """Give work whose worker died back to the queue, and ask for what is owed; the number of jobs taken up.

    The queue forgets a task whose worker was killed outright, so the rows are the truth: a heart that stopped
    means nobody works on it. Jobs are claimed before they are done, so a second task does no harm. While the
    disk is full nothing is taken up.
    """
    if not has_room():
        watched.send(Job)
        return 0
    queued = {task.args[0] for task in HUEY.pending() if task.name == run_job_task.task_class.__name__}
    old = timezone.now() - timedelta(seconds=settings.JOB_STALE_S)
    left = Job.objects.live().filter(heartbeat__lt=old).exclude(pk__in=queued)
    taken = sum(give_back(job) for job in left)
    taken += _ask_for_what_is_owed()
    watched.send(Job)
    if taken:
        logger.info("Took up %s jobs", taken)
    return taken


def give_back(job: Job) -> bool:
    """Have a job done again that was left by whoever did it; after three attempts it has failed."""
    held = Job.objects.filter(pk=job.pk, claim=job.claim, state=job.state)
    if job.kind not in KINDS:  # of another version of Morphe, or an app that is gone
        held.update(state=Job.State.FAILED, problem=UNKNOWN, ended=timezone.now())
        return False
    kind = KINDS.get(job.kind)
    if job.attempts >= MOST_ATTEMPTS:
        sentence = (
            f"{kind.sentence.split(';')[0].rstrip('.')}: it was tried {job.attempts} times and never ended."
        )
        if held.update(state=Job.State.FAILED, problem=sentence, ended=timezone.now()):
            kind.failed(job.subject, sentence)
        return False
    try:
        with transaction.atomic():
            given = held.update(state=Job.State.WAITING, claim="", heartbeat=timezone.now())
    except IntegrityError:  # the same was asked for anew and waits: that one serves
        held.update(state=Job.State.STOPPED, ended=timezone.now())
        return False
    if given:
        _enqueue(job)
    return bool(given)


def _ask_for_what_is_owed() -> int:
    asked = 0
    for kind in KINDS.values():
        subjects = list(kind.owed())
        # What could not be done is not owed for ever.
        counts = Q(state__in=(Job.State.WAITING, Job.State.RUNNING, Job.State.FAILED))
        tried = set(Job.objects.of(kind.key, *subjects).filter(counts).values_list("subject", flat=True))
        for subject in subjects:
            if subject not in tried:
                ask(kind.key, subject)
                asked += 1
    return asked
