"""Edge blur: sharp on the subject, softer towards the edges, as a fast lens draws it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

import cv2
import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.screened import places
from morphe.core.grade.step import Frame, FrameStep, InHdr
from morphe.core.signal.arrays import Plane
from morphe.core.signal.hues import smoothstep

__all__ = ["EdgeBlur"]

FULL = 2.2  # radii of the subject: from there on the blur is full
QUARTER = 540  # rows, from which on the blur is made of a smaller picture


@dataclass(frozen=True, slots=True, kw_only=True)
class EdgeBlur(FrameStep):
    """Blur by `amount` thousandths of the height what lies outside a circle around the subject.

    `x`, `y` and `reach` are percent of the frame (of its height for `reach`); they may follow the subject.
    """

    key: ClassVar[str] = "edge-blur"
    label: ClassVar[str] = "Edge blur"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=0, high=20, unit="‰ of height", label="Blur", up="", down="", nudge=0.5,
                        natural=(0, 6)),
        "x": Param(low=0, high=100, neutral=50, unit="%", label="Subject, across", up="to the right",
                   down="to the left"),
        "y": Param(low=0, high=100, neutral=50, unit="%", label="Subject, down", up="lower", down="higher"),
        "reach": Param(low=5, high=100, neutral=35, unit="% of height", label="Sharp within", up="more",
                       down="less"),
    }  # fmt: skip
    shader: ClassVar[str] = """
        vec2 square = vec2(pixel.y / pixel.x, 1.0);
        float away = length((at - vec2(x, y) / 100.0) * square) / (reach / 100.0);
        float share = smoothstep(1.0, 2.2, away);
        if (share <= 0.0) return source(at);
        vec3 soft = vec3(0.0);
        for (int i = 0; i < 48; i++) soft += source(at + amount / 1000.0 * spiral(i, 48) / square) / 48.0;
        return mix(source(at), soft, share);
    """

    amount: Number = 0.0
    x: Number = 50.0
    y: Number = 50.0
    reach: Number = 35.0

    @property
    def is_neutral(self) -> bool:
        return self.params["amount"].is_neutral(self.amount)

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        return Frame(luma=self._outside(frame.luma, frame), chroma=self._outside(frame.chroma, frame))

    def _outside(self, plane: Plane, frame: Frame) -> Plane:
        height, width = plane.shape[:2]
        numbers = (self.number(name) / 100 for name in ("x", "y", "reach"))
        share = _share(height, width, frame.width / frame.height, *numbers)
        soft = _blurred(plane, self.number("amount") / 1000 * height)
        return np.asarray(
            plane + (share[..., None] if plane.ndim == 3 else share) * (soft - plane), np.float32
        )


@lru_cache(maxsize=4)
def _share(height: int, width: int, aspect: float, at_x: float, at_y: float, reach: float) -> Plane:
    x, y = places(height, width)
    away = np.hypot((x - at_x) * aspect, y - at_y) / reach
    return smoothstep(1, FULL, away).astype(np.float32)


def _blurred(plane: Plane, sigma: float) -> Plane:
    """A Gaussian blur; a wide one is made at half the size, where nothing finer is left anyway."""
    if sigma > 3 and plane.shape[0] >= QUARTER:
        small = cv2.resize(plane, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
        soft = cv2.GaussianBlur(small, (0, 0), sigma / 2, borderType=cv2.BORDER_REPLICATE)
        return np.asarray(cv2.resize(soft, plane.shape[1::-1], interpolation=cv2.INTER_LINEAR), np.float32)
    blurred = cv2.GaussianBlur(plane, (0, 0), max(sigma, 0.1), borderType=cv2.BORDER_REPLICATE)
    return np.asarray(blurred, np.float32)
