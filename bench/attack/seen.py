"""What is seen of a Morphe from outside: its rows, its processes, its answers."""

from __future__ import annotations

import contextlib
import sqlite3
import time
import urllib.error
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

__all__ = ["answer", "is_quiet", "on_their_way", "processes", "rows", "states_of_jobs", "until"]

LIVE = "SELECT count(*) FROM jobs_job WHERE state IN ('waiting', 'running')"


def rows(home: Path, question: str) -> list[tuple[object, ...]]:
    with closing(sqlite3.connect(f"file:{home / 'morphe.sqlite3'}?mode=ro", uri=True, timeout=20)) as found:
        return found.execute(question).fetchall()


def on_their_way(home: Path) -> int:
    return len(rows(home, "SELECT id FROM clips_clip WHERE state NOT IN ('ready', 'failed')"))


def is_quiet(home: Path) -> bool:
    """Whether nothing waits and nothing is done."""
    return rows(home, LIVE) == [(0,)] and on_their_way(home) == 0


def states_of_jobs(home: Path) -> dict[str, dict[str, int]]:
    """Kinds of work with how many of them ended how; why, where it was not a file that was no good."""
    found: dict[str, Counter[str]] = {}
    for kind, state, problem in rows(home, "SELECT kind, state, problem FROM jobs_job"):
        why = f": {problem}" if state == "failed" and kind not in ("read", "take-in") else ""
        found.setdefault(str(kind), Counter())[f"{state}{why}"] += 1
    return {kind: dict(states) for kind, states in found.items()}


def until(holds: Callable[[], bool], seconds: float) -> bool:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        with contextlib.suppress(OSError, sqlite3.OperationalError):
            if holds():
                return True
        time.sleep(0.3)
    return False


def answer(ask: Callable[[], object]) -> str:
    """The status of an answer; refusals are answers too."""
    try:
        ask()
    except urllib.error.HTTPError as error:
        return str(error.code)
    except (OSError, ValueError) as error:
        return type(error).__name__
    return "200"


def processes(home: Path) -> Iterator[tuple[int, str]]:
    """Its processes with their commands, apart from the one that keeps the others running."""
    mark = f"MORPHE_HOME={home}".encode()
    for entry in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError):
            command = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode()
            if mark in (entry / "environ").read_bytes().split(b"\0") and "morphe.web.serve" not in command:
                yield int(entry.name), command
