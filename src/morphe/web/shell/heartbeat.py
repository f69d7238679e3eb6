"""A heartbeat beside long work, so that a worker that died can be told from one that is busy."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from django.conf import settings
from django.db import connection

__all__ = ["beating"]


@contextmanager
def beating(beat: Callable[[], object]) -> Iterator[None]:
    """Call `beat` every few seconds in a thread of its own until the block ends."""
    done = threading.Event()

    def run() -> None:
        while not done.wait(settings.JOB_BEAT_S):
            beat()
        connection.close()

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    try:
        yield
    finally:
        done.set()
        thread.join()
