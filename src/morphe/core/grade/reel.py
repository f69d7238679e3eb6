"""A reel: the grades of a file whose shots are graded apart, each up to where its shot ends."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade

__all__ = ["Reel"]

MOST_SHOTS = 2000
NEAR_S = 1e-3  # containers may keep times in milliseconds


@dataclass(frozen=True, slots=True, kw_only=True)
class Reel:
    """Grades one after another; `ends_s` are the seconds of the file at which each but the last ends."""

    grades: tuple[Grade, ...]
    ends_s: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        if len(self.grades) != len(self.ends_s) + 1 or len(self.grades) > MOST_SHOTS:
            raise ColourError(f"A file has 1 to {MOST_SHOTS} shots, each with a grade and an end.")
        if any(not a < b for a, b in pairwise((0.0, *self.ends_s))):
            raise ColourError("Shots end one after another.")

    @classmethod
    def of(cls, grade: Grade | Reel) -> Reel:
        """One grade for all of a file, or the reel itself."""
        return grade if isinstance(grade, Reel) else cls(grades=(grade,))

    @property
    def first(self) -> Grade:
        return self.grades[0]

    @property
    def at_work(self) -> bool:
        return any(grade.at_work for grade in self.grades)

    def number_at(self, time_s: float) -> int:
        """Which grade belongs to the frame that is shown at a moment."""
        return bisect_right(self.ends_s, time_s + NEAR_S)

    def each(self, change: Callable[[Grade], Grade]) -> Reel:
        """The same with every grade changed alike."""
        return replace(self, grades=tuple(change(grade) for grade in self.grades))
