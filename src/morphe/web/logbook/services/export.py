"""The logbook as CSV and JSON."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable

from morphe.web.logbook.models import LogEntry

__all__ = ["as_csv", "as_json"]


def as_csv(entries: Iterable[LogEntry]) -> str:
    """One line per entry; a cell never starts with a character that a spreadsheet would compute."""
    buffer = io.StringIO()
    writer = csv.writer(buffer)
    writer.writerow(["when", "clip", "kind", "what", "numbers"])
    for entry in entries:
        writer.writerow(
            [_plain(v) for v in (entry.created.isoformat(timespec="seconds"), entry.clip_title, entry.kind,
                                 entry.sentence)] + [json.dumps(entry.numbers)]
        )  # fmt: skip
    return buffer.getvalue()


def _plain(value: str) -> str:
    return f"'{value}" if value[:1] in "=+-@" else value


def as_json(entries: Iterable[LogEntry]) -> str:
    """All entries with their numbers."""
    return json.dumps(
        [
            {
                "when": e.created.isoformat(timespec="seconds"),
                "clip": e.clip_title,
                "kind": e.kind,
                "what": e.sentence,
                "numbers": e.numbers,
            }
            for e in entries
        ],
        indent=2,
    )
