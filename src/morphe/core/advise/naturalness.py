"""How natural a picture looks in numbers: a broad prior over tones and colour of finished pictures.

The figures describe ordinary, finished BT.709 pictures of many kinds, with generous spread, so that
they can weigh explanations of a clip against each other without pulling every scene to one mean.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from morphe.core.measure.readings import luma_of, oklab_of
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.transfer import decode_bt709, encode_bt709

__all__ = ["Tones", "bell", "log_likelihood", "tones_of"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Tones:
    """Summary of a picture, each (...,) in percent but for chroma."""

    low: Float  # 5th percentile of luma
    middle: Float  # median luma
    high: Float  # 95th percentile of luma
    bright: Float  # 99.7th percentile of max(R,G,B)
    chroma: Float  # median Oklab chroma

    def exposed(self, stops: Float) -> Tones:
        """The tones after an exposure change, (n,) for `stops` (n,); chroma is held."""
        gain = np.exp2(stops)

        def move(level: Float) -> Float:
            return 100 * encode_bt709(decode_bt709(np.asarray(level) / 100) * gain)

        return Tones(
            low=move(self.low),
            middle=move(self.middle),
            high=move(self.high),
            bright=move(self.bright),
            chroma=self.chroma,
        )


def tones_of(pixels: Encoded) -> Tones:
    """Summarise finished pixels (n, 3)."""
    low, middle, high = np.percentile(luma_of(pixels), [5, 50, 95]) * 100
    lab = oklab_of(pixels)
    return Tones(
        low=low,
        middle=middle,
        high=high,
        bright=np.percentile(pixels.max(axis=1), 99.7) * 100,
        chroma=np.median(np.hypot(lab[:, 1], lab[:, 2])),
    )


def bell(value: Float, mean: float, below: float, above: float) -> Float:
    """Log of a bell with its own width to either side of the mean, up to a constant."""
    v = np.asarray(value)
    width = np.where(v < mean, below, above)
    return -0.5 * ((v - mean) / width) ** 2 - float(np.log((below + above) / 2))


def log_likelihood(tones: Tones) -> Float:
    """Weigh how likely a finished picture has these tones (natural log, up to a constant)."""
    return (
        bell(np.minimum(tones.middle, 130), 42, 15, 15)
        + bell(np.minimum(tones.high, 130) - tones.low, 66, 17, 14)
        + bell(np.minimum(tones.bright, 130), 96, 9, 14)
        + bell(np.log(np.maximum(tones.chroma, 1e-3)), float(np.log(0.035)), 0.7, 0.8)
    )
