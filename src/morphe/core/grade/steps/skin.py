"""Skin: its hue turned onto the line that skin of every complexion lies near, the rest left alone."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep
from morphe.core.signal.arrays import Encoded, Float, Plane
from morphe.core.signal.hues import smoothstep
from morphe.core.signal.ycbcr import rgb_to_ycbcr, ycbcr_to_rgb

__all__ = ["SKIN_LINE", "SkinTurn", "skin_share"]

SKIN_LINE = 123.0  # degrees anticlockwise from +Cb in the plane of Cb and Cr
FULL, NONE = 0.45, 1.0  # of the reach: so near all of a colour turns, so far none of it
FAINT, WEAK, STRONG, GARISH = 0.02, 0.045, 0.22, 0.30  # of chroma: skin is neither grey nor paint
FOLDS = 3.7  # degrees of reach for each degree of turn: less, and hues would change places
DARK, BRIGHT = (0.04, 0.12), (0.93, 0.99)  # of luma


@dataclass(frozen=True, slots=True, kw_only=True)
class SkinTurn(ColourStep):
    """Turn colours about `centre` degrees of the vectorscope by `turn` degrees; luma and chroma stay.

    A colour `reach` degrees away does not move, nor does what is grey, garish, black or white. A large turn
    reaches further, so that hues keep their order.
    """

    key: ClassVar[str] = "skin"
    label: ClassVar[str] = "Skin"
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


def skin_share(ycc: Float, centre: float, reach: float) -> Plane:
    """How much colours (..., 3) of Y'CbCr look like skin whose hue lies at `centre`, 0..1."""
    luma, chroma = ycc[..., 0], np.hypot(ycc[..., 1], ycc[..., 2])
    hue = np.degrees(np.arctan2(ycc[..., 2], ycc[..., 1]))
    away = np.abs((hue - centre + 180) % 360 - 180)
    near = 1 - smoothstep(FULL * reach, NONE * reach, away)
    vivid = smoothstep(FAINT, WEAK, chroma) * (1 - smoothstep(STRONG, GARISH, chroma))
    return np.asarray(near * vivid * smoothstep(*DARK, luma) * (1 - smoothstep(*BRIGHT, luma)), np.float32)
