"""Softness: fine detail taken back, as an uncoated or older lens draws it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import cv2
import numpy as np

from morphe.core.grade.moments import Number, held
from morphe.core.grade.param import Param
from morphe.core.grade.step import Frame, FrameStep, InHdr
from morphe.core.signal.arrays import Plane

__all__ = ["Soften"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Soften(FrameStep):
    """Mix `amount` percent of the frame blurred by `size` thousandths of its height over it."""

    key: ClassVar[str] = "soften"
    label: ClassVar[str] = "Softness"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=0, high=100, unit="%", label="Softness", up="", down="", nudge=2,
                        natural=(0, 40)),
        "size": Param(low=1, high=4, neutral=2, unit="‰ of height", label="Size of detail", up="coarser",
                      down="finer", nudge=0.1),
    }  # fmt: skip
    shader: ClassVar[str] = """
        vec3 total = vec3(0.0); float weights = 0.0, sigma = size / 1000.0 / pixel.y;
        for (int j = -4; j <= 4; j++) for (int i = -4; i <= 4; i++) {
            float weight = exp(-0.5 * float(i * i + j * j) / (sigma * sigma));
            total += weight * source(at + vec2(i, j) * pixel); weights += weight;
        }
        return mix(source(at), total / weights, amount / 100.0);
    """

    amount: Number = 0.0
    size: Number = 2.0

    @property
    def is_neutral(self) -> bool:
        return self.params["amount"].is_neutral(self.amount)

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        sigma = held(self.size, 0.0) / 1000
        share = self.number("amount") / 100
        return Frame(
            luma=_mixed(frame.luma, sigma * frame.height, share),
            chroma=_mixed(frame.chroma, sigma * frame.chroma.shape[0], share),
        )


def _mixed(plane: Plane, sigma: float, share: float) -> Plane:
    soft = cv2.GaussianBlur(plane, (0, 0), max(sigma, 0.1), borderType=cv2.BORDER_REPLICATE)
    return np.asarray(cv2.addWeighted(plane, 1 - share, soft, share, 0), np.float32)
