"""Hue families: where the usual colours lie on the circle of Oklab hues, and how far each reaches.

Between two neighbours one fades as the other comes, so that the centre of a family belongs to it alone.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from morphe.core.registry import Registry
from morphe.core.signal.arrays import Float

__all__ = ["FAMILIES", "Hue", "coloured", "family_of", "smoothstep", "within_reach"]

ALONE = 0.2  # of the way to its neighbour: so far a family is all its own, and from there the neighbour is
COLOURED = (0.02, 0.05)  # Oklab chroma: below a colour is neutral, above it has its hue


@dataclass(frozen=True, slots=True, kw_only=True)
class Hue:
    """A family by its centre in degrees of Oklab hue, and how far it reaches below and above."""

    key: str
    label: str
    usually: str  # what it mostly is
    at: float
    below: float
    above: float


CENTRES = (
    ("reds", "Reds", "brick, signs, fruit", 25.0),
    ("oranges", "Skin, sand, wood", "skin, sand, wood", 55.0),
    ("yellows", "Yellows", "dry grass, lamps", 92.0),
    ("greens", "Foliage", "leaves, grass, weed", 128.0),
    ("teals", "Teal", "shallow water, paint", 185.0),
    ("blues", "Water and sky", "sky, water, denim", 250.0),
    ("violets", "Violet", "dusk, flowers, lamps", 305.0),
    ("pinks", "Pink", "flowers, lips", 350.0),
)


def smoothstep(low: float, high: float, values: Float) -> Float:
    """0 below, 1 above, with level ends between."""
    share = np.clip((values - low) / (high - low), 0, 1)
    return np.asarray(share * share * (3 - 2 * share))


def _families() -> Registry[Hue]:
    found: Registry[Hue] = Registry("hue family")
    around = (CENTRES[-1][3] - 360, *(centre[3] for centre in CENTRES), CENTRES[0][3] + 360)
    gaps = [high - low for low, high in pairwise(around)]
    for number, (key, label, usually, at) in enumerate(CENTRES):
        below, above = ((1 - ALONE) * gap for gap in (gaps[number], gaps[number + 1]))
        found.register(key)(Hue(key=key, label=label, usually=usually, at=at, below=below, above=above))
    return found


FAMILIES = _families()
PLATEAU = ALONE / (1 - ALONE)  # of its reach: so far it is full


def within_reach(hues: Float, at: float, below: float, above: float) -> Float:
    """How much hues (...,) in degrees belong to what lies about `at`: 1 near it, 0 beyond its reach."""
    away = (hues - at + 180) % 360 - 180
    share = np.where(away < 0, -away / below, away / above)
    return 1 - smoothstep(PLATEAU, 1.0, share)


def coloured(chroma: Float) -> Float:
    """How much a colour of an Oklab chroma (...,) has a hue at all, 0..1."""
    return smoothstep(*COLOURED, chroma)


def family_of(hue: float) -> Hue:
    """The family that a hue in degrees belongs to most."""
    return max(FAMILIES.values(), key=lambda f: float(within_reach(np.array(hue), f.at, f.below, f.above)))
