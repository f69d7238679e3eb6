"""Halation: a red rim around the brightest lights, as film makes it where light comes back from its base."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.screened import blurred, reduced_light, screened
from morphe.core.grade.step import Frame, FrameStep
from morphe.core.signal.arrays import highest
from morphe.core.signal.hues import smoothstep

__all__ = ["Halation"]

BRIGHT = (0.6, 1.0)  # of light: from where light comes back, and fully
SPREAD = 0.0035  # of the height
COLOUR = (1.0, 0.28, 0.05)


@dataclass(frozen=True, slots=True, kw_only=True)
class Halation(FrameStep):
    """Screen a red rim around lights; the lights themselves stay white."""

    key: ClassVar[str] = "halation"
    label: ClassVar[str] = "Halation"
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=0, high=100, unit="%", label="Red rim", up="", down="", nudge=2, natural=(0, 25)),
    }
    shader: ClassVar[str] = """
        float around = 0.0;
        for (int i = 0; i < 40; i++) {
            vec3 lit = light(source(at + 0.0035 * spiral(i, 40) * vec2(pixel.x / pixel.y, 1.0)));
            around += smoothstep(0.6, 1.0, max(lit.r, max(lit.g, lit.b))) / 40.0;
        }
        return screened(source(at), amount / 100.0 * around * vec3(1.0, 0.28, 0.05));
    """

    amount: Number = 0.0

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        around = blurred(smoothstep(*BRIGHT, highest(reduced_light(frame))).astype(np.float32), SPREAD)
        rim = self.number("amount") / 100 * around[..., None] * np.array(COLOUR)
        return screened(frame, rim.astype(np.float32))
