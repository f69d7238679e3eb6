"""White point: a level brought to white, black left where it is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded

__all__ = ["WhitePoint"]


@dataclass(frozen=True, slots=True, kw_only=True)
class WhitePoint(ColourStep):
    """Raise the white point by `raise_by` percent: the level 100 - raise_by goes to 100, black stays."""

    key: ClassVar[str] = "white"
    label: ClassVar[str] = "White point"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "raise_by": Param(
            low=-30, high=60, unit="%", label="Raise white by", up="higher", down="lower", nudge=0.2
        ),
    }

    raise_by: Number = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        return picture / np.float32(1 - self.number("raise_by") / 100)
