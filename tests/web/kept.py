"""What a fixture once made (rows and files), brought back instead of made again."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

from django.db import connection, transaction

__all__ = ["once"]

Rows = dict[str, list[tuple]]
_KEPT: dict[object, tuple[Rows, Path]] = {}


def _rows() -> Rows:
    with connection.cursor() as cursor:
        tables = connection.introspection.table_names(cursor)
        return {
            table: cursor.execute(f'select * from "{table}"').fetchall()
            for table in tables
            if table != "django_migrations"
        }


def _write(rows: Rows) -> None:
    """Put these rows in place of those there are."""
    with transaction.atomic(), connection.cursor() as cursor:
        for table, kept in rows.items():
            cursor.execute(f'delete from "{table}"')
            if kept:
                places = ", ".join(["%s"] * len(kept[0]))
                cursor.executemany(f'insert into "{table}" values ({places})', kept)


def once(key: object, media: Path, make: Callable[[], None], folder: Path) -> None:
    """Run `make`, or bring back the rows and files it made when it ran on the same key and the same rows.

    `folder` is where its files are kept, outside of what a test takes away.
    """
    start = {table: len(rows) for table, rows in _rows().items() if rows}
    whole = (key, tuple(sorted(start.items())))
    if whole in _KEPT:
        rows, files = _KEPT[whole]
        _write(rows)
        shutil.copytree(files, media, dirs_exist_ok=True)
        return
    make()
    files = folder / str(len(_KEPT))
    shutil.copytree(media, files)
    _KEPT[whole] = _rows(), files
