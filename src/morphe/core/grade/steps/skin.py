"""Skin: its hue turned onto the line that skin of every complexion lies near, the rest left alone."""

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

__all__ = ["SkinTurn"]

FOLDS = 3.7  # degrees of reach for each degree of turn: less, and hues would change places


@dataclass(frozen=True, slots=True, kw_only=True)
class SkinTurn(ColourStep):
    """Turn colours about `centre` degrees of the vectorscope by `turn` degrees; luma and chroma stay.

    A colour `reach` degrees away does not move, nor does what is grey, garish, black or white. A large turn
    reaches further, so that hues keep their order.
    """

    key: ClassVar[str] = "skin"
    label: ClassVar[str] = "Skin"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "turn": Param(low=-20, high=20, unit="°", label="Turn", up="towards yellow", down="towards red",
                      nudge=0.5, natural=(-8, 8)),
        "centre": Param(low=60, high=180, neutral=SKIN_LINE, unit="°", label="Skin lies at", up="yellower",
                        down="redder", may_move=False),
        "reach": Param(low=8, high=40, neutral=16, unit="°", label="Reach", up="wider", down="narrower",
                       may_move=False),
    }  # fmt: skip

    turn: Number = 0.0
    centre: float = SKIN_LINE
    reach: float = 16.0

    @property
    def is_neutral(self) -> bool:
        return self.params["turn"].is_neutral(self.turn)

    def apply(self, picture: Encoded) -> Encoded:
        turn = self.number("turn")
        ycc = rgb_to_ycbcr(picture).astype(np.float32)
        share = skin_share(ycc, self.centre, max(self.reach, FOLDS * abs(turn)))
        angle = np.radians(np.float32(turn) * share)
        cos, sin = np.cos(angle), np.sin(angle)
        blue, red = ycc[..., 1].copy(), ycc[..., 2].copy()
        ycc[..., 1], ycc[..., 2] = cos * blue - sin * red, sin * blue + cos * red
        return ycbcr_to_rgb(ycc).astype(np.float32)
