"""White balance: a light of another colour neutralised by chromatic adaptation."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.light import Light
from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Float, Linear
from morphe.core.signal.light import adaptation_matrix
from morphe.core.signal.primaries import Primaries, rgb_to_rgb

__all__ = ["Balance"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Balance(ColourStep):
    """Neutralise a light that is `warmth` mired warmer and `tint` thousandths of Duv greener than neutral.

    Positive values therefore make the picture cooler and less green; luminance of neutrals is kept.
    """

    key: ClassVar[str] = "balance"
    label: ClassVar[str] = "White balance"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    works_in: ClassVar[Light] = Light.LINEAR
    params: ClassVar[dict[str, Param]] = {
        "warmth": Param(low=-110, high=300, unit="mired", label="Warmth", up="cooler", down="warmer"),
        "tint": Param(low=-60, high=60, label="Tint", up="less green", down="more green", nudge=0.5),
    }

    warmth: Number = 0.0
    tint: Number = 0.0

    def apply(self, picture: Linear) -> Linear:
        return picture @ self._matrix().T.astype(np.float32)

    def apply_wide(self, picture: Linear) -> Linear:
        wide = rgb_to_rgb(Primaries.BT709, Primaries.BT2020)
        return picture @ (wide @ self._matrix() @ np.linalg.inv(wide)).T.astype(np.float32)

    def _matrix(self) -> Float:
        return adaptation_matrix(self.number("warmth"), self.number("tint") / 1000)
