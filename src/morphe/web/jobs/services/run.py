"""Carry out one job in the worker; safe to run twice, and to be killed in the middle."""

from __future__ import annotations

import errno
import logging
import secrets
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

from django.conf import settings
from django.db import IntegrityError, OperationalError, connection, transaction
from django.db.models import F
from django.utils import timezone

from morphe.core.errors import MorpheError, is_disk_full
from morphe.core.pulse import pulse
from morphe.web.jobs.kinds import KINDS, Kind
from morphe.web.jobs.models import Job
from morphe.web.shell.disk import FULL, has_room

__all__ = ["Lost", "Run", "Stopped", "run_job"]

logger = logging.getLogger(__name__)
TELL_S = 0.5


class Stopped(MorpheError):
    """The person stopped the work."""

    code = "stopped"


class Lost(Exception):
    """The job was given to somebody else, or is gone: what this run still does no longer counts."""


class Run:
    """One claim on a job, as its handler sees it."""

    def __init__(self, job: Job, claim: str) -> None:
        self.job, self.claim = job, claim
        self._told = 0.0

    @property
    def subject(self) -> int:
        return self.job.subject

    @property
    def _mine(self):  # type: ignore[no-untyped-def]
        return Job.objects.filter(pk=self.job.pk, claim=self.claim, state=Job.State.RUNNING)

    def progress(self, done: int, total: int) -> bool:
        """Tell how far it has come; False when the work should end. Cheap to call often.

        Raises
        ------
        OSError
            If the disk is nearly full: the work waits until there is room.
        """
        pulse()
        now = time.monotonic()
        if now - self._told < TELL_S and done < total:
            return True
        self._told = now
        if not has_room():
            raise OSError(errno.ENOSPC, "the disk is nearly full")
        kept = self._mine.update(done=done, total=total, heartbeat=timezone.now())
        return bool(kept) and self._mine.filter(stop_wanted=False).exists()

    def check(self) -> None:
        """End here if the job was stopped or is somebody else's by now."""
        pulse()
        row = self._mine.values_list("stop_wanted", flat=True).first()
        if row is None:
            raise Lost
        if row:
            raise Stopped("Stopped.")

    @contextmanager
    def keeping(self) -> Iterator[None]:
        """A transaction in which results are written, by the holder of the claim alone.

        Raises
        ------
        Lost
            If somebody else holds it by now; nothing is written then.
        """
        with transaction.atomic():
            if not self._mine.update(heartbeat=timezone.now()):
                raise Lost
            yield

    def _end(self, state: str, problem: str = "") -> bool:
        return bool(self._mine.update(state=state, problem=problem, ended=timezone.now()))

    def wait_for_room(self) -> bool:
        """Give the job back until there is room on the disk: no attempt is counted for that."""
        try:
            with transaction.atomic():
                return bool(
                    self._mine.update(
                        state=Job.State.WAITING, claim="", problem=FULL, heartbeat=timezone.now(),
                        attempts=F("attempts") - 1,
                    )
                )  # fmt: skip
        except IntegrityError:  # the same was asked for anew and waits: that one serves
            return self._end(Job.State.STOPPED)

    @contextmanager
    def _beating(self) -> Iterator[None]:
        done = threading.Event()

        def beat() -> None:
            while not done.wait(settings.JOB_BEAT_S):
                self._mine.update(heartbeat=timezone.now())
            connection.close()

        thread = threading.Thread(target=beat, daemon=True)
        thread.start()
        try:
            yield
        finally:
            done.set()
            thread.join()


def run_job(job_id: int) -> None:
    """Claim a waiting job, do its work, and say how it ended."""
    if not has_room():
        Job.objects.filter(pk=job_id, state=Job.State.WAITING).update(problem=FULL, heartbeat=timezone.now())
        return
    claim = secrets.token_hex(8)
    claimed = Job.objects.filter(pk=job_id, state=Job.State.WAITING).update(
        state=Job.State.RUNNING,
        claim=claim,
        heartbeat=timezone.now(),
        attempts=F("attempts") + 1,
        done=0,
        problem="",
    )
    if not claimed:
        return
    run = Run(Job.objects.get(pk=job_id), claim)
    kind = KINDS.get(run.job.kind)
    try:
        with run._beating():
            kind.work(run)
        run._end(Job.State.DONE)
    except Lost:
        logger.info("Job %s is somebody else's by now, or gone", job_id)
    except Stopped:
        run._end(Job.State.STOPPED)
    except (MorpheError, OSError, MemoryError, OperationalError) as error:
        if is_disk_full(error) and run.wait_for_room():
            return
        _fail(run, kind, _sentence(kind, error))
        if not isinstance(error, MorpheError):
            logger.warning("Job %s (%s %s): %s", job_id, kind.key, run.subject, error)
    except Exception:
        logger.exception("Job %s (%s %s) failed", job_id, kind.key, run.subject)
        _fail(run, kind, kind.sentence)


def _sentence(kind: Kind, error: Exception) -> str:
    if isinstance(error, MorpheError):
        return str(error)
    if isinstance(error, MemoryError):
        return kind.because("it takes more memory than there is for it.")
    return kind.sentence


def _fail(run: Run, kind: Kind, sentence: str) -> None:
    if run._end(Job.State.FAILED, sentence):
        kind.failed(run.subject, sentence)
