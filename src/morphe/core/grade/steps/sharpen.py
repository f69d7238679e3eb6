"""Sharpening: unsharp masking of luma, gentle on noise and without halos."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import cv2
import numpy as np

from morphe.core.bands import over_rows
from morphe.core.grade.moments import Number, held
from morphe.core.grade.param import Param
from morphe.core.grade.step import Frame, FrameStep, InHdr
from morphe.core.signal.arrays import Plane

__all__ = ["Sharpen"]

THRESHOLD = 1.5 / 255  # of the signal: smaller differences are noise
HALO = 0.03  # of the signal: how far an edge may leave the range of its neighbours


@dataclass(frozen=True, slots=True, kw_only=True)
class Sharpen(FrameStep):
    """Add `amount` tenths of what a blur of `size` thousandths of the frame's height takes away.

    Differences below the threshold are left out, and a pixel leaves the range of its eight neighbours by at
    most three percent. Colour is left as it is.
    """

    key: ClassVar[str] = "sharpen"
    label: ClassVar[str] = "Sharpening"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(
            low=0, high=20, unit="tenths", label="Sharpening", up="sharper", down="softer", natural=(1, 5)
        ),
        "size": Param(
            low=0.6, high=3, neutral=1.2, unit="‰ of height", label="Size of detail", up="coarser",
            down="finer", nudge=0.1,
        ),
    }  # fmt: skip
    shader: ClassVar[str] = """
        vec3 here = source(at);
        float sigma = size / 1000.0 / pixel.y, total = 0.0, blurred = 0.0, low = 9.0, high = -9.0;
        for (int j = -4; j <= 4; j++) for (int i = -4; i <= 4; i++) {
            float weight = exp(-0.5 * float(i * i + j * j) / (sigma * sigma));
            float luma = dot(source(at + vec2(i, j) * pixel), vec3(0.2126, 0.7152, 0.0722));
            blurred += weight * luma; total += weight;
            if (abs(i) < 2 && abs(j) < 2) { low = min(low, luma); high = max(high, luma); }
        }
        float luma = dot(here, vec3(0.2126, 0.7152, 0.0722)), away = luma - blurred / total;
        float kept = sign(away) * max(abs(away) - 1.5 / 255.0, 0.0);
        return here + clamp(luma + amount / 10.0 * kept, low - 0.03, high + 0.03) - luma;
    """

    amount: Number = 0.0
    size: Number = 1.2

    @property
    def is_neutral(self) -> bool:
        return self.params["amount"].is_neutral(self.amount)

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        return Frame(luma=self._sharpened(frame.luma), chroma=frame.chroma)

    def _sharpened(self, luma: Plane) -> Plane:
        from morphe.core.grade.kernels import sharpened_rows  # compiled: late, as few grades sharpen

        sigma = held(self.size, 0.0) / 1000 * luma.shape[0]
        size = 2 * int(np.ceil(3 * sigma)) + 1
        blurred = cv2.GaussianBlur(luma, (size, size), sigma, borderType=cv2.BORDER_REPLICATE)
        numbers = (np.float32(n) for n in (self.number("amount") / 10, THRESHOLD, HALO))
        amount, threshold, halo = numbers
        out = np.empty_like(luma)
        over_rows(
            len(luma),
            lambda a, b: sharpened_rows(a, b, luma, blurred, amount, threshold, halo, out),
        )
        return out
