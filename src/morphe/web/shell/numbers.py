"""Numbers that come in as text."""

from __future__ import annotations

import math
from collections.abc import Iterable

__all__ = ["decimal", "number", "numbers", "row", "seconds"]

LONGEST = 18  # digits that the database holds


def number(text: str | None) -> int | None:
    """The whole number from 0 that a text says in plain digits; None if it says none."""
    plain = text or ""
    return int(plain) if plain.isascii() and plain.isdigit() and len(plain) <= LONGEST else None


def row(text: str | None) -> int:
    """The number of a row that a text says; 0, which no row has, if it says none."""
    return number(text) or 0


def numbers(texts: Iterable[str]) -> list[int]:
    """Those of some texts that are numbers."""
    return [found for text in texts if (found := number(text)) is not None]


def decimal(text: str) -> float:
    """The finite number that a text says, with a point or a comma.

    Raises
    ------
    ValueError
        If it says none.
    """
    found = float(text.replace(",", "."))
    if not math.isfinite(found):
        raise ValueError(f"{text} is not finite")
    return found


def seconds(text: str | None) -> float:
    """The seconds from 0 that a text says; 0 if it says none."""
    try:
        return max(decimal(text or "0"), 0.0)
    except ValueError:
        return 0.0
