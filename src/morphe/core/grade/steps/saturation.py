"""Saturation: Oklch chroma scaled, with less for colours near the edge of what can be shown."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded, Float, Linear, Plane, highest, lowest
from morphe.core.signal.hues import smoothstep, within_reach
from morphe.core.signal.perception import linear_to_oklab, oklab_to_linear
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.transfer import decode_bt1886, encode_bt1886

__all__ = ["BLACK", "WHITE", "Saturation"]

WEAK, SPARED = 0.12, 0.7  # Oklab chroma of what is muted; how far skin is spared
SKIN_HUE, SKIN_REACH = 48.0, 25.0  # degrees
BLACK, WHITE = (0.14, 0.32), (0.90, 0.98)  # lightness: all of it is an end, and none


@dataclass(frozen=True, slots=True, kw_only=True)
class Saturation(ColourStep):
    """Scale Oklch chroma by `amount` percent; a colour gains less the nearer it is to the gamut surface.

    `muted` raises what is weakly coloured and spares strong colours and skin; `dark` and `bright` take colour
    out of black and white.
    """

    key: ClassVar[str] = "saturation"
    label: ClassVar[str] = "Saturation"
    in_hdr: ClassVar[InHdr] = InHdr.SCALED
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=-100, high=150, unit="%", label="Saturation", up="more", down="less"),
        "muted": Param(low=-100, high=150, unit="%", label="Muted colours", up="lifted", down="lowered",
                       nudge=5, natural=(-40, 60)),
        "dark": Param(low=0, high=100, unit="%", label="Colour out of black", up="taken out", down="",
                      nudge=5),
        "bright": Param(low=0, high=100, unit="%", label="Colour out of white", up="taken out", down="",
                        nudge=5),
    }  # fmt: skip

    amount: Number = 0.0
    muted: Number = 0.0
    dark: Number = 0.0
    bright: Number = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        inner = np.clip(picture, 0, 1)
        light = decode_bt1886(inner).astype(np.float32)
        s: Float = np.array(1 + self.number("amount") / 100, np.float32)
        if s > 1:
            s = s / (1 + (s - 1) * np.clip(_reach(light), 0, 1))[..., None]
        lab = linear_to_oklab(light)
        lab[..., 1:] *= s if self._is_even else s * self._by_colour(lab)[..., None]
        moved = encode_bt1886(oklab_to_linear(lab))
        # What lay outside 0..1 keeps its distance from the edge.
        return (moved + (picture - inner)).astype(np.float32)

    @property
    def _is_even(self) -> bool:
        """Whether all colours are scaled alike."""
        return not any(self.number(n) for n in ("muted", "dark", "bright"))

    def _by_colour(self, lab: Float) -> Plane:
        """What else chroma is multiplied by, for Oklab (..., 3)."""
        factor = np.ones(lab.shape[:-1], np.float32)
        muted, dark, bright = (self.number(n) / 100 for n in ("muted", "dark", "bright"))
        if muted:
            chroma = np.hypot(lab[..., 1], lab[..., 2])
            hue = np.degrees(np.arctan2(lab[..., 2], lab[..., 1]))
            skin = within_reach(hue, SKIN_HUE, SKIN_REACH, SKIN_REACH)
            factor += (muted * np.exp(-((chroma / WEAK) ** 2)) * (1 - SPARED * skin)).astype(np.float32)
        if dark:
            factor *= 1 - np.float32(dark) * (1 - smoothstep(*BLACK, lab[..., 0]).astype(np.float32))
        if bright:
            factor *= 1 - np.float32(bright) * smoothstep(*WHITE, lab[..., 0]).astype(np.float32)
        return factor


def _reach(light: Linear) -> Plane:
    """How far colours (..., 3) lie on the way from grey of their luminance to the gamut's surface."""
    luminance = light @ LUMINANCE_709.astype(np.float32)
    safe = np.clip(luminance, 1e-5, 1 - 1e-5)
    return np.maximum((luminance - lowest(light)) / safe, (highest(light) - luminance) / (1 - safe))
