"""What has changed since a page was drawn: counted by the database itself, whoever writes and however."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import wraps
from typing import Any

from django.apps import apps
from django.db import connection
from django.http import HttpRequest, HttpResponse

from morphe.web.shell.models import Change

__all__ = ["PIECES", "count_changes", "marked", "marks_of", "steps", "work"]

# Pieces of pages that are followed, and what each of them shows: tables, and work of some kinds.
PIECES: dict[str, tuple[str, ...]] = {}
COUNT = """CREATE TRIGGER IF NOT EXISTS "{trigger}" AFTER {event} ON "{table}" {when} BEGIN
    INSERT INTO "{counts}" (name, number) VALUES ({name}, 1)
    ON CONFLICT (name) DO UPDATE SET number = number + 1;
END"""
JOBS = "jobs_job"  # its heart beats all the time: only what a person would see of it counts


def work(kind: str) -> str:
    """The name of news about work of a kind: that it waits, runs, has ended."""
    return f"work:{kind}"


def steps(kind: str) -> str:
    """The name of news about how far work of a kind has come."""
    return f"steps:{kind}"


def count_changes(**kwargs: Any) -> None:
    """Have the database count; after every migration, as some of them make tables anew."""
    tables = [
        model._meta.db_table
        for model in apps.get_models()
        if model.__module__.startswith("morphe.") and model is not Change
    ]
    there = set(connection.introspection.table_names())
    with connection.cursor() as cursor:
        for table in tables:
            if table not in there or Change._meta.db_table not in there:
                continue  # migrated to a state before it
            for trigger, event, when, name in _triggers(table):
                cursor.execute(
                    COUNT.format(
                        trigger=trigger, event=event, table=table, when=when, name=name,
                        counts=Change._meta.db_table,
                    )
                )  # fmt: skip


def _triggers(table: str) -> Iterable[tuple[str, str, str, str]]:
    if table != JOBS:
        return [(f"{table}_{e.lower()}_counts", e, "", f"'{table}'") for e in ("INSERT", "UPDATE", "DELETE")]
    moved = "WHEN NEW.done IS NOT OLD.done OR NEW.total IS NOT OLD.total"
    return [
        ("job_begins_counts", "INSERT", "", "'work:' || NEW.kind"),
        ("job_changes_counts", "UPDATE OF state", "WHEN NEW.state IS NOT OLD.state", "'work:' || NEW.kind"),
        ("job_goes_counts", "DELETE", "", "'work:' || OLD.kind"),
        ("job_steps_count", "UPDATE OF done, total", moved, "'steps:' || NEW.kind"),
    ]


def marks_of(pieces: Iterable[str]) -> dict[str, str]:
    """The mark of each piece: it stays the same as long as nothing has changed of what the piece shows."""
    counts = dict(Change.objects.values_list("name", "number"))
    return {
        piece: ".".join(str(counts.get(source, 0)) for source in PIECES[piece])
        for piece in pieces
        if piece in PIECES
    }


def marked(*pieces: str) -> Callable[[Callable[..., HttpResponse]], Callable[..., HttpResponse]]:
    """Give a view's pages the marks of their pieces, taken before anything that they show is read."""

    def decorate(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
        @wraps(view)
        def marking(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
            request.marks = marks_of(pieces)  # type: ignore[attr-defined]
            return view(request, *args, **kwargs)

        return marking

    return decorate
