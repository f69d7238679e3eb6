"""Places at the host's own processors: so many pieces are made here at once, whatever waits for others."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from pathlib import Path

__all__ = ["Place", "no_place", "one_of"]

Place = Callable[[], AbstractContextManager[bool]]  # gives whether there was one


@contextmanager
def no_place() -> Iterator[bool]:
    """A host that leaves everything to others."""
    yield False


def one_of(folder: Path, count: int) -> Place:
    """Places shared by all processes of this machine; one that dies leaves its own by that."""

    @contextmanager
    def take() -> Iterator[bool]:
        folder.mkdir(parents=True, exist_ok=True)
        for number in range(count):
            held = os.open(folder / str(number), os.O_CREAT | os.O_RDWR, 0o600)
            try:
                fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                os.close(held)
                continue
            try:
                yield True
            finally:
                os.close(held)
            return
        yield False

    return take
