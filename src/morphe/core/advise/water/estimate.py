"""What water did to a clip, judged from its pictures and from what the person knows: the gains that give the
near subject its colour back, the veil before it, and the colour of far water.

Small networks answer from the traits of `water_traits`. They were taught on photographs put under simulated
water (`bench.waters`), by how near the restored picture comes to the photograph; `bench.teach_water` does it
again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

from morphe.core.advise.networks import Networks, read_taught
from morphe.core.advise.water.traits import look_at_water
from morphe.core.grade.restore import CHANNEL_LIMIT
from morphe.core.signal.arrays import Float, Linear
from morphe.core.water.hints import WaterHints

__all__ = ["ANSWERS", "DARK_PCT", "GREY", "TAUGHT", "WaterEstimate", "estimate_water"]

TAUGHT = Path(__file__).with_suffix(".npz")
GREY = 0.18  # of light: where the mean of a picture lies before the networks have their say
DARK_PCT = 1  # the veil is at most as bright as so many percent of the pixels are dark
LEAST = 2.0**-10
NARROWEST = 0.25  # stops about the colour of water
# What the networks answer: stops about the grey-world gains (3), share of the dark end that is veil (3),
# colour of far water about the mean, in stops of R/G and B/G (2), how much of it is kept, vividness, spread.
ANSWERS = 11


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterEstimate:
    """Gains in stops and veil in light (R, G, B); the colour of far water as log2 of R/G and B/G, with its
    spread in stops; the share of it that is kept, 0..1; by how much colours are made more vivid."""

    gains: tuple[float, float, float]
    veil: tuple[float, float, float]
    colour: tuple[float, float]
    spread: float
    background: float
    vivid: float


def estimate_water(frames: Sequence[Linear], hints: WaterHints | None = None) -> WaterEstimate:
    """Judge the water from frames (H, W, 3) in scene-linear light, over the whole clip."""
    told = (hints or WaterHints()).as_traits()
    traits = np.concatenate([look_at_water(frames), told])
    pixels = np.concatenate([f.reshape(-1, 3) for f in frames])
    mean = np.maximum(pixels.mean(axis=0), 1e-4)
    dark = np.maximum(np.percentile(pixels, DARK_PCT, axis=0), 0)
    said = _taught().answers(traits).mean(axis=0)
    return _read_off(said, mean, dark)


def _read_off(said: Float, mean: Float, dark: Float) -> WaterEstimate:
    veil = np.clip(_share(said[3:6]) * dark, 0, 1)
    gains = np.clip(said[:3] + np.log2(GREY / np.maximum(mean - veil, LEAST)), -CHANNEL_LIMIT, CHANNEL_LIMIT)
    stops = np.log2(mean + LEAST)
    return WaterEstimate(
        gains=_three(gains, 4),
        veil=_three(veil, 6),
        colour=(float(stops[0] - stops[1] + said[6]), float(stops[2] - stops[1] + said[7])),
        spread=float(NARROWEST + np.log1p(np.exp(said[10]))),
        background=float(_share(said[8])),
        vivid=float(np.exp(said[9])),
    )


def _three(values: Float, digits: int) -> tuple[float, float, float]:
    red, green, blue = (round(float(v), digits) for v in values)
    return red, green, blue


def _share(values: Float) -> Float:
    return np.asarray(1 / (1 + np.exp(-values)))


@lru_cache(maxsize=1)
def _taught() -> Networks:
    return Networks.of(read_taught(TAUGHT), "water")
