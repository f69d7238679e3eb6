"""Where a clip lies, and whether it is there at all; asked before anything that takes time."""

from __future__ import annotations

from pathlib import Path

from morphe.core.errors import EmptyFile, SourceMissing

__all__ = ["ENDINGS", "address_of", "check_there"]

# Of clips, in folders and on cards.
ENDINGS = (".mp4", ".mov", ".mkv", ".m4v", ".mts", ".m2ts", ".webm", ".avi")


def check_there(path: Path) -> None:
    """Refuse a path without a file, or with an empty one."""
    if not path.is_file():
        raise SourceMissing(f"There is no clip called {path.name} there; check the path.")
    if path.stat().st_size == 0:
        raise EmptyFile(f"{path.name} is empty; copy it again from the card.")


def address_of(path: Path | str) -> str:
    """A path as FFmpeg is to take it: a colon in a name makes no protocol of it."""
    return f"file:{path}"
