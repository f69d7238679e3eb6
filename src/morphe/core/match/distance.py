"""How far apart the colours of pictures are, whatever they show: sliced Wasserstein distance in Oklab.

64 fixed directions on a golden spiral, Oklab times 100 (Bonneel et al. 2015): below 1 nobody tells them
apart, 1 to 2 is close, 2 to 4 visible, more is different.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.perception import linear_to_oklab
from morphe.core.signal.transfer import decode_bt1886

__all__ = ["cloud_of", "directions", "distance", "sample_of", "tones", "word_of"]

DIRECTIONS, QUANTILES = 64, 256
PIXELS = 24_576  # of all pictures together, looked at for a distance
WORDS = ((1.0, "alike"), (2.0, "close"), (4.0, "apart"))
FAR = "far apart"


def directions(count: int = DIRECTIONS) -> Float:
    """Unit vectors (count, 3) spread evenly over half a sphere."""
    i = np.arange(count)
    z, around = (i + 0.5) / count, i * np.pi * (3 - np.sqrt(5))
    r = np.sqrt(1 - z * z)
    return np.stack([r * np.cos(around), r * np.sin(around), z], axis=-1)


def sample_of(pictures: Sequence[Encoded], pixels: int = PIXELS) -> Encoded:
    """About so many pixels (n, 3) of pictures (H, W, 3), evenly from each; always the same ones."""
    each = max(pixels // len(pictures), 1)
    taken = []
    for picture in pictures:
        flat = picture.reshape(-1, 3)
        taken.append(flat[np.linspace(0, len(flat) - 1, min(each, len(flat))).astype(int)])
    return np.concatenate(taken)


def cloud_of(encoded: Encoded) -> Float:
    """Colours (n, 3) as a display shows them, in Oklab times 100."""
    return np.asarray(100 * linear_to_oklab(decode_bt1886(np.clip(encoded, 0, 1))))


def tones(cloud: Float, along: Float, count: int = QUANTILES) -> Float:
    """Colours (n, 3) seen along directions (d, 3): their sorted values (d, count)."""
    seen = np.sort(along @ cloud.T, axis=1)
    places = (np.arange(count) + 0.5) / count * (seen.shape[1] - 1)
    low = places.astype(int)
    high = np.minimum(low + 1, seen.shape[1] - 1)
    return np.asarray(seen[:, low] + (places - low) * (seen[:, high] - seen[:, low]))


def distance(one: Sequence[Encoded], other: Sequence[Encoded]) -> float:
    """Between the colours of two sets of pictures (H, W, 3)."""
    along = directions()
    first, second = (tones(cloud_of(sample_of(pictures)), along) for pictures in (one, other))
    return float(np.abs(first - second).mean())


def word_of(apart: float) -> str:
    """A distance as a person says it."""
    return next((word for most, word in WORDS if apart < most), FAR)
