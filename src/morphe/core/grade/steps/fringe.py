"""Colour fringes: red drawn a little larger and blue smaller, as a simple lens does."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import cv2
import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import Frame, FrameStep
from morphe.core.signal.arrays import Plane

__all__ = ["Fringe"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Fringe(FrameStep):
    """Draw red larger and blue smaller by `amount` thousandths, about the middle; green stays."""

    key: ClassVar[str] = "fringe"
    label: ClassVar[str] = "Colour fringes"
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=-5, high=5, unit="‰", label="Fringes", up="red outwards", down="blue outwards",
                        nudge=0.1, natural=(-1.5, 1.5)),
    }  # fmt: skip
    shader: ClassVar[str] = """
        vec2 away = at - 0.5; float by = amount / 1000.0;
        return vec3(source(0.5 + away / (1.0 + by)).r, source(at).g, source(0.5 + away / (1.0 - by)).b);
    """

    amount: Number = 0.0

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        by, (height, width) = self.number("amount") / 1000, frame.chroma.shape[:2]
        full = cv2.resize(frame.chroma, (frame.width, frame.height), interpolation=cv2.INTER_LINEAR)
        red, blue = frame.luma + 1.5748 * full[..., 1], frame.luma + 1.8556 * full[..., 0]
        red_by, blue_by = _drawn(red, 1 + by) - red, _drawn(blue, 1 - by) - blue
        luma_by = 0.2126 * red_by + 0.0722 * blue_by
        chroma_by = np.stack([(blue_by - luma_by) / 1.8556, (red_by - luma_by) / 1.5748], axis=-1)
        if (height, width) != frame.luma.shape:
            chroma_by = cv2.resize(chroma_by, (width, height), interpolation=cv2.INTER_AREA)
        return Frame(
            luma=(frame.luma + luma_by).astype(np.float32),
            chroma=(frame.chroma + chroma_by).astype(np.float32),
        )


def _drawn(plane: Plane, scale: float) -> Plane:
    """The plane drawn larger or smaller about its middle."""
    height, width = plane.shape
    move = np.array([[scale, 0, (1 - scale) * (width - 1) / 2], [0, scale, (1 - scale) * (height - 1) / 2]])
    drawn = cv2.warpAffine(
        plane, move, (width, height), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    return np.asarray(drawn, np.float32)
