"""Contrast: an S-curve on a log-odds tone scale about a pivot."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.ycbcr import LUMA_WEIGHTS, Matrix

__all__ = ["Contrast"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Contrast(ColourStep):
    """S-curve on a log-odds tone scale: `amount` percent steeper at the pivot, black and white pinned.

    Half of it works per channel (which saturates), half on luma with the ratios kept. `hold` percent of the
    colour that this adds is taken back: luma stays, its colour is that of the picture before.
    """

    key: ClassVar[str] = "contrast"
    label: ClassVar[str] = "Contrast"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=-50, high=100, unit="%", label="Contrast", up="more", down="less"),
        "hold": Param(
            low=0, high=100, unit="%", label="Colour held", up="held", down="", nudge=5, may_move=False,
        ),
        "pivot": Param(low=10, high=90, neutral=43, unit="%", label="Around", up="above", down="below"),
    }  # fmt: skip

    amount: Number = 0.0
    hold: float = 0.0
    pivot: Number = 43.0

    @property
    def is_neutral(self) -> bool:
        return self.params["amount"].is_neutral(self.amount)

    def _curve(self, v: Float) -> Float:
        c, p = 1 + self.number("amount") / 100, self.number("pivot") / 100
        m = ((1 - p) / p) ** (1 / c) * p / (1 - p)
        inner = np.clip(v, 0, 1)
        up, down = np.power(inner, c), np.power(m * (1 - inner), c)
        curved = up / (up + down)
        return np.where((v > 0) & (v < 1), curved, v)

    def apply(self, picture: Encoded) -> Encoded:
        luma = (picture @ np.array(LUMA_WEIGHTS[Matrix.BT709], np.float32))[..., None]
        gain = self._curve(luma) / np.maximum(luma, 1e-4)
        kept = picture * np.where(luma > 1e-4, gain, 1.0)
        out = 0.5 * (self._curve(picture) + kept)
        if self.hold:
            after = (out @ np.array(LUMA_WEIGHTS[Matrix.BT709], np.float32))[..., None]
            out = out + np.float32(self.hold / 100) * (after + (picture - luma) - out)
        return out.astype(np.float32)
