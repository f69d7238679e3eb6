"""Whether a clip is there at all; asked before anything that takes time."""

from __future__ import annotations

from pathlib import Path

from morphe.core.errors import EmptyFile, SourceMissing

__all__ = ["check_there"]


def check_there(path: Path) -> None:
    """Refuse a path without a file, or with an empty one."""
    if not path.is_file():
        raise SourceMissing(f"There is no clip called {path.name} there; check the path.")
    if path.stat().st_size == 0:
        raise EmptyFile(f"{path.name} is empty; copy it again from the card.")
