"""What runs in a child of the worker: jobs, one after another, in the cage."""

from __future__ import annotations

import os
import time
from contextlib import suppress
from multiprocessing.connection import Connection
from multiprocessing.sharedctypes import Synchronized

import django
from django.apps import apps

if not apps.ready:  # loaded once, in the process from which all children are split off
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "morphe.web.settings.base")
    django.setup()

from django.db import close_old_connections

from morphe.core.pulse import feel
from morphe.web.jobs.kinds import BEFORE_THE_CAGE
from morphe.web.jobs.services.cage import enter
from morphe.web.jobs.services.run import run_job

__all__ = ["serve"]


def serve(connection: Connection, life: Synchronized[float], memory_bytes: int, niceness: int) -> None:
    """Do the jobs whose numbers come in, until the worker is gone.

    Parameters
    ----------
    life : when the work last gave a sign of life, by the machine's clock that never goes back
    """

    def felt() -> None:
        life.value = time.monotonic()

    for prepare in BEFORE_THE_CAGE:
        prepare()
    enter(memory_bytes, niceness)
    feel(felt)
    with suppress(EOFError, OSError):
        while True:
            job_id = connection.recv()
            felt()
            close_old_connections()
            run_job(job_id)
            close_old_connections()
            connection.send(job_id)
