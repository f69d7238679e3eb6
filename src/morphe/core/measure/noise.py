"""Noise of a picture where it is smooth (Immerkær 1996, with the median of the filtered picture)."""

from __future__ import annotations

import cv2
import numpy as np

from morphe.core.signal.arrays import Plane

__all__ = ["noise_of"]

KERNEL = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
GAIN = 0.6745 * 6  # median of |N(0, 6 sigma)|
QUIET_SHARE = 0.2  # blocks with the least gradient
BLOCK = 16


def noise_of(plane: Plane) -> float:
    """Standard deviation of the noise of a plane (H, W), in its own unit; codecs smooth it: at least that."""
    plane = np.asarray(plane, np.float32)
    if min(plane.shape) < 5:
        return 0.0
    filtered = np.abs(cv2.filter2D(plane, cv2.CV_32F, KERNEL))[1:-1, 1:-1]
    return float(np.median(filtered[_quiet(plane)])) / GAIN


def _quiet(plane: Plane) -> Plane:
    """Where the picture is smooth (H - 2, W - 2): the fifth of its blocks with the least gradient."""
    soft = cv2.blur(plane, (5, 5))
    slope = np.abs(np.diff(soft, axis=0))[:, 1:] + np.abs(np.diff(soft, axis=1))[1:]
    slope = slope[: plane.shape[0] - 2, : plane.shape[1] - 2]
    height, width = (n // BLOCK * BLOCK for n in slope.shape)
    if min(height, width) < 4 * BLOCK:
        return np.ones(slope.shape, bool)
    blocks = slope[:height, :width].reshape(height // BLOCK, BLOCK, width // BLOCK, BLOCK).mean(axis=(1, 3))
    calm = blocks <= np.quantile(blocks, QUIET_SHARE)
    mask = np.zeros(slope.shape, bool)
    mask[:height, :width] = np.repeat(np.repeat(calm, BLOCK, axis=0), BLOCK, axis=1)
    return mask
