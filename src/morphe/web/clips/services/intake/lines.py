"""The line over which an upload comes: one each.

A phone that slept or changed its network leaves its old line open behind it. Whoever asks after the upload
anew ends that one: else it would hold a thread until it stalls, and what is left in it would come between.
"""

from __future__ import annotations

import socket
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from threading import Event, Lock

__all__ = ["LINES", "Lines"]

LEAVING_S = 5.0  # what a line that ended has brought is written within


class Lines:
    """Lines of this process by what comes over them."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._held: dict[str, tuple[socket.socket, Event]] = {}

    def end(self, name: str) -> None:
        """End the line that is open, and wait until nothing comes from it any more."""
        with self._lock:
            found = self._held.get(name)
        if found is None:
            return
        line, is_left = found
        with suppress(OSError):
            # the plain socket's: TLS would be taken off the line, and what is left be read as it is
            socket.socket.shutdown(line, socket.SHUT_RDWR)
        is_left.wait(LEAVING_S)

    @contextmanager
    def held(self, name: str, line: socket.socket | None) -> Iterator[None]:
        """While something comes over a line; without one there is nothing to end."""
        here = (line, Event()) if line is not None else None
        if here is not None:
            with self._lock:
                self._held[name] = here
        try:
            yield
        finally:
            if here is not None:
                with self._lock:
                    if self._held.get(name) is here:
                        del self._held[name]
                here[1].set()


LINES = Lines()
