"""Flare: what a light in the frame does to a lens: a shine around it and faint discs across the middle."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.screened import SMALL, places, screened
from morphe.core.grade.step import Frame, FrameStep
from morphe.core.signal.arrays import Float
from morphe.core.signal.hues import smoothstep

__all__ = ["Flare"]

SHINE, SHINE_COLOUR = 0.11, (1.0, 0.86, 0.62)  # reach as a share of the height
# Discs on the line from the light (0) through the middle (1): place, radius, strength, colour.
DISCS = (
    (0.62, 0.030, 0.10, (0.5, 0.9, 1.0)),
    (1.25, 0.055, 0.07, (1.0, 0.7, 0.4)),
    (1.55, 0.022, 0.12, (0.6, 1.0, 0.7)),
    (2.10, 0.090, 0.05, (0.8, 0.6, 1.0)),
)


def _disc_code() -> str:
    return "".join(
        f"lit += {strength} * (1.0 - smoothstep({0.75 * radius:.4f}, {radius:.4f}, "
        f"length(here - {at} * middle))) * vec3{colour};\n"
        for at, radius, strength, colour in DISCS
    )


def _place(label: str, up: str, down: str) -> Param:
    return Param(low=0, high=100, neutral=50, unit="%", label=label, up=up, down=down)


@dataclass(frozen=True, slots=True, kw_only=True)
class Flare(FrameStep):
    """Screen the shine of a light at `x`, `y` (percent of the frame) and its discs over the frame."""

    key: ClassVar[str] = "flare"
    label: ClassVar[str] = "Flare"
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=0, high=100, unit="%", label="Flare", up="", down="", nudge=2,
                        natural=(0, 40)),
        "x": _place("Light, across", "to the right", "to the left"),
        "y": _place("Light, down", "lower", "higher"),
    }  # fmt: skip
    shader: ClassVar[str] = f"""
        vec2 square = vec2(pixel.y / pixel.x, 1.0), from = vec2(x, y) / 100.0;
        vec2 here = (at - from) * square, middle = (0.5 - from) * square;
        vec3 lit = exp(-length(here) / {SHINE}) * vec3{SHINE_COLOUR};
        {_disc_code()}
        return screened(source(at), amount / 100.0 * lit);
    """

    amount: Number = 0.0
    x: Number = 50.0
    y: Number = 50.0

    @property
    def is_neutral(self) -> bool:
        return self.params["amount"].is_neutral(self.amount)

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        rows = min(SMALL, frame.height)
        width = max(round(frame.width * rows / frame.height), 1)
        lit = _light(rows, width, self.number("x") / 100, self.number("y") / 100)
        return screened(frame, np.float32(self.number("amount") / 100) * lit)


@lru_cache(maxsize=4)
def _light(height: int, width: int, at_x: float, at_y: float) -> Float:
    x, y = places(height, width)
    across, down = (x - at_x) * (width / height), y - at_y
    middle_x, middle_y = (0.5 - at_x) * (width / height), 0.5 - at_y
    lit = np.exp(-np.hypot(across, down) / SHINE)[..., None] * np.array(SHINE_COLOUR)
    for at, radius, strength, colour in DISCS:
        away = np.hypot(across - at * middle_x, down - at * middle_y)
        disc = 1 - smoothstep(0.75 * radius, radius, away)
        lit = lit + strength * disc[..., None] * np.array(colour)
    return lit.astype(np.float32)
