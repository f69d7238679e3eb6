"""Mid level: the middle tones moved along a curve that pins black and white."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded

__all__ = ["MidLevel"]

MID_ANCHOR = 0.45  # the tone whose movement the number names


@dataclass(frozen=True, slots=True, kw_only=True)
class MidLevel(ColourStep):
    """Move a 45 % tone by `lift` percent along a power curve that pins black and white."""

    key: ClassVar[str] = "mid"
    label: ClassVar[str] = "Mid level"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "lift": Param(
            low=-30, high=30, unit="%", label="Lift the middle by", up="higher", down="lower", nudge=0.2
        ),
    }

    lift: Number = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        power = np.float32(np.log(MID_ANCHOR + self.number("lift") / 100) / np.log(MID_ANCHOR))
        curved = np.power(np.maximum(picture, 0), power)
        # Below black a straight line keeps noise symmetric; above white the curve goes on.
        return np.where(picture < 0, picture, curved).astype(np.float32)
