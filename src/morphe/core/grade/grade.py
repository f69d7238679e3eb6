"""The Grade: an immutable value that says everything about a correction, and its evaluation."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.convert import narrowed
from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.steps import STEPS, Light, Step
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.profiles import PROFILES

__all__ = ["CLIP_LAYER", "Grade", "Layer", "evaluate"]

CLIP_LAYER = "clip"


@dataclass(frozen=True, slots=True, kw_only=True)
class Layer:
    """Steps that belong together; `strength` 0..1 blends the layer with what came in."""

    name: str
    steps: tuple[Step, ...] = ()
    strength: float = 1.0
    on: bool = True

    def __post_init__(self) -> None:
        if not 0 <= self.strength <= 1:
            raise ColourError(f"The strength of layer {self.name!r} must lie between 0 and 1.")

    @property
    def at_work(self) -> bool:
        return self.on and self.strength > 0 and any(s.at_work for s in self.steps)


@dataclass(frozen=True, slots=True, kw_only=True)
class Grade:
    """An ordered tuple of layers."""

    layers: tuple[Layer, ...] = (Layer(name=CLIP_LAYER),)

    @classmethod
    def of(cls, *steps: Step) -> Grade:
        """A grade of one layer with these steps, put into the default order."""
        order = list(STEPS)
        return cls(
            layers=(Layer(name=CLIP_LAYER, steps=tuple(sorted(steps, key=lambda s: order.index(s.key)))),)
        )

    @property
    def at_work(self) -> bool:
        """Whether anything in it changes the picture."""
        return any(layer.at_work for layer in self.layers)

    @property
    def moves(self) -> bool:
        """Whether it does something else at every moment of the clip."""
        return any(
            isinstance(s, EvenOut) and s.moves for layer in self.layers if layer.on for s in layer.steps
        )

    def at(self, time_s: float) -> Grade:
        """The grade held at a moment; itself if it does not move."""
        if not self.moves:
            return self
        held = (
            replace(x, steps=tuple(s.at(time_s) if isinstance(s, EvenOut) else s for s in x.steps))
            for x in self.layers
        )
        return replace(self, layers=tuple(held))

    def steps(self) -> Iterator[Step]:
        for layer in self.layers:
            yield from layer.steps

    def step(self, key: str) -> Step:
        """The step of that key, or a neutral one if the grade has none."""
        for step in self.steps():
            if step.key == key:
                return step
        return STEPS.get(key)()

    def with_step(self, step: Step) -> Grade:
        """A copy in which `step` replaces the one of the same key, or is added in its place."""
        for number, layer in enumerate(self.layers):
            if any(s.key == step.key for s in layer.steps):
                steps = tuple(step if s.key == step.key else s for s in layer.steps)
                return self._with_layer(number, replace(layer, steps=steps))
        first = self.layers[0]
        return self._with_layer(0, replace(first, steps=Grade.of(*first.steps, step).layers[0].steps))

    def without_step(self, key: str) -> Grade:
        """A copy that lacks the step of that key."""
        return replace(
            self,
            layers=tuple(
                replace(layer, steps=tuple(s for s in layer.steps if s.key != key)) for layer in self.layers
            ),
        )

    def _with_layer(self, number: int, layer: Layer) -> Grade:
        return replace(self, layers=(*self.layers[:number], layer, *self.layers[number + 1 :]))


_STD = PROFILES.get("std-709")


def _to_state(picture: Float, state: Light, wanted: Light) -> Float:
    if state is wanted:
        return picture
    if state is Light.WIDE:
        return _to_state(narrowed(picture), Light.LINEAR, wanted)
    return _STD.decode(picture) if wanted is Light.LINEAR else _STD.encode(picture)


def _evaluate_layer(picture: Encoded, layer: Layer) -> Encoded:
    state: Light = Light.ENCODED
    out: Float = picture
    for step in layer.steps:
        if not step.at_work:
            continue
        if state is Light.WIDE and step.works_in is Light.LINEAR:
            out = step.apply_wide(out)
            continue
        out = step.apply(_to_state(out, state, step.works_in))
        state = step.gives
    out = _to_state(out, state, Light.ENCODED)
    if layer.strength < 1:
        out = picture + np.float32(layer.strength) * (out - picture)
    return out.astype(np.float32, copy=False)


def evaluate(grade: Grade, encoded: Encoded) -> Encoded:
    """Apply a grade directly to encoded R'G'B' (..., 3) float32: the reference for every faster way.

    The result is BT.709-encoded and not clipped; without a step at work it is the input itself.
    """
    out = encoded
    for layer in grade.layers:
        if layer.at_work:
            out = _evaluate_layer(out, layer)
    return out
