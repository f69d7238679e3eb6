"""Black bars that a file came with stay black, whatever a grade does to the picture between them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from morphe.core.grade.param import Param
from morphe.core.grade.step import Frame, FrameStep, InHdr

__all__ = ["Edges"]

SHADER = """
    vec2 start = vec2(left, top) / 100.0, end = 1.0 - vec2(right, bottom) / 100.0;
    vec2 inside = step(start, at) * step(at, end);
    return source(at) * inside.x * inside.y;
"""


def _share(label: str) -> Param:
    return Param(low=0, high=49, unit="%", label=label, up="", down="", may_move=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Edges(FrameStep):
    """Black from each side, in percent of the frame's width or height."""

    key: ClassVar[str] = "edges"
    label: ClassVar[str] = "Bars as filmed"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    shader: ClassVar[str] = SHADER
    params: ClassVar[dict[str, Param]] = {
        "left": _share("Left"), "top": _share("Top"), "right": _share("Right"), "bottom": _share("Bottom"),
    }  # fmt: skip

    left: float = 0.0
    top: float = 0.0
    right: float = 0.0
    bottom: float = 0.0

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        luma, chroma = frame.luma.copy(), frame.chroma.copy()
        for plane in (luma, chroma):
            height, width = plane.shape[:2]
            left, right = (round(share / 100 * width) for share in (self.left, self.right))
            top, bottom = (round(share / 100 * height) for share in (self.top, self.bottom))
            plane[:top], plane[height - bottom :] = 0, 0
            plane[:, :left], plane[:, width - right :] = 0, 0
        return Frame(luma=luma, chroma=chroma)
