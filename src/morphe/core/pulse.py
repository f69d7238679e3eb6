"""A sign of life of long work: whoever watches over it sees that it goes on, frame by frame."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import TypeVar

__all__ = ["alive", "feel", "pulse"]

T = TypeVar("T")
_felt: list[Callable[[], None]] = []


def feel(watcher: Callable[[], None]) -> None:
    """Have `watcher` called at every sign of life, from whatever thread gives it; it has to be cheap."""
    _felt.append(watcher)


def pulse() -> None:
    """Give a sign of life."""
    for watcher in _felt:
        watcher()


def alive(items: Iterable[T]) -> Iterator[T]:
    """Give the items on, with a sign of life for each."""
    for item in items:
        pulse()
        yield item
