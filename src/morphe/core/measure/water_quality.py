"""Two indices of how an underwater picture looks, as information: both reward colour beyond what is true.

UCIQE after Yang and Sowmya 2015, UIQM after Panetta, Gao and Agaian 2016. Nothing is ever tuned by them.
"""

from __future__ import annotations

import cv2
import numpy as np

from morphe.core.signal.arrays import Encoded, Float, Plane
from morphe.core.signal.perception import encoded_to_lab

__all__ = ["uciqe", "uiqm"]

TAIL = 0.01  # share of pixels whose mean is a bright or dark end
TRIM = 0.1  # share left out at each end of a mean of chroma
BLOCK = 8
LUMA = np.array([0.299, 0.587, 0.114])
LEAST = 1e-3


def uciqe(picture: Encoded) -> float:
    """Spread of chroma, contrast of lightness and mean saturation of an encoded picture (H, W, 3)."""
    lab = encoded_to_lab(np.clip(picture, 0, 1)).reshape(-1, 3) / 100
    light, chroma = lab[:, 0], np.hypot(lab[:, 1], lab[:, 2])
    count = max(1, round(TAIL * len(light)))
    ordered = np.sort(light)
    contrast = ordered[-count:].mean() - ordered[:count].mean()
    saturation = chroma / np.maximum(np.hypot(chroma, light), LEAST)
    return float(0.4680 * chroma.std() + 0.2745 * contrast + 0.2576 * saturation.mean())


def uiqm(picture: Encoded) -> float:
    """Colourfulness, sharpness and contrast of an encoded picture (H, W, 3)."""
    codes = np.clip(picture, 0, 1).astype(np.float64) * 255
    return 0.0282 * _colourfulness(codes) + 0.2953 * _sharpness(codes) + 3.5753 * _contrast(codes @ LUMA)


def _trimmed(values: Float) -> tuple[float, float]:
    """Mean without the ends, and the variance about it."""
    ordered = np.sort(values, axis=None)
    cut = int(TRIM * len(ordered))
    mean = float(ordered[cut : len(ordered) - cut].mean())
    return mean, float(((values - mean) ** 2).mean())


def _colourfulness(codes: Float) -> float:
    means, variances = zip(
        _trimmed(codes[..., 0] - codes[..., 1]),
        _trimmed((codes[..., 0] + codes[..., 1]) / 2 - codes[..., 2]),
        strict=True,
    )
    return float(-0.0268 * np.hypot(*means) + 0.1586 * np.sqrt(sum(variances)))


def _blocks(plane: Plane) -> Float:
    """A plane cut into blocks (blocks, pixels); what is left over at the edges is left out."""
    high, wide = (n // BLOCK * BLOCK for n in plane.shape)
    cut = plane[:high, :wide].reshape(high // BLOCK, BLOCK, wide // BLOCK, BLOCK)
    return np.asarray(cut.transpose(0, 2, 1, 3).reshape(-1, BLOCK * BLOCK))


def _sharpness(codes: Float) -> float:
    """EME of the edges of every channel, weighed as in luma."""
    found = 0.0
    for channel, weight in enumerate(LUMA):
        plane = codes[..., channel]
        edges = np.hypot(cv2.Sobel(plane, cv2.CV_64F, 1, 0), cv2.Sobel(plane, cv2.CV_64F, 0, 1)) * plane / 255
        blocks = _blocks(edges)
        low, high = np.maximum(blocks.min(axis=1), 1), np.maximum(blocks.max(axis=1), 1)
        found += weight * float(2 * np.log(high / low).mean())
    return found


def _contrast(luma: Plane) -> float:
    """logAMEE of the luma."""
    blocks = _blocks(luma)
    low, high = blocks.min(axis=1), blocks.max(axis=1)
    ratio = (high - low) / np.maximum(high + low, LEAST)
    told = ratio[ratio > 0]
    return float(-(told * np.log(told)).sum() / len(ratio)) if len(told) else 0.0
