"""Casts by tone: a colour that lies only in the shadows or only in the lights, taken out there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded, Float, Plane
from morphe.core.signal.hues import smoothstep
from morphe.core.signal.ycbcr import rgb_to_ycbcr, ycbcr_to_rgb

__all__ = ["CAST_AXES", "Casts"]

# Rows: a percent warmer and a percent greener, as changes of (Cb, Cr): along skin's line, and across it.
CAST_AXES = np.array([[-0.766, 0.643], [-0.643, -0.766]], np.float32)
SHADOWS, LIGHTS = (0.08, 0.48), (0.52, 0.92)  # luma: full at one end, nothing from the other
ENDS = 0.02  # of luma beside black and white, where nothing may be coloured


def _number(label: str, up: str, down: str) -> Param:
    return Param(low=-12, high=12, unit="%", label=label, up=up, down=down, nudge=0.2, natural=(-5, 5))


@dataclass(frozen=True, slots=True, kw_only=True)
class Casts(ColourStep):
    """Move the colour of dark tones and of bright tones, in percent of the full chroma swing.

    Luma stays; the middle, black itself and white itself keep their colour.
    """

    key: ClassVar[str] = "casts"
    label: ClassVar[str] = "Casts by tone"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "dark_warmth": _number("Shadows", "warmer", "cooler"),
        "dark_green": _number("Shadows", "greener", "less green"),
        "bright_warmth": _number("Lights", "warmer", "cooler"),
        "bright_green": _number("Lights", "greener", "less green"),
    }

    dark_warmth: Number = 0.0
    dark_green: Number = 0.0
    bright_warmth: Number = 0.0
    bright_green: Number = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        ycc = rgb_to_ycbcr(picture).astype(np.float32)
        luma = ycc[..., 0]
        dark, bright = tone_shares(luma)
        ends = smoothstep(0, ENDS, luma) * smoothstep(0, ENDS, 1 - luma)
        for share, name in ((dark, "dark"), (bright, "bright")):
            by = np.array([self.number(f"{name}_warmth"), self.number(f"{name}_green")], np.float32) / 100
            ycc[..., 1:] += (share * ends).astype(np.float32)[..., None] * (by @ CAST_AXES)
        return ycbcr_to_rgb(ycc).astype(np.float32)


def tone_shares(luma: Plane) -> tuple[Float, Float]:
    """How much luma (...,) belongs to the shadows and to the lights."""
    return 1 - smoothstep(*SHADOWS, luma), smoothstep(*LIGHTS, luma)
