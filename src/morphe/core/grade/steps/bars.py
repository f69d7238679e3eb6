"""Bars and crops: another shape of the picture, by bars that stay or by a crop that is delivered."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number, held
from morphe.core.grade.param import Param
from morphe.core.grade.step import Frame, FrameStep, InHdr

__all__ = ["BARS", "CROPS", "Bars", "Crop", "Window", "kept_window", "place_param", "ratio_param"]

Window = tuple[int, int, int, int]  # left, top, right, bottom in pixels
BARS = (1.85, 2.0, 2.35, 2.39)  # ratios on offer, width to height
CROPS = (("9:16", 9 / 16), ("4:5", 4 / 5), ("1:1", 1.0), ("16:9", 16 / 9))
SHADER = """
    float wide = pixel.y / pixel.x, to = place / 200.0 + 0.5;
    vec2 kept = ratio > wide ? vec2(1.0, wide / ratio) : vec2(ratio / wide, 1.0);
    vec2 start = (1.0 - kept) * to;
    vec2 inside = step(start, at) * step(at, start + kept);
    return source(at) * inside.x * inside.y;
"""


def ratio_param(label: str = "Shape") -> Param:
    # Any shape from very upright to very wide; 0 leaves the frame's own.
    return Param(low=0, high=4, label=label, up="", down="", nudge=0.01, unit=": 1", may_move=False)


def place_param() -> Param:
    return Param(low=-100, high=100, unit="%", label="Placed", up="to the right, or lower",
                 down="to the left, or higher")  # fmt: skip


def kept_window(width: int, height: int, ratio: float, place: float) -> Window:
    """The part of a frame of another shape; even, and bars of equal height are even too."""
    if not ratio:
        return 0, 0, width, height
    to = place / 200 + 0.5
    if ratio > width / height:
        kept = min(int(width / ratio) // 4 * 4 or 4, height)
        top = round((height - kept) * to / 2) * 2
        return 0, top, width, top + kept
    kept = min(int(ratio * height) // 2 * 2 or 2, width)
    left = round((width - kept) * to / 2) * 2
    return left, 0, left + kept, height


@dataclass(frozen=True, slots=True, kw_only=True)
class _Shape(FrameStep):
    """Black outside a window of `ratio` (width to height; 0: as filmed), placed by percent of the rest."""

    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    shader: ClassVar[str] = SHADER

    ratio: float = 0.0
    place: Number = 0.0

    @property
    def is_neutral(self) -> bool:
        return self.ratio == 0

    def window(self, width: int, height: int) -> Window:
        """The part of a frame that is kept."""
        return kept_window(width, height, self.ratio, held(self.place, 0.0))

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        left, top, right, bottom = self.window(frame.width, frame.height)
        luma, chroma = np.zeros_like(frame.luma), np.zeros_like(frame.chroma)
        luma[top:bottom, left:right] = frame.luma[top:bottom, left:right]
        tall, wide = frame.height // chroma.shape[0], frame.width // chroma.shape[1]
        part = (slice(top // tall, -(-bottom // tall)), slice(left // wide, -(-right // wide)))
        chroma[part] = frame.chroma[part]
        return Frame(luma=luma, chroma=chroma)


@dataclass(frozen=True, slots=True, kw_only=True)
class Bars(_Shape):
    """Black bars that give the picture another shape and stay in the file."""

    key: ClassVar[str] = "bars"
    label: ClassVar[str] = "Bars"
    params: ClassVar[dict[str, Param]] = {"ratio": ratio_param(), "place": place_param()}


@dataclass(frozen=True, slots=True, kw_only=True)
class Crop(_Shape):
    """What lies outside is black on the Bench and left out of the file that is delivered."""

    key: ClassVar[str] = "crop"
    label: ClassVar[str] = "Crop"
    params: ClassVar[dict[str, Param]] = {"ratio": ratio_param(), "place": place_param()}
