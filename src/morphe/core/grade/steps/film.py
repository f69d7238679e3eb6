"""Film-like: into a film log, then a print, as one unit with one strength."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.moments import Number, held
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep
from morphe.core.grade.steps.lut import film_log
from morphe.core.grade.table import SHELF
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.transfer import decode_bt709, encode_bt1886

__all__ = ["Film"]

GREY = 0.18
SHOWN_GREY = 0.1173  # display light of grey in ordinary video: its BT.709 code through BT.1886
# Light of the print by warmth, as gains of R, G, B on the light of the scene.
COOL, WARM = np.array([0.955, 1.0, 1.075]), np.array([1.045, 1.0, 0.92])


@dataclass(frozen=True, slots=True, kw_only=True)
class Film(ColourStep):
    """A print-like curve, y = (1 + A w^-c) / (1 + A (x / g)^-c) per channel, or a print LUT of the person's.

    Mixed by its own strength with the picture as it came in, both as ordinary video, so that less of it never
    gives a flat picture. w is white over grey, A holds both where they are; `warmth` runs from -100 (cool) to
    100 (warm).
    """

    key: ClassVar[str] = "film"
    label: ClassVar[str] = "Film-like"
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=0, high=100, unit="%", label="Film-like", up="", down="", nudge=2),
        "contrast": Param(low=1.3, high=2, neutral=1.5, label="Contrast of the print", up="harder",
                          down="softer", nudge=0.02, natural=(1.35, 1.7)),
        "warmth": Param(low=-100, high=100, label="Warmth", up="warmer", down="cooler", nudge=10),
    }  # fmt: skip

    amount: Number = 0.0
    contrast: Number = 1.5
    warmth: Number = 0.0
    table: str = ""
    name: str = ""

    def __post_init__(self) -> None:
        ColourStep.__post_init__(self)
        if self.table:
            SHELF.check(self.table, self.name)

    @property
    def is_neutral(self) -> bool:
        return self.params["amount"].is_neutral(self.amount)

    def apply(self, picture: Encoded) -> Encoded:
        inner = np.clip(picture, 0, 1)
        printed = self._printed(decode_bt709(inner))
        mixed = picture + np.float32(self.number("amount") / 100) * (printed - inner)
        return np.asarray(mixed, np.float32)

    def _printed(self, light: Float) -> Encoded:
        warmth = held(self.warmth, 0.0) / 100
        gains = 1 + abs(warmth) * ((WARM if warmth > 0 else COOL) - 1)
        lit = np.maximum(light * gains, 0)
        if self.table:
            return SHELF.get(self.table, self.name).apply(np.asarray(film_log.encode(lit), np.float32))
        return np.asarray(encode_bt1886(_print(lit, held(self.contrast, 0.0))), np.float32)


def _print(light: Float, contrast: float) -> Float:
    """Display light of a print: white stays white, grey stays grey, the shoulder lies between them."""
    at_white = np.power(1 / GREY, -contrast)
    bend = (1 - SHOWN_GREY) / (SHOWN_GREY - at_white)
    away = np.power(np.maximum(light, 1e-6) / GREY, -contrast)
    return np.asarray((1 + bend * at_white) / (1 + bend * away))
