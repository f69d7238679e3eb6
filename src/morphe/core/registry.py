"""The one registry: stable slugs to things, in the order they were registered."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Generic, TypeVar

from morphe.core.errors import UnknownName

__all__ = ["Registry"]

T = TypeVar("T")


class Registry(Generic[T]):
    """Map slugs to entries; a second entry of the same name is refused."""

    def __init__(self, noun: str) -> None:
        self.noun = noun
        self._entries: dict[str, T] = {}

    def register(self, key: str) -> Callable[[T], T]:
        """Return a decorator (or plain call) that files its argument under `key`."""

        def file(entry: T) -> T:
            if key in self._entries:
                raise ValueError(f"{self.noun} {key!r} is registered already; choose another key.")
            self._entries[key] = entry
            return entry

        return file

    def get(self, key: str) -> T:
        """Look up `key`; an unknown one is answered with the list of known ones."""
        try:
            return self._entries[key]
        except KeyError as error:
            known = ", ".join(self._entries)
            raise UnknownName(f"There is no {self.noun} {key!r}; known are: {known}.") from error

    def __contains__(self, key: str) -> bool:
        return key in self._entries

    def __iter__(self) -> Iterator[str]:
        return iter(self._entries)

    def values(self) -> list[T]:
        return list(self._entries.values())
