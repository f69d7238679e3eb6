"""Density: colours made deeper rather than brighter, as thicker dye makes them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.perception import linear_to_oklab, oklab_to_linear
from morphe.core.signal.transfer import decode_bt1886, encode_bt1886

__all__ = ["Density"]

STRONG = 0.2  # Oklab chroma: from here on a colour is deepened no further
DEEPER, FULLER = 0.25, 0.2  # of lightness taken, of chroma added, at 100 %


@dataclass(frozen=True, slots=True, kw_only=True)
class Density(ColourStep):
    """Darken colours by how strong they are, and fill them a little; greys keep their light."""

    key: ClassVar[str] = "density"
    label: ClassVar[str] = "Density"
    in_hdr: ClassVar[InHdr] = InHdr.SCALED
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=-100, high=100, unit="%", label="Density", up="deeper", down="lighter", nudge=5,
                        natural=(-30, 50)),
    }  # fmt: skip

    amount: Number = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        inner = np.clip(picture, 0, 1)
        lab = linear_to_oklab(decode_bt1886(inner).astype(np.float32))
        amount = np.float32(self.number("amount") / 100)
        strong = np.clip(np.hypot(lab[..., 1], lab[..., 2]) / STRONG, 0, 1)
        lab[..., 0] *= 1 - DEEPER * amount * strong
        lab[..., 1:] *= (1 + FULLER * amount * (1 - strong))[..., None]
        moved = encode_bt1886(oklab_to_linear(lab))
        return (moved + (picture - inner)).astype(np.float32)
