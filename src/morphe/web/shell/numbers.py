"""Whole numbers that come in as text."""

from __future__ import annotations

from collections.abc import Iterable

__all__ = ["number", "numbers"]

LONGEST = 18  # digits that the database holds


def number(text: str | None) -> int | None:
    """The whole number from 0 that a text says in plain digits; None if it says none."""
    plain = text or ""
    return int(plain) if plain.isascii() and plain.isdigit() and len(plain) <= LONGEST else None


def numbers(texts: Iterable[str]) -> list[int]:
    """Those of some texts that are numbers."""
    return [found for text in texts if (found := number(text)) is not None]
