"""A copy of the database that is of one moment, whoever writes meanwhile."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

__all__ = ["snapshot"]

PAGES = 2000  # copied at once, so that others come in between


def snapshot(database: Path, target: Path) -> None:
    """Copy a database file, consistent in itself, to a new file."""
    with closing(sqlite3.connect(database, timeout=20)) as source, closing(sqlite3.connect(target)) as copy:
        source.backup(copy, pages=PAGES)
        copy.execute("PRAGMA journal_mode=DELETE")  # one file, nothing beside it
