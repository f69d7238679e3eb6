"""What pictures show of the light's colour: histograms of log-chroma by brightness, and of edges.

A light of another colour moves all of a histogram by the same step, which makes them good to learn from.
Reference: Barron 2015 (convolutional colour constancy).
"""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

from morphe.core.signal.arrays import Float, Linear, highest, lowest
from morphe.core.signal.primaries import LUMINANCE_709

__all__ = ["BINS", "CENTRES", "CHANNELS", "STEP", "histograms"]

BINS, STEP = 32, 0.125  # of log2 ratios (R/G, B/G): two stops to either side
CENTRES = (np.arange(BINS) - BINS // 2) * STEP
BANDS = ((0.05, 0.4), (0.4, 0.8), (0.8, 0.97), (0.97, 1.0))  # shares of the usable pixels by luminance
CHANNELS = len(BANDS) + 1
CLIPPED, NOISE = 0.95, 0.004  # of light: no colour is told beyond these
LEAST = 200  # pixels


def histograms(frames: Sequence[Linear]) -> Float:
    """Shares (CHANNELS, BINS, BINS) of log2 (R/G, B/G) in linear frames (H, W, 3); zeros in the dark."""
    pixels = np.concatenate([f[_usable(f)] for f in frames])
    if len(pixels) < LEAST:
        return np.zeros((CHANNELS, BINS, BINS), np.float32)
    order = np.argsort(pixels @ LUMINANCE_709.astype(np.float32))
    parts = [pixels[order[int(a * len(order)) : max(int(b * len(order)), 1)]] for a, b in BANDS]
    return np.stack([_counted(p) for p in (*parts, np.concatenate([_edges(f) for f in frames]))])


def _usable(frame: Linear) -> Float:
    return np.asarray((highest(frame) < CLIPPED) & (lowest(frame) > NOISE))


def _counted(rgb: Float) -> Float:
    """Shares of pixels (n, 3), each spread over the four bins around it."""
    found = np.zeros((BINS, BINS), np.float32)
    if not len(rgb):
        return found
    place = np.log2(np.maximum(rgb[:, [0, 2]], 1e-6) / np.maximum(rgb[:, 1:2], 1e-6)) / STEP + BINS // 2
    place = np.clip(place, 0, BINS - 1.001)
    low = place.astype(int)
    rest = place - low
    for i in (0, 1):
        for j in (0, 1):
            weight = np.abs(1 - i - rest[:, 0]) * np.abs(1 - j - rest[:, 1])
            at = (low[:, 0] + i) * BINS + low[:, 1] + j
            found += np.bincount(at, weight, BINS * BINS).reshape(BINS, BINS).astype(np.float32)
    return found / len(rgb)


def _edges(frame: Linear) -> Float:
    """Differences (n, 3) across the stronger edges of a frame, all channels positive."""
    mask = cv2.erode(_usable(frame).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    soft = cv2.GaussianBlur(frame, (0, 0), 1.0)
    size = np.hypot(cv2.Sobel(soft, cv2.CV_32F, 1, 0), cv2.Sobel(soft, cv2.CV_32F, 0, 1))[mask]
    if not len(size):
        return size
    strength = size.min(axis=1)
    return np.asarray(size[strength >= max(float(np.quantile(strength, 0.7)), 1e-5)])
