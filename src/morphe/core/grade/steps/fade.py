"""Fade: black lifted to grey, white lowered, both ends softened, as old prints and matt paper have them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded

__all__ = ["Fade"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Fade(ColourStep):
    """Ease codes of 0 to 100 % into their ends, and lay them between a lifted black and a lowered white."""

    key: ClassVar[str] = "fade"
    label: ClassVar[str] = "Fade"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "black": Param(low=0, high=20, unit="%", label="Black", up="lifted to grey", down="", nudge=0.5,
                       natural=(0, 7)),
        "white": Param(low=0, high=20, unit="%", label="White", up="lowered", down="", nudge=0.5,
                       natural=(0, 7)),
        "soft": Param(low=0, high=100, unit="%", label="Soft ends", up="", down="", nudge=2,
                      natural=(0, 40)),
    }  # fmt: skip

    black: Number = 0.0
    white: Number = 0.0
    soft: Number = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        low, high = self.number("black") / 100, 1 - self.number("white") / 100
        soft = np.float32(self.number("soft") / 100)
        if soft:
            inner = np.clip(picture, 0, 1)
            picture = picture + soft * (inner * inner * (3 - 2 * inner) - inner)
        return np.asarray(picture * np.float32(high - low) + np.float32(low), np.float32)
