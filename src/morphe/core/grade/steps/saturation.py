"""Saturation: Oklch chroma scaled, with less for colours near the edge of what can be shown."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep
from morphe.core.signal.arrays import Encoded, Float, Linear, Plane, highest, lowest
from morphe.core.signal.perception import linear_to_oklab, oklab_to_linear
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.transfer import decode_bt1886, encode_bt1886

__all__ = ["Saturation"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Saturation(ColourStep):
    """Scale Oklch chroma by `amount` percent; a colour gains less the nearer it is to the gamut surface."""

    key: ClassVar[str] = "saturation"
    label: ClassVar[str] = "Saturation"
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=-100, high=150, unit="%", label="Saturation", up="more", down="less"),
    }

    amount: Number = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        inner = np.clip(picture, 0, 1)
        light = decode_bt1886(inner).astype(np.float32)
        s: Float = np.array(1 + self.number("amount") / 100, np.float32)
        if s > 1:
            s = s / (1 + (s - 1) * np.clip(_reach(light), 0, 1))[..., None]
        lab = linear_to_oklab(light)
        lab[..., 1:] *= s
        moved = encode_bt1886(oklab_to_linear(lab))
        # What lay outside 0..1 keeps its distance from the edge.
        return (moved + (picture - inner)).astype(np.float32)


def _reach(light: Linear) -> Plane:
    """How far colours (..., 3) lie on the way from grey of their luminance to the gamut's surface."""
    luminance = light @ LUMINANCE_709.astype(np.float32)
    safe = np.clip(luminance, 1e-5, 1 - 1e-5)
    return np.maximum((luminance - lowest(light)) / safe, (highest(light) - luminance) / (1 - safe))
