"""A turn of all hues at once; skin mostly keeps its own, and what has no colour has none to turn."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.perception import linear_to_oklab, oklab_to_linear
from morphe.core.signal.skin_colour import SKIN_LINE, skin_share
from morphe.core.signal.transfer import decode_bt1886, encode_bt1886
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = ["HueTurn"]

SKIN_HELD, SKIN_REACH = 0.8, 16.0


@dataclass(frozen=True, slots=True, kw_only=True)
class HueTurn(ColourStep):
    """Turn hues of Oklab by `turn` degrees at the same lightness and strength."""

    key: ClassVar[str] = "hue"
    label: ClassVar[str] = "Hue of the whole"
    params: ClassVar[dict[str, Param]] = {
        "turn": Param(low=-40, high=40, unit="°", label="Turn", up="red towards yellow",
                      down="yellow towards red", natural=(-12, 12)),
    }  # fmt: skip

    turn: Number = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        inner = np.clip(picture, 0, 1)
        lab = linear_to_oklab(decode_bt1886(inner).astype(np.float32))
        skin = skin_share(rgb_to_ycbcr(inner).astype(np.float32), SKIN_LINE, SKIN_REACH)
        angle = np.radians(self.number("turn")) * (1 - SKIN_HELD * skin)
        cos, sin, a, b = np.cos(angle), np.sin(angle), lab[..., 1].copy(), lab[..., 2].copy()
        lab[..., 1], lab[..., 2] = cos * a - sin * b, sin * a + cos * b
        moved = encode_bt1886(oklab_to_linear(lab))
        return (moved + (picture - inner)).astype(np.float32)
