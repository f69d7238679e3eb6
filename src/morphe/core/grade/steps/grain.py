"""Grain: fine noise as film has it, most in the middle tones; it also hides bands."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

import cv2
import numpy as np

from morphe.core.bands import over_rows
from morphe.core.grade.moments import Number, held
from morphe.core.grade.param import Param
from morphe.core.grade.step import Frame, FrameStep, InHdr
from morphe.core.signal.arrays import Plane

__all__ = ["Grain"]

TILE = 1024  # pixels a side, drawn once and laid elsewhere in every frame
WIDTH_OF_SPREAD = 2.355  # full width at half maximum of a Gaussian, in its spreads
FINEST = 1.0  # pixels: finer grain is what one pixel has
LUMA, BLUE, RED = 0, 1, 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Grain(FrameStep):
    """Add Gaussian noise of mean zero; its spread in the middle tones is `amount` percent of the signal.

    a = amount * sqrt(4 V (1 - V)) * (0.6 + 0.4 (1 - V)); grains are `size` thousandths of the height wide.
    Each frame has its own, drawn by its number.
    """

    key: ClassVar[str] = "grain"
    label: ClassVar[str] = "Grain"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(low=0, high=8, unit="%", label="Grain", up="", down="", nudge=0.1,
                        natural=(0, 3)),
        "size": Param(low=0.8, high=4, neutral=1.5, unit="‰ of height", label="Size", up="coarser",
                      down="finer", nudge=0.1, natural=(1, 2)),
        "colour": Param(low=0, high=60, unit="%", label="Colour", up="", down="", natural=(0, 30)),
    }  # fmt: skip
    shader: ClassVar[str] = """
        vec3 here = source(at);
        float level = clamp(dot(here, vec3(0.2126, 0.7152, 0.0722)), 0.0, 1.0);
        float borne = amount / 100.0 * sqrt(4.0 * level * (1.0 - level)) * (0.6 + 0.4 * (1.0 - level));
        vec2 grain = max(size / 1000.0, pixel.y) * vec2(pixel.x / pixel.y, 1.0), cell = floor(at / grain);
        float b = colour / 100.0 * chance(cell, moment + 1.7);
        float r = colour / 100.0 * chance(cell, moment + 4.3);
        return here + borne * (chance(cell, moment) + vec3(1.5748 * r, -0.1873 * b - 0.4681 * r, 1.8556 * b));
    """

    amount: Number = 0.0
    size: Number = 1.5
    colour: Number = 0.0

    @property
    def is_neutral(self) -> bool:
        return self.params["amount"].is_neutral(self.amount)

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        amount, colour = self.number("amount") / 100, self.number("colour") / 100
        size = held(self.size, 0.0) / 1000
        luma = _grained(frame.luma, frame.luma, size, amount, seed, LUMA)
        if not colour:
            return Frame(luma=luma, chroma=frame.chroma)
        tall, wide = frame.height // frame.chroma.shape[0], frame.width // frame.chroma.shape[1]
        level = np.ascontiguousarray(frame.luma[::tall, ::wide])
        planes = [
            _grained(np.ascontiguousarray(frame.chroma[..., n - 1]), level, size, amount * colour, seed, n)
            for n in (BLUE, RED)
        ]
        return Frame(luma=luma, chroma=np.stack(planes, axis=-1))


def _grained(plane: Plane, level: Plane, size: float, amount: float, seed: int, which: int) -> Plane:
    from morphe.core.grade.kernels import grained_rows  # compiled: late, as few grades need it

    tile = _tile(round(max(size * plane.shape[0], FINEST), 2))
    down, right = np.random.default_rng((seed, which)).integers(0, TILE, 2)
    out = np.empty_like(plane)
    numbers = (int(down), int(right), np.float32(amount))
    over_rows(len(plane), lambda a, b: grained_rows(a, b, plane, level, tile, *numbers, out))
    return out


@lru_cache(maxsize=4)
def _tile(pixels: float) -> Plane:
    """Noise (TILE, TILE) of unit spread that goes on at its edges, band-limited to grains of a width."""
    noise = np.random.default_rng(7).standard_normal((TILE, TILE)).astype(np.float32)
    sigma = pixels / WIDTH_OF_SPREAD
    edge = int(np.ceil(4 * sigma)) + 1
    soft = cv2.GaussianBlur(np.pad(noise, edge, mode="wrap"), (0, 0), sigma)[edge:-edge, edge:-edge]
    return np.ascontiguousarray((soft - soft.mean()) / soft.std(), np.float32)
