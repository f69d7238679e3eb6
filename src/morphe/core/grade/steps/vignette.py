"""Vignette: light that falls towards the corners, or is lifted there."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number, held
from morphe.core.grade.param import Param
from morphe.core.grade.screened import places
from morphe.core.grade.step import Frame, FrameStep, InHdr
from morphe.core.signal.arrays import Plane
from morphe.core.signal.hues import smoothstep

__all__ = ["Vignette"]

DISPLAY_GAMMA = 2.4  # BT.1886: a gain of light on the display is a gain of code by its 2.4th root


@dataclass(frozen=True, slots=True, kw_only=True)
class Vignette(FrameStep):
    """Lower the light of the display by `amount` percent in the corners, from `start` percent of the way.

    gain = 1 - amount * smoothstep(start, 1, r) with r the distance from the middle over half the diagonal.
    """

    key: ClassVar[str] = "vignette"
    label: ClassVar[str] = "Vignette"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(
            low=-60, high=90, unit="%", label="Corners", up="darker corners", down="brighter corners",
            natural=(0, 35),
        ),
        "start": Param(
            low=0, high=90, neutral=40, unit="%", label="From", up="further out", down="further in"
        ),
    }  # fmt: skip
    shader: ClassVar[str] = """
        vec2 from_middle = (at - 0.5) * vec2(pixel.y / pixel.x, 1.0);
        float r = length(from_middle) / length(vec2(0.5 * pixel.y / pixel.x, 0.5));
        float gain = 1.0 - amount / 100.0 * smoothstep(start / 100.0, 1.0, r);
        return source(at) * pow(gain, 1.0 / 2.4);
    """

    amount: Number = 0.0
    start: Number = 40.0

    @property
    def is_neutral(self) -> bool:
        return self.params["amount"].is_neutral(self.amount)

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        numbers = self.number("amount") / 100, held(self.start, 0.0) / 100
        gain = _gain(frame.height, frame.width, *numbers)
        (height, width), tall, wide = frame.chroma.shape[:2], frame.height, frame.width
        # Chroma is co-sited with even columns and lies midway between two rows.
        of_chroma = gain[:: max(tall // height, 1), :: max(wide // width, 1)][:height, :width, None]
        return Frame(luma=frame.luma * gain, chroma=frame.chroma * of_chroma)


@lru_cache(maxsize=4)  # of a frame each, where the numbers do not move
def _gain(height: int, width: int, amount: float, start: float) -> Plane:
    x, y = places(height, width)
    across, down = (x - 0.5) * (width / height), y - 0.5
    r = np.hypot(across, down) / np.float32(np.hypot(0.5 * width / height, 0.5))
    light = 1 - amount * smoothstep(start, 1, r)
    return np.power(light, 1 / DISPLAY_GAMMA).astype(np.float32)
