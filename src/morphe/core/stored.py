"""Arrays from files, read once more where the interpreter stumbled."""

from __future__ import annotations

from pathlib import Path
from typing import IO, Any

import numpy as np

__all__ = ["read_array", "read_arrays"]

TRIES = 3


def read_array(path: Path | str, *, mapped: bool = False) -> Any:
    """An array (.npy); `mapped` reads only what is looked at.

    While other threads are at work, CPython 3.11 now and then miscounts its recursion as it parses a header
    and raises SystemError (python/cpython#106905); the next try succeeds.
    """
    return _tried(lambda: np.load(Path(path), mmap_mode="r" if mapped else None))


def read_arrays(file: IO[bytes]) -> dict[str, Any]:
    """All arrays of an .npz by name."""

    def read() -> dict[str, Any]:
        file.seek(0)
        with np.load(file) as kept:
            return {name: kept[name] for name in kept.files}

    found: dict[str, Any] = _tried(read)
    return found


def _tried(read: Any) -> Any:
    for left in reversed(range(TRIES)):
        try:
            return read()
        except SystemError:
            if not left:
                raise
    raise AssertionError("unreachable")
