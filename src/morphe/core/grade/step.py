"""What a step is: a frozen value in real units that changes a pixel by itself, or sees the whole frame."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from enum import StrEnum
from typing import Any, ClassVar, Self

from morphe.core.errors import ColourError
from morphe.core.grade.light import Light
from morphe.core.grade.moments import Moments, Number, held
from morphe.core.grade.param import Param
from morphe.core.signal.arrays import Float, Linear, Plane

__all__ = ["ColourStep", "Frame", "FrameStep", "InHdr", "Step"]


class InHdr(StrEnum):
    """What a step is to a picture whose light goes on above white (100 %, reference white of BT.2408)."""

    LEFT_OUT = "left out"  # it has no meaning there
    AS_IS = "as is"
    SCALED = "scaled"  # each colour brought below white and inside the gamut, changed, and brought back
    TO_PEAK = "to peak"  # with the brightest that a display shows in white's place


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """Base of all steps. `on` is the rung's switch; `params` declares every number that a person may set."""

    key: ClassVar[str] = ""
    label: ClassVar[str] = ""
    params: ClassVar[dict[str, Param]] = {}
    in_hdr: ClassVar[InHdr] = InHdr.LEFT_OUT

    on: bool = True

    def __post_init__(self) -> None:
        for name, param in self.params.items():
            param.check(self.label, name, getattr(self, name))

    @classmethod
    def within(cls, name: str, value: float) -> float:
        """The nearest value that parameter `name` may take."""
        return cls.params[name].within(value)

    @property
    def is_neutral(self) -> bool:
        """Whether the numbers are those that change nothing."""
        return all(param.is_neutral(getattr(self, name)) for name, param in self.params.items())

    @property
    def at_work(self) -> bool:
        return self.on and not self.is_neutral

    @property
    def moving(self) -> dict[str, Moments]:
        """The numbers that change during the clip, by name."""
        found = {name: getattr(self, name) for name in self.params}
        return {name: value for name, value in found.items() if isinstance(value, Moments)}

    @property
    def moves(self) -> bool:
        """Whether it does something else at every moment."""
        return self.at_work and bool(self.moving)

    def at(self, time_s: float) -> Self:
        """The same, held at a moment."""
        moving = self.moving
        held_numbers: dict[str, Any] = {name: moments.at(time_s) for name, moments in moving.items()}
        return replace(self, **held_numbers) if moving else self

    def number(self, name: str) -> float:
        """A number of a step that is held at a moment."""
        value: Number = getattr(self, name)
        if isinstance(value, Moments):
            raise ColourError(f"{self.label}: {name.replace('_', ' ')} moves; hold the grade at a moment.")
        return value

    def settings(self) -> dict[str, Any]:
        """All fields by name, the switch left out."""
        return {f.name: getattr(self, f.name) for f in fields(self) if f.name != "on"}

    @property
    def summary(self) -> str:
        """What it does, in a few words; empty where it is at rest."""
        return ", ".join(self._said_numbers) if self.at_work else ""

    @property
    def _said_numbers(self) -> list[str]:
        """Its numbers that do something, as words."""
        return [p.say(getattr(self, n)) for n, p in self.params.items() if not p.is_neutral(getattr(self, n))]


@dataclass(frozen=True, slots=True, kw_only=True)
class ColourStep(Step):
    """Changes each pixel by its own colour alone; `works_in` says in which state of the light."""

    works_in: ClassVar[Light] = Light.ENCODED

    @property
    def gives(self) -> Light:
        """State of the light that comes out."""
        return self.works_in

    def apply(self, picture: Float) -> Float:
        """Change (..., 3) float32 in the state that `works_in` names; the step is held at a moment."""
        raise NotImplementedError

    def apply_wide(self, picture: Linear) -> Linear:
        """Do the same to scene-linear light in BT.2020 primaries; for steps that treat channels alike."""
        return self.apply(picture)


@dataclass(slots=True, kw_only=True, eq=False)
class Frame:
    """A frame between steps, as Y'CbCr signal of BT.709: nothing is clipped, values are of encoded light.

    luma (H, W) and chroma (h, w, 2) float32; h, w are H, W or half of them.
    """

    luma: Plane
    chroma: Plane

    @property
    def height(self) -> int:
        return int(self.luma.shape[0])

    @property
    def width(self) -> int:
        return int(self.luma.shape[1])


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameStep(Step):
    """Needs a pixel's neighbours or its place. Lengths are shares of the frame's height.

    The same `apply` serves still, reference and render; while playing, the browser runs `shader` instead: the
    body of a GLSL function that gets `at` (place in the frame, 0..1, from the top left), `pixel` (size of
    one, in the same units), `moment` (seconds) and the numbers that `uniforms` names, reads its source with
    `source(at)` and `plane`, if it has one, and returns R'G'B'. Helpers stand in the page's `shaders.js`. The
    tests hold the two together.
    """

    shader: ClassVar[str] = ""

    def apply(self, frame: Frame, seed: int) -> Frame:
        """The frame after the step, which is held at a moment; the frame that came in is left alone."""
        raise NotImplementedError

    def uniforms(self) -> dict[str, float]:
        """The numbers that the shader wants, by name; lengths as shares of the height."""
        return {name: held(getattr(self, name), 0.0) for name in self.params}

    def plane(self) -> Plane | None:
        """A picture (h, w) of 0..1 that the shader reads beside its source."""
        return None
