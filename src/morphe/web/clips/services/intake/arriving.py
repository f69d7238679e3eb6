"""Digests of files on their way, told from their blocks as they come.

They live in the process that takes the blocks: a file that came through another one, or began before this one
did, has none here, and is hashed once it is whole.
"""

from __future__ import annotations

import hashlib
from threading import Lock
from typing import Any

__all__ = ["ARRIVING", "Arriving"]

MOST = 32  # files at once


class Arriving:
    """SHA-256 of files by a name, as far as they were told without a gap."""

    def __init__(self, most: int = MOST) -> None:
        self._most, self._lock = most, Lock()
        self._told: dict[str, tuple[int, Any]] = {}

    def add(self, name: str, at: int, block: bytes) -> None:
        """The block of a file that begins at `at`."""
        with self._lock:
            told, digest = self._told.pop(name, (0, None))
            if at == 0:
                told, digest = 0, hashlib.sha256()
            if digest is None or told != at:
                return
            digest.update(block)
            self._told[name] = (at + len(block), digest)
            while len(self._told) > self._most:
                del self._told[next(iter(self._told))]  # the one that waited longest

    def digest(self, name: str, size: int) -> str | None:
        """The digest of a file of that size, in hexadecimal, if all of it was told; it is forgotten then."""
        with self._lock:
            told, digest = self._told.get(name, (0, None))
            if digest is None or told != size:
                return None
            del self._told[name]
        return str(digest.hexdigest())


ARRIVING = Arriving()
