"""Exposure: scene-linear light scaled by stops."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.light import Light
from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Linear

__all__ = ["Exposure"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Exposure(ColourStep):
    """Scale scene-linear light by a number of stops."""

    key: ClassVar[str] = "exposure"
    label: ClassVar[str] = "Exposure"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    works_in: ClassVar[Light] = Light.LINEAR
    params: ClassVar[dict[str, Param]] = {
        "stops": Param(
            low=-6, high=6, unit="stops", label="Exposure", up="brighter", down="darker", nudge=0.05
        ),
    }

    stops: Number = 0.0

    def apply(self, picture: Linear) -> Linear:
        return picture * np.float32(2.0 ** self.number("stops"))
