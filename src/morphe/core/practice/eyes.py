"""Blind comparisons: two pictures that differ in one thing alone, by an amount that a staircase sets."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, Exposure, Saturation
from morphe.core.pipeline.reference import evaluate
from morphe.core.practice.scenes import Shot, chosen_shot
from morphe.core.practice.staircase import Staircase
from morphe.core.signal.arrays import Encoded

__all__ = ["SENSES", "Pair", "Sense", "pair"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Sense:
    """One thing that eyes tell apart: its question, its unit, and what can be shown of it."""

    key: str
    question: str
    unit: str
    begin: float
    low: float
    high: float
    change: Callable[[float], Grade]

    def staircase(self) -> Staircase:
        """A walk from a difference that nearly everybody sees."""
        return Staircase(level=self.begin, low=self.low, high=self.high)


SENSES = {
    sense.key: sense
    for sense in (
        Sense(key="exposure", question="Which one is brighter?", unit="stop", begin=0.5, low=0.01, high=1.5,
              change=lambda by: Grade.of(Exposure(stops=by))),
        Sense(key="warmth", question="Which one is warmer?", unit="mired", begin=25, low=0.5, high=80,
              change=lambda by: Grade.of(Balance(warmth=-by))),
        Sense(key="tint", question="Which one is greener?", unit="Duv / 1000", begin=9, low=0.2, high=30,
              change=lambda by: Grade.of(Balance(tint=-by))),
        Sense(key="saturation", question="Which one has more colour?", unit="%", begin=22, low=0.5, high=80,
              change=lambda by: Grade.of(Saturation(amount=by))),
    )
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """Two pictures of one scene; `right` is the place (0 or 1) of the one that has more of it."""

    sense: str
    shot: Shot
    difference: float
    right: int

    def pictures(self) -> tuple[Encoded, Encoded]:
        """Left and right: half the difference below and half above, so that neither is the truth."""
        sense = SENSES[self.sense]
        base = self.shot.truth
        less, more = (np.clip(evaluate(sense.change(by * self.difference / 2), base), 0, 1) for by in (-1, 1))
        return (more, less) if self.right == 0 else (less, more)


def pair(sense: str, seed: int, difference: float) -> Pair:
    """The comparison of a seed at a difference."""
    generator = np.random.default_rng((seed, 2))
    shot = chosen_shot(generator)
    return Pair(sense=sense, shot=shot, difference=difference, right=int(generator.integers(0, 2)))
