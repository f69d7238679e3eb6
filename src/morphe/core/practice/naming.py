"""Naming faults: a picture with its scopes, a few names, one of which is right; then the proof."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from morphe.core.practice.faults import FAULTS, Fault, spoiled
from morphe.core.practice.scenes import chosen_scene, light_of, picture_of
from morphe.core.signal.arrays import Encoded

__all__ = ["Naming", "naming"]

CHOICES = 4
PLAIN, SUBTLE = 1.0, 0.3  # amounts at the easiest and the hardest level
# Faults that look alike in part are never offered beside each other: one picture has one right name.
ALIKE = (
    {"flat", "log", "veiled", "pale"}, {"converted twice", "crushed", "loud", "dark"}, {"warm", "shadows"},
    {"cool", "shadows"}, {"green", "shadows"},
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Naming:
    """One exercise: a scene, what is wrong with it and by how much, and the names that are offered."""

    seed: int
    level: float
    scene: str
    time_s: float
    fault: str
    amount: float
    choices: tuple[str, ...]

    @property
    def question(self) -> str:
        return "What is wrong with this picture? Picture and scopes both tell."

    def picture(self) -> Encoded:
        """The spoiled picture, encoded (H, W, 3)."""
        generator = np.random.default_rng((self.seed, 1))
        return spoiled(self.fault, light_of(self.scene, self.time_s), self.amount, generator)

    def truth(self) -> Encoded:
        return picture_of(self.scene, self.time_s)

    def is_right(self, answer: str) -> bool:
        """Whether a name is the fault's."""
        return answer == self.fault

    @property
    def proof(self) -> str:
        """Where it shows, in a sentence."""
        return f"{self.right.label}. {self.right.where}"

    @property
    def right(self) -> Fault:
        return FAULTS.get(self.fault)


def naming(seed: int, level: float) -> Naming:
    """The exercise of a seed; `level` 0..1 goes from plain to subtle."""
    generator = np.random.default_rng((seed, 0))
    scene, time_s = chosen_scene(generator)
    fault = str(generator.choice(list(FAULTS)))
    others = [key for key in FAULTS if key != fault and not any({key, fault} <= group for group in ALIKE)]
    offered = [fault, *(str(key) for key in generator.permutation(others)[: CHOICES - 1])]
    return Naming(
        seed=seed, level=level, scene=scene, time_s=time_s, fault=fault,
        amount=PLAIN + (SUBTLE - PLAIN) * min(max(level, 0.0), 1.0),
        choices=tuple(str(key) for key in generator.permutation(offered)),
    )  # fmt: skip
