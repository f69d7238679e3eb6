"""Layers: steps that belong together, and how far they reach."""

from __future__ import annotations

import re
from collections.abc import Collection
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import count

from morphe.core.errors import ColourError
from morphe.core.grade.region import Region
from morphe.core.grade.step import FrameStep, Step
from morphe.core.grade.steps import SCHOOLS, STEPS

__all__ = ["CLIP", "Layer", "Scope", "new_region_id"]

ID = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")
CLIP = "clip"  # id of the layer that every clip has
MOST_NAME = 60


class Scope(StrEnum):
    """How far a layer reaches, in the order in which layers stack."""

    OUTING = "outing"
    LIGHT = "light"
    CLIP = "clip"
    STYLE = "style"
    FINISH = "finish"

    @property
    def label(self) -> str:
        """The scope as a heading says it."""
        return {"outing": "Whole outing", "light": "This light", "clip": "This clip", "style": "Style"}.get(
            self.value, "Finish"
        )

    @property
    def is_shared(self) -> bool:
        """Whether one layer serves several clips."""
        return self in (Scope.OUTING, Scope.LIGHT)


@dataclass(frozen=True, slots=True, kw_only=True)
class Layer:
    """Steps under one id; `strength` 0..1 blends them with what came in, a `region` limits where.

    What lies in a region that is `left_out` counts neither for proposals nor for gauges.
    """

    id: str
    scope: Scope = Scope.CLIP
    name: str = ""
    steps: tuple[Step, ...] = ()
    strength: float = 1.0
    on: bool = True
    region: Region | None = None
    left_out: bool = False

    def __post_init__(self) -> None:
        if not ID.fullmatch(self.id) or self.id == "source":
            raise ColourError("A layer's id has 1 to 40 small letters, digits and hyphens.")
        if not 0 <= self.strength <= 1:
            raise ColourError(f"The strength of layer {self.name or self.id!r} must lie between 0 and 1.")
        if len(self.name) > MOST_NAME:
            raise ColourError(f"A layer's name has at most {MOST_NAME} letters.")
        keys = [step.key for step in self.steps]
        if len(set(keys)) < len(keys):
            raise ColourError(f"Layer {self.name or self.id!r} holds a step twice.")
        if self.left_out and self.region is None:
            raise ColourError("Only a part of the picture can be left out.")
        if self.region and any(isinstance(step, FrameStep) for step in self.steps):
            raise ColourError("What lens and film add works on the whole frame; put it on another layer.")

    @property
    def label(self) -> str:
        """What a person calls it."""
        return self.name or ("Region" if self.region else self.scope.label)

    @property
    def at_work(self) -> bool:
        return self.on and self.strength > 0 and any(step.at_work for step in self.steps)

    @property
    def moves(self) -> bool:
        """Whether it does something else at every moment."""
        return self.at_work and (
            any(step.moves for step in self.steps) or bool(self.region and self.region.moves)
        )

    def at(self, time_s: float) -> Layer:
        """The same, held at a moment."""
        if not self.moves:
            return self
        steps = tuple(step.at(time_s) for step in self.steps)
        return replace(self, steps=steps, region=self.region.at(time_s) if self.region else None)

    def step(self, key: str) -> Step:
        """The step of that key, or a neutral one if the layer has none."""
        for step in self.steps:
            if step.key == key:
                return step
        return STEPS.get(key)()

    def with_step(self, step: Step, order: tuple[str, ...] = SCHOOLS["usual"]) -> Layer:
        """A copy in which `step` replaces the one of the same key, or is added in its place of the order."""
        if any(s.key == step.key for s in self.steps):
            return replace(self, steps=tuple(step if s.key == step.key else s for s in self.steps))
        added = sorted((*self.steps, step), key=lambda s: order.index(s.key))
        return replace(self, steps=tuple(added))

    def without_step(self, key: str) -> Layer:
        """A copy that lacks the step of that key."""
        return replace(self, steps=tuple(step for step in self.steps if step.key != key))

    def in_order(self, order: tuple[str, ...]) -> Layer:
        """A copy whose steps follow another order."""
        return replace(self, steps=tuple(sorted(self.steps, key=lambda s: order.index(s.key))))


def new_region_id(taken: Collection[str]) -> str:
    """An id for the layer of a region that none of a grade's layers has."""
    return next(free for n in count(1) if (free := f"region-{n}") not in taken)
