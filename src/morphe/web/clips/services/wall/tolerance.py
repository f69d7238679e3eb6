"""From which difference clips stand apart: as nobody sees less, or as this person sees it."""

from __future__ import annotations

from collections.abc import Callable

from morphe.core.measure.stand import TOGETHER_MIRED, TOGETHER_STOPS

__all__ = ["OWN_TOLERANCES", "tolerance"]

OWN_TOLERANCES: list[Callable[[], tuple[float, float] | None]] = []  # filed by who knows the person's eyes


def tolerance() -> tuple[float, float]:
    """Stops and mired."""
    for own in OWN_TOLERANCES:
        if (found := own()) is not None:
            return found
    return TOGETHER_STOPS, TOGETHER_MIRED
