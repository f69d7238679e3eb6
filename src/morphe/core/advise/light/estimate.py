"""The colour of the light in a clip, as a distribution over lights that could have lit it.

Histograms of log-chroma vote for every light through small taught filters, to which a map of how often lights
occur is added (convolutional colour constancy, Barron 2015); `python -m bench.teach` teaches both on
photographs filmed under any light, with the photographs' own balance as truth: warmth that was meant stays.
Taken is the light from which the distribution lies least far, so that a wide one asks for little.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

from morphe.core.advise.light.votes import BINS, CENTRES, histograms
from morphe.core.advise.networks import read_taught
from morphe.core.signal.arrays import Float, Linear
from morphe.core.signal.light import light_rgb, light_shift

__all__ = ["TAUGHT", "LightEstimate", "estimate_light", "nearest", "posterior_of", "votes_of"]

TAUGHT = Path(__file__).with_suffix(".npz")
ROOT_WEIGHT = 0.3  # of the root of a histogram, in which rare colours count for more
ONE_COLOUR_STOPS = 0.15  # deviation
STEPS = 30  # towards the geometric median


@dataclass(frozen=True, slots=True, kw_only=True)
class LightEstimate:
    """Light found: mired warmer than neutral, Duv greener, and how sure that is.

    `before` and `after` are the distances from the true light to be expected if nothing is done and if this
    light is taken out, in stops of (R/G, B/G); `sure` is the share of the distance that goes, 0..1.
    """

    warmth: float
    tint: float
    before: float
    after: float

    @property
    def distance(self) -> float:
        """How far the light lies from neutral, in stops of (R/G, B/G)."""
        return float(np.hypot(*np.log2(light_rgb(self.warmth, self.tint)[[0, 2]])))

    @property
    def sure(self) -> float:
        return 1 - self.after / self.before if self.before > 0 else 0.0


NOTHING = LightEstimate(warmth=0.0, tint=0.0, before=0.0, after=0.0)


def votes_of(histogram: Float) -> Float:
    """What the filters look at: histograms (..., CHANNELS, BINS, BINS) beside their roots."""
    return np.concatenate([histogram, ROOT_WEIGHT * np.sqrt(histogram)], axis=-3)


def posterior_of(votes: Float, filters: Float, usual: Float) -> Float:
    """Probabilities (BINS, BINS) of lights by log2 (R/G, B/G)."""
    moved = (np.fft.rfft2(votes) * np.conj(np.fft.rfft2(filters))).sum(axis=-3)
    score = np.fft.irfft2(moved, s=(BINS, BINS)) + usual
    mass = np.exp(score - score.max())
    return np.asarray(mass / mass.sum())


def nearest(posterior: Float) -> tuple[Float, float, float]:
    """The geometric median of a distribution of lights, and the mean distances from no light and from it."""
    places = np.stack(np.meshgrid(CENTRES, CENTRES, indexing="ij"), axis=-1).reshape(-1, 2)
    mass = posterior.ravel()
    at = mass @ places
    for _ in range(STEPS):
        weight = mass / np.maximum(np.hypot(*(places - at).T), 0.02)
        at = weight @ places / weight.sum()
    return at, float(mass @ np.hypot(*places.T)), float(mass @ np.hypot(*(places - at).T))


def estimate_light(frames: Sequence[Linear]) -> LightEstimate:
    """Estimate the light of scene-linear frames (H, W, 3), about 256 px wide."""
    counted = histograms(frames)
    if not counted.any() or _is_of_one_colour(counted):
        return NOTHING
    at, before, after = nearest(posterior_of(votes_of(counted), *_taught()))
    warmth, tint = light_shift(np.exp2(np.array([at[0], 0.0, at[1]])))
    return LightEstimate(warmth=warmth, tint=tint, before=before, after=after)


def _is_of_one_colour(histogram: Float) -> bool:
    """Whether one colour fills the frame: sea, sky or leaves then pass for grey under a coloured light."""
    total = histogram[:-1].mean(axis=0)
    variance = [float(side @ CENTRES**2) - float(side @ CENTRES) ** 2 for side in _sides(total)]
    return max(variance) < ONE_COLOUR_STOPS**2


def _sides(total: Float) -> tuple[Float, Float]:
    total = total / total.sum()
    return total.sum(axis=1), total.sum(axis=0)


@lru_cache(maxsize=1)
def _taught() -> tuple[Float, Float]:
    arrays = read_taught(TAUGHT)
    return arrays["filters"], arrays["usual"]
