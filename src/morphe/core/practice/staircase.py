"""An adaptive staircase: how small a difference somebody can tell, by few comparisons.

Weighted up and down (Kaernbach 1991, Perception & Psychophysics 49): after a right answer the difference
shrinks by one step, after a wrong one it grows by three, so that it settles where three of four answers are
right. Steps are ratios, since differences are told by their ratio, and halve at the first turns.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

__all__ = ["TARGET", "Staircase", "chance_right"]

TARGET = 0.75  # share of right answers at the threshold, between two choices
UP = 3.0  # so many steps up for one down
FIRST_STEP, LAST_STEP = 0.40, 0.06  # of the natural logarithm of the difference, for one step down
SHRINK = 0.6  # of the step, at every turn
LEFT_OUT = 4  # turns before the walk counts
ENOUGH = 14  # turns
MOST = 90  # answers


@dataclass(frozen=True, slots=True, kw_only=True)
class Staircase:
    """One walk: the difference that is shown next, and all that was answered.

    low, high : smallest and largest difference that can be shown
    turns     : natural logarithms of the differences at which the walk turned
    walked    : of the differences shown since it counts
    """

    level: float
    low: float
    high: float
    step: float = FIRST_STEP
    direction: int = 0
    answers: int = 0
    turns: tuple[float, ...] = field(default=())
    walked: tuple[float, ...] = field(default=())

    def after(self, is_right: bool) -> Staircase:
        """The walk after an answer."""
        direction = -1 if is_right else 1
        has_turned = self.direction not in (0, direction)
        turns = (*self.turns, math.log(self.level)) if has_turned else self.turns
        step = max(self.step * SHRINK, LAST_STEP) if has_turned else self.step
        walked = (*self.walked, math.log(self.level)) if len(turns) >= LEFT_OUT else self.walked
        moved = self.level * math.exp(-step if is_right else UP * step)
        return replace(
            self, level=min(max(moved, self.low), self.high), step=step, direction=direction,
            answers=self.answers + 1, turns=turns, walked=walked,
        )  # fmt: skip

    @property
    def is_done(self) -> bool:
        """Whether enough is known, or enough was asked."""
        return len(self.turns) >= ENOUGH or self.answers >= MOST

    @property
    def threshold(self) -> float | None:
        """The difference that is told three times of four; None while too little is known."""
        return math.exp(_mean(self.walked)) if len(self.turns) > LEFT_OUT and self.walked else None


def _mean(values: Sequence[float]) -> float:
    return sum(values) / len(values)


def chance_right(difference: float, threshold: float, *, slope: float = 2.2) -> float:
    """How often a person with that threshold is right between two choices (a Weibull function).

    At the threshold it is `TARGET`.
    """
    scale = threshold / math.log(2) ** (1 / slope)
    return 1 - 0.5 * math.exp(-((difference / scale) ** slope))
