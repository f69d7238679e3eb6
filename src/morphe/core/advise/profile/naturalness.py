"""How natural a picture looks in numbers: a broad prior over tones and colour of finished pictures.

The figures describe ordinary, finished BT.709 pictures of many kinds, with generous spread, so that
they can weigh explanations of a clip against each other without pulling every scene to one mean.
"""

from __future__ import annotations

import numpy as np

from morphe.core.measure.readings import luma_of, oklab_of
from morphe.core.signal.arrays import Encoded, Float, Plane

__all__ = [
    "CLIPPED",
    "bell",
    "bright_likelihood",
    "chroma_likelihood",
    "clipped_likelihood",
    "median_chroma",
    "tone_likelihood",
    "tone_percentiles",
]

CLIPPED = 0.985  # share of white from which a channel counts as clipped

# Read off 72 photographs of landscapes, streets, rooms, people, plants and nights, in percent of luma.
LUMA_PERCENTILES = (2, 10, 25, 50, 75, 90, 98)
MEAN = np.array([13.6, 21.0, 29.6, 43.2, 58.5, 71.6, 84.2])
SPREAD = np.array([11.4, 12.9, 13.3, 13.3, 14.3, 14.3, 12.9])
# Correlation of neighbouring percentiles; it falls by this factor for every one further apart.
TOGETHER = 0.8
DEGREES = 6.0  # of freedom: rare pictures lie far from the mean
TRUST = 0.75  # percentiles of one picture say less than seven independent readings would
TOP = 115.0  # lights far above white are not told apart


# Share of pixels with a clipped channel, as log(share + .003), by how far the picture is overexposed.
OVER_STOPS = (-0.5, 0.0, 0.25, 0.5, 1.0, 1.5, 2.0, 2.5)
CLIPPED_MEAN = (-5.7, -4.4, -3.5, -2.7, -1.6, -1.0, -0.67, -0.48)
CLIPPED_SPREAD = (0.7, 1.4, 1.5, 1.3, 1.0, 0.8, 0.66, 0.56)


def tone_percentiles(pixels: Encoded) -> Float:
    """Percentiles of luma (7,) of pixels (n, 3), 0..1."""
    return np.percentile(luma_of(pixels), LUMA_PERCENTILES)


def tone_likelihood(percentiles: Float, known: Plane) -> Float:
    """Log of how likely finished pictures have these luma percentiles (..., 7) in percent; Student's t.

    `known` (7,) marks those that can be read: where the camera clipped, a percentile says nothing.
    """
    places = np.flatnonzero(known)
    if not places.size:
        return np.zeros(percentiles.shape[:-1])
    apart = np.abs(np.subtract.outer(places, places))
    covariance = np.outer(SPREAD[places], SPREAD[places]) * TOGETHER**apart
    away = np.minimum(percentiles[..., places], TOP) - MEAN[places]
    squared = np.einsum("...i,ij,...j->...", away, np.linalg.inv(covariance), away)
    shape = 0.5 * (DEGREES + places.size)
    log_volume = float(np.linalg.slogdet(covariance)[1])
    return TRUST * (-shape * np.log1p(squared / DEGREES) - 0.5 * log_volume)


def clipped_likelihood(share: float, over_stops: Float) -> Float:
    """Log of how likely this share of clipped pixels is in a picture so many stops overexposed."""
    mean = np.interp(over_stops, OVER_STOPS, CLIPPED_MEAN)
    spread = np.interp(over_stops, OVER_STOPS, CLIPPED_SPREAD)
    away = (np.log(share + 0.003) - mean) / spread
    return np.log(np.exp(-0.5 * away**2) / spread + 0.02)


def bell(value: Float, mean: float, below: float, above: float) -> Float:
    """Log of a bell with its own width to either side of the mean, up to a constant."""
    v = np.asarray(value)
    width = np.where(v < mean, below, above)
    return -0.5 * ((v - mean) / width) ** 2 - float(np.log((below + above) / 2))


def bright_likelihood(percent: Float) -> Float:
    """Log of how likely the brightest tones of a finished picture lie there: often exactly at white."""
    at_white = 0.25 / 1.9 * np.exp(-0.5 * ((percent - 99.8) / 1.5) ** 2)
    return np.log(at_white + 0.75 * np.exp(bell(np.clip(percent, 0, 130), 96, 9, 14)))


def median_chroma(pixels: Encoded) -> float:
    """Median Oklab chroma of pixels (n, 3)."""
    lab = oklab_of(pixels)
    return float(np.median(np.hypot(lab[:, 1], lab[:, 2])))


def chroma_likelihood(chroma: float) -> float:
    """Log of how likely a finished picture has this median chroma."""
    return float(bell(np.log(np.maximum(chroma, 1e-3)), -2.9, 0.9, 0.9))
