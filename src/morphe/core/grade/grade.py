"""The Grade: an immutable value that says everything about a correction.

What belongs to the file stands in its source; layers of steps follow, in the order of their scopes. A step is
addressed by the id of its layer and its key.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace

from morphe.core.errors import ColourError, UnknownName
from morphe.core.grade.convert import Convert
from morphe.core.grade.edges import Edges
from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.layer import CLIP, Layer, Scope
from morphe.core.grade.region import Region
from morphe.core.grade.source import OF_THE_SOURCE, SOURCE, Source
from morphe.core.grade.step import Step
from morphe.core.grade.steps import SCHOOLS, Bars, Crop, Title

__all__ = ["Grade"]

STACK = list(Scope)
COVERS = (Bars, Crop, Title)
MOST_LAYERS = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class Grade:
    """A source and layers; those of one scope keep the order they were given in."""

    source: Source = field(default_factory=Source)
    layers: tuple[Layer, ...] = (Layer(id=CLIP),)

    def __post_init__(self) -> None:
        ids = [layer.id for layer in self.layers]
        if len(set(ids)) < len(ids):
            raise ColourError("Two layers have the same id; give each its own.")
        if len(ids) > MOST_LAYERS:
            raise ColourError(f"A grade has at most {MOST_LAYERS} layers.")
        stacked = tuple(sorted(self.layers, key=lambda layer: STACK.index(layer.scope)))
        object.__setattr__(self, "layers", stacked)

    @classmethod
    def of(cls, *steps: Step) -> Grade:
        """A grade with these steps: those of the source there, all others on the layer of the clip."""
        grade = cls()
        for step in steps:
            grade = grade.with_step(step)
        return grade

    # -- what it does ----------------------------------------------------------------------------------

    @property
    def at_work(self) -> bool:
        """Whether anything in it changes the picture."""
        return self.source.at_work or any(layer.at_work for layer in self.layers)

    @property
    def moves(self) -> bool:
        """Whether it does something else at every moment of the clip."""
        return self.source.moves or any(layer.moves for layer in self.layers)

    def at(self, time_s: float) -> Grade:
        """The grade held at a moment; itself if it does not move."""
        if not self.moves:
            return self
        return replace(
            self, source=self.source.at(time_s), layers=tuple(layer.at(time_s) for layer in self.layers)
        )

    @property
    def uncovered(self) -> Grade:
        """Without what lies over the picture and is none of it: bars, crops, titles."""
        layers = tuple(
            replace(layer, steps=tuple(s for s in layer.steps if not isinstance(s, COVERS)))
            if any(isinstance(s, COVERS) for s in layer.steps) else layer
            for layer in self.layers
        )  # fmt: skip
        source = replace(self.source, edges=Edges())
        same = layers == self.layers and source == self.source
        return self if same else replace(self, layers=layers, source=source)

    @property
    def left_out(self) -> tuple[Region, ...]:
        """Parts of the picture by which nothing is judged."""
        return tuple(x.region for x in self.layers if x.left_out and x.region is not None)

    @property
    def crop(self) -> Crop | None:
        """What is left out of the file that is delivered, if anything."""
        layers = (layer for layer in self.layers if layer.at_work)
        found = [s for layer in layers for s in layer.steps if isinstance(s, Crop) and s.at_work]
        return found[-1] if found else None

    # -- reading ---------------------------------------------------------------------------------------

    @property
    def convert(self) -> Convert:
        return self.source.convert

    @property
    def even_out(self) -> EvenOut:
        return self.source.even_out

    def steps(self) -> Iterator[tuple[str, Step]]:
        """All steps with the id of their layer, those of the source first."""
        yield from ((SOURCE, step) for step in self.source)
        for layer in self.layers:
            yield from ((layer.id, step) for step in layer.steps)

    def layer(self, layer_id: str) -> Layer:
        """The layer of that id; one that is named like its scope is there, if only empty.

        Raises
        ------
        UnknownName
            If there is none.
        """
        for layer in self.layers:
            if layer.id == layer_id:
                return layer
        if layer_id in STACK:
            return Layer(id=layer_id, scope=Scope(layer_id))
        known = ", ".join(layer.id for layer in self.layers)
        raise UnknownName(f"There is no layer {layer_id!r}; known are: {known}.")

    @property
    def ids(self) -> set[str]:
        return {layer.id for layer in self.layers}

    def has_layer(self, layer_id: str) -> bool:
        return layer_id in self.ids

    def step(self, key: str, layer_id: str = CLIP) -> Step:
        """The step of that key on a layer (or of the source), or a neutral one if the layer has none."""
        if layer_id == SOURCE or key in OF_THE_SOURCE:
            return self.source.step(key)
        return self.layer(layer_id).step(key)

    # -- changed copies --------------------------------------------------------------------------------

    def with_step(
        self, step: Step, layer_id: str = CLIP, *, order: tuple[str, ...] = SCHOOLS["usual"]
    ) -> Grade:
        """A copy in which `step` replaces its like on a layer, or is added; steps of the source go there."""
        if step.key in OF_THE_SOURCE:
            return replace(self, source=self.source.with_step(step))
        return self.with_layer(self.layer(layer_id).with_step(step, order))

    def without_step(self, key: str, layer_id: str = CLIP) -> Grade:
        """A copy that lacks the step of that key."""
        if layer_id == SOURCE or key in OF_THE_SOURCE:
            return replace(self, source=self.source.with_step(type(self.source.step(key))()))
        return self.with_layer(self.layer(layer_id).without_step(key))

    def with_layer(self, layer: Layer) -> Grade:
        """A copy in which `layer` replaces the one of its id, or is put on top of its scope."""
        if self.has_layer(layer.id):
            return replace(self, layers=tuple(layer if x.id == layer.id else x for x in self.layers))
        return replace(self, layers=(*self.layers, layer))

    def without_layer(self, layer_id: str) -> Grade:
        """A copy that lacks a layer; that of the clip is emptied and stays."""
        if layer_id == CLIP:
            return self.with_layer(Layer(id=CLIP))
        self.layer(layer_id)
        return replace(self, layers=tuple(x for x in self.layers if x.id != layer_id))
