"""Glow: bright light that spreads softly around itself, as a mist filter makes it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number, held
from morphe.core.grade.param import Param
from morphe.core.grade.screened import blurred, reduced_light, screened
from morphe.core.grade.step import Frame, FrameStep
from morphe.core.signal.arrays import highest

__all__ = ["Glow"]

NEAR, FAR = 0.008, 0.02  # spreads, as shares of the height
NEAR_SHARE = 0.6


@dataclass(frozen=True, slots=True, kw_only=True)
class Glow(FrameStep):
    """Spread light above `start` percent of white, in two widths, and screen it over the frame."""

    key: ClassVar[str] = "glow"
    label: ClassVar[str] = "Glow"
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=0, high=100, unit="%", label="Glow", up="", down="", nudge=2,
                        natural=(0, 30)),
        "start": Param(low=20, high=95, neutral=65, unit="%", label="From light above", up="lights only",
                       down="middle too", natural=(50, 95)),
    }  # fmt: skip
    shader: ClassVar[str] = """
        vec3 around = vec3(0.0);
        for (int i = 0; i < 64; i++) {
            float sigma = i % 5 < 3 ? 0.008 : 0.02;
            vec3 lit = light(source(at + sigma * spiral(i, 64) * vec2(pixel.x / pixel.y, 1.0)));
            float peak = max(lit.r, max(lit.g, lit.b)), from = start / 100.0;
            float over = clamp((peak - from) / (1.0 - from), 0.0, 1.0);
            around += over * lit / 64.0;
        }
        return screened(source(at), amount / 100.0 * around);
    """

    amount: Number = 0.0
    start: Number = 65.0

    @property
    def is_neutral(self) -> bool:
        return self.params["amount"].is_neutral(self.amount)

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        lit = reduced_light(frame)
        start = np.float32(held(self.start, 0.0) / 100)
        over = np.clip((highest(lit) - start) / (1 - start), 0, 1)[..., None] * lit
        around = NEAR_SHARE * blurred(over, NEAR) + (1 - NEAR_SHARE) * blurred(over, FAR)
        return screened(frame, (self.number("amount") / 100 * around).astype(np.float32))
