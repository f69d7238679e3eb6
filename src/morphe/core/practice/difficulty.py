"""How hard an exercise is: how far what is to be told lies from what is right, as eyes and scopes tell it."""

from __future__ import annotations

import math

import numpy as np

from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = ["apart", "chance_wrong", "traits"]

QUANTILES = (0.02, 0.25, 0.5, 0.75, 0.98)
TONES = ((0.0, 0.33), (0.33, 0.66), (0.66, 1.01))
LUMA_STEP, CHROMA_STEP, SPREAD_STEP = 0.02, 0.008, 0.012  # that an eye on a scope just tells
EASY = 6.0  # such steps at which only a third of those who guess at nothing are wrong
STEP = 3


def traits(picture: Encoded) -> Float:
    """What scopes tell of a picture (..., 3), in steps that are just told: tones, lean by tone, amount of
    colour."""
    signal = rgb_to_ycbcr(np.asarray(picture[::STEP, ::STEP], np.float32)).reshape(-1, 3)
    luma, chroma = signal[:, 0], signal[:, 1:]
    found = list(np.quantile(luma, QUANTILES) / LUMA_STEP)
    for low, high in TONES:
        part = chroma[(luma >= low) & (luma < high)]
        share = min(len(part) / (0.05 * len(luma)), 1.0)
        found += list(share * (part.mean(axis=0) if len(part) else np.zeros(2)) / CHROMA_STEP)
    found.append(float(np.hypot(chroma[:, 0], chroma[:, 1]).mean()) / SPREAD_STEP)
    return np.asarray(found, np.float64)


def apart(one: Encoded, other: Encoded) -> float:
    """How many steps lie between two pictures."""
    return float(np.linalg.norm(traits(one) - traits(other)))


def chance_wrong(distance: float, choices: int = 4) -> float:
    """How often somebody who has begun to learn is likely to be wrong.

    Whoever sees nothing guesses; the further a picture lies from what is right, the fewer do.
    """
    return (1 - 1 / max(choices, 2)) * math.exp(-max(distance, 0.0) / EASY)
