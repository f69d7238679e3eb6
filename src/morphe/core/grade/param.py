"""A step's number, declared once: limits, unit, label, nudge, neutral, and how a person says it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.moments import Moments, Number

__all__ = ["Param"]

LITTLE, MUCH = 0.12, 0.45  # shares of the way to a limit that are called a little, and much


@dataclass(frozen=True, slots=True, kw_only=True)
class Param:
    """One number of a step.

    Parameters
    ----------
    low, high : limits, both allowed
    unit : "stops", "mired", "%"; empty where the number means nothing to a person by itself
    up, down : what a number above or below neutral does, in a word or two ("cooler", "warmer")
    nudge : the smallest change that is worth making by hand
    natural : from where to where it looks natural; beyond, it is drawn as too much
    """

    low: float
    high: float
    label: str
    up: str
    down: str
    unit: str = ""
    nudge: float = 1.0
    neutral: float = 0.0
    may_move: bool = True
    natural: tuple[float, float] | None = None

    def within(self, value: float) -> float:
        """The nearest value that is allowed."""
        return float(min(max(value, self.low), self.high))

    def check(self, owner: str, name: str, value: Any) -> None:
        """Refuse what is no number within the limits, with the limits."""
        values = value.values if isinstance(value, Moments) else (value,)
        if isinstance(value, Moments) and not self.may_move:
            raise ColourError(f"{owner}: {name.replace('_', ' ')} cannot change during a clip.")
        for one in values:
            is_number = isinstance(one, (int, float, np.floating)) and not isinstance(one, bool)
            if not is_number or not self.low <= one <= self.high:
                raise ColourError(
                    f"{owner}: {name.replace('_', ' ')} must lie between {self.low:g} and {self.high:g}, "
                    f"not {one!r}."
                )

    def is_neutral(self, value: Number) -> bool:
        values = value.values if isinstance(value, Moments) else (value,)
        return all(one == self.neutral for one in values)

    @property
    def even(self) -> float:
        """A change over which the codes of a picture change nearly evenly: tables may be blended within."""
        return (self.high - self.low) / 120

    def say(self, value: Number) -> str:
        """The number as a person says it: "0.4 stops brighter", "a little less green"."""
        if isinstance(value, Moments):
            low, high = min(value.values), max(value.values)
            return f"{self.say(low)} to {self.say(high)}" if high > low else self.say(low)
        away = value - self.neutral
        if round(away, 2) == 0:
            return "unchanged"
        word = self.up if away > 0 else self.down
        if self.unit:
            return f"{abs(away):.3g} {self.unit} {word}".strip()
        share = abs(away) / ((self.high if away > 0 else -self.low) or 1)
        size = "a little " if share < LITTLE else "much " if share > MUCH else ""
        return f"{size}{word}"
