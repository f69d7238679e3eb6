"""Warm children of the worker: each does one job after another in its cage, and is watched meanwhile.

A child that dies or stands still costs its own job an attempt, and nobody else anything: the next child is
there already. All are split off from one process that has loaded everything and does nothing, so that a new
one is quick and shares its memory.
"""

from __future__ import annotations

import logging
import multiprocessing
import threading
import time
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass
from multiprocessing.sharedctypes import Synchronized
from pathlib import Path

from django.conf import settings

from morphe.web.jobs.kinds import KINDS
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import give_back

__all__ = ["Child", "do_in_child", "ready"]

logger = logging.getLogger(__name__)
LOOK_S = 0.5
WRITTEN = 2**18  # bytes between two looks: so much is written by work only, not by a heart that beats
BUSY = 0.9  # of such seconds do not count, so that one that spins on a busy machine is ended as well
LOADED = "morphe.web.jobs.child"
context = multiprocessing.get_context("forkserver")
context.set_forkserver_preload([LOADED])


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """What the watch saw of a child."""

    at: float
    pulse: float
    written: int
    held_up: Mapping[str, float]

    def still_until(self, later: Look) -> float:
        """Seconds until a later look, without those in which a busy machine did not let the child go on.

        One thread that is held up may be the one for which the others wait.
        """
        waits = [wait - self.held_up[task] for task, wait in later.held_up.items() if task in self.held_up]
        return max(later.at - self.at - BUSY * max(waits, default=0.0), 0.0)


class Child:
    """One child process, and the thread of the worker that watches it."""

    def __init__(self) -> None:
        from morphe.web.jobs.child import serve

        self._connection, other = context.Pipe()
        self._pulse: Synchronized[float] = context.Value("d", 0.0, lock=False)
        self._process = context.Process(
            target=serve,
            args=(other, self._pulse, settings.CAGE_MEMORY_BYTES, settings.CHILD_NICENESS),
            daemon=True,
        )
        self._process.start()
        other.close()

    def do(self, job_id: int, stall_s: float) -> str:
        """Have a job done; why it did not come to its end, or nothing."""
        still, before = 0.0, self._looked_at()
        try:
            self._connection.send(job_id)
            while not self._connection.poll(LOOK_S):
                now = self._looked_at()
                lives = now.pulse != before.pulse or now.written - before.written > WRITTEN
                still = 0.0 if lives else still + before.still_until(now)
                before = now
                if still > stall_s:
                    return f"stood still for {stall_s:.0f} s"
            self._connection.recv()
        except (EOFError, OSError):
            self._process.join(LOOK_S)
            return f"ended by itself ({self._process.exitcode})"
        return ""

    def _looked_at(self) -> Look:
        return Look(
            at=time.monotonic(), pulse=self._pulse.value, written=self._written(), held_up=self._held_up()
        )

    def _held_up(self) -> dict[str, float]:
        """Seconds for which each of its threads was ready to go on and no processor was free."""
        found = {}
        for task in Path(f"/proc/{self._process.pid}/task").glob("*/schedstat"):
            with suppress(OSError, IndexError):  # a thread that has just ended
                found[task.parent.name] = int(task.read_text().split()[1]) / 1e9
        return found

    def _written(self) -> int:
        """Bytes written so far; a file is put in order at its end without any frame."""
        try:
            counts = Path(f"/proc/{self._process.pid}/io").read_text()
        except OSError:
            return 0
        return int(counts.split("wchar:")[1].split()[0])

    @property
    def memory_bytes(self) -> int:
        """What it holds of the machine's memory for itself."""
        try:
            pages = Path(f"/proc/{self._process.pid}/statm").read_text().split()
        except OSError:
            return 0
        return (int(pages[1]) - int(pages[2])) * 4096

    def end(self) -> None:
        """End it at once; it has nothing of its own to keep."""
        self._connection.close()
        self._process.kill()
        self._process.join()


_mine = threading.local()  # each thread of the worker has its child


def ready() -> Child:
    """This thread's child, begun if there is none yet."""
    if getattr(_mine, "child", None) is None:
        _mine.child = Child()
    child: Child = _mine.child
    return child


def do_in_child(job_id: int) -> None:
    """Do a job in this thread's child, and have another child ready if that one is gone or has grown."""
    job = Job.objects.filter(pk=job_id, state=Job.State.WAITING).first()
    if job is None or job.kind not in KINDS:  # of one that nobody knows the watch says so
        return
    child = ready()
    problem = child.do(job_id, settings.JOB_STALL_S * KINDS.get(job.kind).patience)
    if problem:
        logger.warning("Job %s (%s %s): its process %s", job_id, job.kind, job.subject, problem)
    if problem or child.memory_bytes > settings.CHILD_KEEPS_BYTES:
        child.end()
        _mine.child = Child()
    if problem:
        _after_fall(job_id)


def _after_fall(job_id: int) -> None:
    """What a child has claimed is tried again; what it never came to waits for the watch."""
    job = Job.objects.filter(pk=job_id, state=Job.State.RUNNING).first()
    if job is not None:
        give_back(job)
