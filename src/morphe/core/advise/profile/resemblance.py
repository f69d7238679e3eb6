"""How much a picture resembles those that each profile writes, as learned from made-up footage.

A few small networks look at the codes of a clip: how luma, the channels' ends and colour are spread, and how
they go together. They were taught on photographs filmed by the stand-in cameras with every profile, exposure,
balance and contrast of scene; `python -m bench.teach` does it again and says how they fare.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from pathlib import Path

import numpy as np

from morphe.core.advise.networks import Networks, read_taught
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.ycbcr import Matrix, rgb_to_ycbcr, ycbcr_to_rgb

__all__ = ["CLASSES", "TAUGHT", "judged", "resemblance", "traits_of"]

# Curves of each family that nobody named are classes of their own.
CLASSES = (
    "std-709", "vivid-a", "flat-a", "log-mild", "log-lifted", "log-wide", "fitted", "fitted-flat",
    "hlg", "pq",
)  # fmt: skip
TAUGHT = Path(__file__).with_suffix(".npz")

LOOKED_AT = 16_000  # pixels
ENDS = (
    .001, .005, .01, .02, .05, .1, .2, .3, .4, .5, .6, .7, .8, .9, .95, .98, .99, .995, .999,
)  # fmt: skip
COLOURS = (0.003, 0.02, 0.1, 0.25, 0.5, 0.75, 0.9, 0.98, 0.997)
BANDS, BINS = 5, 24
LEAST = 0.01  # added to every likelihood: the networks are never quite sure


def traits_of(pixels: Encoded, read_by: Matrix = Matrix.BT709) -> Float:
    """Numbers (n,) that describe how encoded pixels (n, 3), read by a matrix, use their codes.

    They are read off the codes as the file holds them: which matrix they were read by makes no difference.
    """
    few = pixels[:: max(1, len(pixels) // LOOKED_AT)]
    ycc = rgb_to_ycbcr(few, read_by)
    rgb = np.ascontiguousarray(ycbcr_to_rgb(ycc, Matrix.BT709).T)
    luma, chroma = ycc[:, 0], np.hypot(ycc[:, 1], ycc[:, 2])
    parts = [
        *(np.quantile(level, ENDS) for level in (luma, rgb.min(axis=0), rgb.max(axis=0))),
        *(np.quantile(colour, COLOURS) for colour in (ycc[:, 1], ycc[:, 2], chroma)),
        _colour_by_tone(ycc, chroma),
        _going_together(ycc),
        np.histogram(luma, BINS, (0, 1))[0] / len(luma),
        np.quantile(rgb, COLOURS, axis=1).T.ravel(),
    ]
    return np.concatenate(parts)


def _colour_by_tone(ycc: Encoded, chroma: Float) -> Float:
    """Mean of both colour differences, mean and root mean square of chroma in bands of equal size."""
    ordered = np.argsort(ycc[:, 0])
    return np.concatenate(
        [
            [*ycc[band, 1:].mean(axis=0), chroma[band].mean(), np.sqrt((chroma[band] ** 2).mean())]
            for band in np.array_split(ordered, BANDS)
        ]
    )


def _going_together(ycc: Encoded) -> Float:
    """Correlations of luma and both colour differences; none where one of them stays the same."""
    spread = np.cov(ycc.T.astype(np.float64))
    deviation = np.sqrt(np.maximum(np.diag(spread), 1e-12))
    return np.asarray((spread / np.outer(deviation, deviation))[np.triu_indices(3, 1)])


def resemblance(traits: Float) -> Mapping[str, float]:
    """Likelihood of every class by the traits of a clip's codes alone, relative to the best."""
    return dict(zip(CLASSES, judged(traits, *_taught()), strict=True))


def judged(traits: Float, networks: Networks, shares: Float) -> Float:
    """Likelihoods of the classes (n,), relative to the best, for the traits of a clip."""
    said = networks.answers(traits)
    mass = np.exp(said - said.max(axis=1, keepdims=True))
    probabilities = (mass / mass.sum(axis=1, keepdims=True)).mean(axis=0)
    likelihood = probabilities / shares + LEAST
    return np.asarray(likelihood / likelihood.max())


@lru_cache(maxsize=1)
def _taught() -> tuple[Networks, Float]:
    arrays = read_taught(TAUGHT)
    return Networks.of(arrays, "kind"), arrays["shares"]
