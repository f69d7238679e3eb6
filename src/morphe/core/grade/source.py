"""What belongs to a clip's file alone: its noise, its conversion, the evening out of its light, its water,
the bars it came with.

It is never passed on with a correction: another file was filmed in another profile, in other light.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace

from morphe.core.errors import UnknownName
from morphe.core.grade.convert import Convert
from morphe.core.grade.denoise import Denoise
from morphe.core.grade.edges import Edges
from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.restore import Restore
from morphe.core.grade.step import ColourStep, Step

__all__ = ["OF_THE_SOURCE", "SOURCE", "Source"]

SOURCE = "source"  # stands for the layer's name where a step of the source is meant

OF_THE_SOURCE: dict[str, type[Step]] = {
    step.key: step for step in (Denoise, Convert, EvenOut, Restore, Edges)
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """The work on the file itself, in this order; `edges` come last of all colour, and are no work alone."""

    denoise: Denoise = field(default_factory=Denoise)
    convert: Convert = field(default_factory=Convert)
    even_out: EvenOut = field(default_factory=EvenOut)
    restore: Restore = field(default_factory=Restore)
    edges: Edges = field(default_factory=Edges)

    @property
    def steps(self) -> tuple[ColourStep, ...]:
        """The steps that change a pixel by its own colour."""
        return (self.convert, self.even_out, self.restore)

    def __iter__(self) -> Iterator[Step]:
        yield self.denoise
        yield from self.steps
        yield self.edges

    @property
    def at_work(self) -> bool:
        return self.denoise.at_work or self.changes_colour

    @property
    def changes_colour(self) -> bool:
        """Whether a step that is not taking out noise is at work."""
        return any(step.at_work for step in self.steps)

    @property
    def without_denoise(self) -> Source:
        return replace(self, denoise=Denoise())

    @property
    def moves(self) -> bool:
        return any(step.moves for step in self.steps)

    def at(self, time_s: float) -> Source:
        if not self.moves:
            return self
        return replace(self, even_out=self.even_out.at(time_s), restore=self.restore.at(time_s))

    @property
    def at_rest(self) -> Source:
        """Without what changes over time."""
        held = replace(self, even_out=EvenOut()) if self.even_out.moves else self
        return replace(held, restore=Restore()) if self.restore.moves else held

    def step(self, key: str) -> Step:
        """The step of that key."""
        for step in self:
            if step.key == key:
                return step
        raise UnknownName(f"A source has no {key!r}; known are: {', '.join(OF_THE_SOURCE)}.")

    def with_step(self, step: Step) -> Source:
        """A copy in which `step` replaces its like."""
        if isinstance(step, Denoise):
            return replace(self, denoise=step)
        if isinstance(step, Convert):
            return replace(self, convert=step)
        if isinstance(step, EvenOut):
            return replace(self, even_out=step)
        if isinstance(step, Restore):
            return replace(self, restore=step)
        if isinstance(step, Edges):
            return replace(self, edges=step)
        raise UnknownName(f"{step.label} does not belong to the source.")
