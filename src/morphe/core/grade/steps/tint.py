"""Tints by tone: a hue in the shadows, one in the middle, one in the lights; the ends stay neutral."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.hues import smoothstep
from morphe.core.signal.perception import linear_to_oklab, oklab_to_linear
from morphe.core.signal.skin_colour import SKIN_LINE, skin_share
from morphe.core.signal.transfer import decode_bt1886, encode_bt1886
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = ["Tint"]

MOST = 0.04  # Oklab chroma that a tint of 100 % adds
SHADOWS, LIGHTS = (0.15, 0.55), (0.5, 0.9)  # Oklab lightness: full on one side, nothing from the other
SKIN_SPARED, SKIN_REACH = 0.6, 16.0


def _hue(label: str, neutral: float) -> Param:
    return Param(low=0, high=360, neutral=neutral, unit="°", label=label, up="on the ring", down="back on it",
                 may_move=False)  # fmt: skip


def _amount(label: str) -> Param:
    return Param(low=0, high=100, unit="%", label=label, up="", down="", nudge=2, natural=(0, 50))


@dataclass(frozen=True, slots=True, kw_only=True)
class Tint(ColourStep):
    """Add a colour of Oklab to dark, middle and bright tones; black, white and most of skin keep theirs."""

    key: ClassVar[str] = "tint"
    label: ClassVar[str] = "Tints by tone"
    in_hdr: ClassVar[InHdr] = InHdr.SCALED
    params: ClassVar[dict[str, Param]] = {
        "dark_hue": _hue("Hue of shadows", 240), "dark": _amount("Shadows"),
        "mid_hue": _hue("Hue of the middle", 60), "mid": _amount("Middle"),
        "bright_hue": _hue("Hue of lights", 60), "bright": _amount("Lights"),
    }  # fmt: skip

    dark_hue: float = 240.0
    dark: Number = 0.0
    mid_hue: float = 60.0
    mid: Number = 0.0
    bright_hue: float = 60.0
    bright: Number = 0.0

    @property
    def is_neutral(self) -> bool:
        return all(self.params[name].is_neutral(getattr(self, name)) for name in ("dark", "mid", "bright"))

    def apply(self, picture: Encoded) -> Encoded:
        inner = np.clip(picture, 0, 1)
        lab = linear_to_oklab(decode_bt1886(inner).astype(np.float32))
        light = np.clip(lab[..., 0], 0, 1)
        dark, bright = 1 - smoothstep(*SHADOWS, light), smoothstep(*LIGHTS, light)
        skin = skin_share(rgb_to_ycbcr(inner).astype(np.float32), SKIN_LINE, SKIN_REACH)
        spared = (1 - np.abs(2 * light - 1) ** 6) * (1 - SKIN_SPARED * skin)
        added = sum(
            (share * self.number(name))[..., None] * _towards(hue)
            for share, name, hue in (
                (dark, "dark", self.dark_hue), (1 - dark - bright, "mid", self.mid_hue),
                (bright, "bright", self.bright_hue),
            )
        )  # fmt: skip
        lab[..., 1:] += (MOST / 100 * spared[..., None] * added).astype(np.float32)
        moved = encode_bt1886(oklab_to_linear(lab))
        return (moved + (picture - inner)).astype(np.float32)


def _towards(hue: float) -> Float:
    return np.array([np.cos(np.radians(hue)), np.sin(np.radians(hue))], np.float32)
