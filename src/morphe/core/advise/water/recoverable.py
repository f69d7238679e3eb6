"""How much of the red that water took can honestly be brought back: what lies in codes enough, and above the
noise.

Rule: at least 12 codes a stop, and 4 deviations of noise above the veil; compressed colour at halved
resolution strays by about two codes of 8 bits.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from morphe.core.grade.convert import Convert
from morphe.core.grade.restore import NOTHING, SURE
from morphe.core.signal.arrays import Float, Linear, Plane
from morphe.core.signal.profiles import PROFILES
from morphe.core.water.hints import ceiling_of

__all__ = ["Recoverable", "noise_of_red", "recoverable", "share_trusted"]

STRAY = {8: 2.0, 10: 0.75}  # codes of 8 bits by which compressed colour strays
CODES_A_STOP = 12.0
DARKEST = 0.004  # of green light: darker, nobody misses the red
_STD = PROFILES.get("std-709")


@dataclass(frozen=True, slots=True, kw_only=True)
class Recoverable:
    """`share` of the red that is there, 0..1; `by_tone` the same in dark, middle and bright tones; `behind`
    how many stops red lies behind green; `codes` and `over_noise` of the middle tone's red."""

    share: float
    by_tone: tuple[float, float, float]
    behind: float
    codes: float
    over_noise: float

    @property
    def words(self) -> str:
        """What to expect."""
        if self.share >= 0.9:
            return "nearly all of the red can be brought back"
        if self.share < 0.1:
            return "next to no red is left here: what is added would be invented"
        return f"about {round(self.share, 1):.0%} of the red can be brought back; the rest would be invented"


def _bits(depth: int) -> int:
    return 8 if depth <= 8 else 10


def noise_of_red(convert: Convert, red_code: float, bit_depth: int) -> float:
    """Deviation of red in light, where the file holds it at `red_code` (0..1)."""
    stray = STRAY[_bits(bit_depth)] / 219
    levels = np.repeat(np.array([[red_code], [red_code + stray]], np.float32), 3, axis=1)
    light = _STD.decode(levels) if convert.is_neutral else convert.apply(levels)
    return float(np.clip(light[1, 0] - light[0, 0], 1e-5, 0.5))


def share_trusted(red: Plane, noise: float) -> Plane:
    """How far red above the veil is trusted, 0..1."""
    share = np.clip((red / max(noise, 1e-6) - NOTHING) / (SURE - NOTHING), 0, 1)
    return np.asarray(share * share * (3 - 2 * share))


def recoverable(
    light: Linear, veil: Float, gains: Float, *, noise: float, bit_depth: int
) -> Recoverable:  # fmt: skip
    """Judge pixels (n, 3) of scene-linear light before water is taken back.

    `veil` is light (3,), `gains` stops (3,) that the restoration wants, `noise` the deviation of red.
    """
    seen = light - np.asarray(veil, np.float32)
    there = seen[:, 1] > DARKEST
    some = seen[there] if there.any() else seen
    trusted = share_trusted(some[:, 0], noise)
    behind = float(gains[0] - gains[1])
    within = min(1.0, ceiling_of(bit_depth) / behind) if behind > 0 else 1.0
    order = np.argsort(some[:, 1])
    thirds = [float(trusted[part].mean()) * within for part in np.array_split(order, 3)]
    red = float(np.median(some[:, 0]))
    codes = 219 * float(np.diff(_STD.encode(np.maximum(np.array([red / 2, red]), 0)))[0])
    return Recoverable(
        share=float(trusted.mean()) * within, by_tone=(thirds[0], thirds[1], thirds[2]), behind=behind,
        codes=codes * (4 if bit_depth > 8 else 1), over_noise=red / max(noise, 1e-6),
    )  # fmt: skip
