"""A turn of all hues at once; skin mostly keeps its own, and what has no colour has none to turn."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.skin_colour import SKIN_LINE, skin_share
from morphe.core.signal.ycbcr import rgb_to_ycbcr, ycbcr_to_rgb

__all__ = ["HueTurn"]

SKIN_HELD, SKIN_REACH = 0.8, 16.0


@dataclass(frozen=True, slots=True, kw_only=True)
class HueTurn(ColourStep):
    """Turn the colour difference (Cb, Cr) by `turn` degrees; luma and strength stay."""

    key: ClassVar[str] = "hue"
    label: ClassVar[str] = "Hue of the whole"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "turn": Param(low=-40, high=40, unit="°", label="Turn", up="red towards yellow",
                      down="yellow towards red", natural=(-12, 12)),
    }  # fmt: skip

    turn: Number = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        signal = rgb_to_ycbcr(picture)
        skin = skin_share(np.clip(signal, -1, 1), SKIN_LINE, SKIN_REACH)
        angle = np.radians(self.number("turn")) * (1 - SKIN_HELD * skin)
        cos, sin, cb, cr = np.cos(angle), np.sin(angle), signal[..., 1].copy(), signal[..., 2].copy()
        signal[..., 1], signal[..., 2] = cos * cb - sin * cr, sin * cb + cos * cr
        return ycbcr_to_rgb(signal)
