"""Black point: a level brought to black, white left where it is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded

__all__ = ["BlackPoint"]


@dataclass(frozen=True, slots=True, kw_only=True)
class BlackPoint(ColourStep):
    """Lower the black point by `lower` percent: that level goes to 0, white stays."""

    key: ClassVar[str] = "black"
    label: ClassVar[str] = "Black point"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "lower": Param(
            low=-20, high=40, unit="%", label="Lower black by", up="lower", down="higher", nudge=0.2
        ),
    }

    lower: Number = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        b = np.float32(self.number("lower") / 100)
        return (picture - b) / (1 - b)
