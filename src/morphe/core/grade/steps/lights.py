"""The bright end: light above white rolled in, or clipped light kept bright."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.light import Light
from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Linear

__all__ = ["HoldLights"]

KNEE = 0.80  # linear light above which lights are rolled in
LOW_KNEE = 0.45  # share of a lowered white above which it is brought back


@dataclass(frozen=True, slots=True, kw_only=True)
class HoldLights(ColourStep):
    """Bring light `stops` above white smoothly to 100 % (C1 at the knee).

    Negative stops do the reverse: after exposure was lowered, lights that had clipped return to white
    along a rising curve, so that they stay lights and show no edge.
    """

    key: ClassVar[str] = "lights"
    label: ClassVar[str] = "Bright end"
    in_hdr: ClassVar[InHdr] = InHdr.TO_PEAK
    works_in: ClassVar[Light] = Light.LINEAR
    params: ClassVar[dict[str, Param]] = {
        "stops": Param(
            low=-2, high=6, unit="stops", label="Light above white to hold", up="rolled in",
            down="kept bright", nudge=0.05,
        ),
    }  # fmt: skip

    stops: Number = 0.0

    def apply(self, picture: Linear) -> Linear:
        limit = 2.0 ** self.number("stops")
        knee = KNEE if limit >= 1 else LOW_KNEE * limit
        span, reach = 1 - knee, limit - knee
        over = np.clip(picture - np.float32(knee), 0, np.float32(max(reach, 8.0) if limit >= 1 else reach))
        rolled = knee + over / (1 + over * np.float32(1 / span - 1 / reach))
        return np.where(picture > knee, rolled, picture).astype(np.float32)
