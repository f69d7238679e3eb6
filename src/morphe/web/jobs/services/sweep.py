"""Half files of work that was killed: swept once nobody can be writing them any more."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from django.conf import settings

__all__ = ["KEEPING", "sweep"]

HALF = (".*.part", ".*.try", "*.part.npz")  # how unfinished files are named, wherever they are written
KEEPING: list[Callable[[], set[str]]] = []  # where names are found of those that are still gone on with


def _half_files() -> Iterator[Path]:
    for pattern in HALF:
        yield from Path(settings.MEDIA_ROOT).rglob(pattern)


def sweep(before: float) -> int:
    """Delete half files that were last written before a time in seconds since 1970; how many there were."""
    kept = set().union(*(names() for names in KEEPING))
    swept = 0
    for path in _half_files():
        try:
            if path.name in kept or path.is_symlink() or path.stat().st_mtime >= before:
                continue
            path.unlink()
        except FileNotFoundError:  # finished, or taken away, at this moment
            continue
        swept += 1
    return swept
