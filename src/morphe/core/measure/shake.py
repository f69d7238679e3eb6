"""How a held camera trembles: what is left of its way once the slow, meant movement is taken off."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import cv2
import numpy as np

from morphe.core.measure.readings import luma_of
from morphe.core.signal.arrays import Encoded, Float

__all__ = ["shake_of"]

SLOW_S = 0.3  # deviation of the Gaussian that a meant movement survives
LEAST_FRAMES = 12


def shake_of(pictures: Sequence[Encoded], times_s: Float) -> float:
    """Root mean square of the tremble in percent of the picture's width; 0 for too few frames."""
    if len(pictures) < LEAST_FRAMES:
        return 0.0
    planes = [np.ascontiguousarray(luma_of(p), np.float32) for p in pictures]
    window = cv2.createHanningWindow(planes[0].shape[::-1], cv2.CV_32F)
    steps = [cv2.phaseCorrelate(one, two, window)[0] for one, two in pairwise(planes)]
    way = np.concatenate([np.zeros((1, 2)), np.cumsum(steps, axis=0)])
    spacing = float(np.median(np.diff(times_s)))
    inner = slice(LEAST_FRAMES // 4, -(LEAST_FRAMES // 4))  # at the ends a smoothed way bends
    left = (way - _slow(way, SLOW_S / spacing))[inner]
    return float(100 * np.sqrt((left**2).sum(axis=1).mean()) / planes[0].shape[1])


def _slow(way: np.ndarray, sigma: float) -> np.ndarray:
    """The way smoothed, going on at either end as it went."""
    reach = min(max(int(3 * sigma), 1), len(way) - 1)  # there is no more of it to go on with
    first, last = 2 * way[:1] - way[reach:0:-1], 2 * way[-1:] - way[-2 : -reach - 2 : -1]
    padded = np.concatenate([first, way, last])
    kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    kernel /= kernel.sum()
    margin = len(first)
    smooth = np.stack([np.convolve(padded[:, axis], kernel, "same") for axis in (0, 1)], axis=1)
    return smooth[margin : margin + len(way)]
