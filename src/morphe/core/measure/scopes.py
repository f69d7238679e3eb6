"""Scopes as density arrays: waveform, parade, histogram and vectorscope.

They read the signal as delivered, unclipped, in narrow percent over -7..109 %. Densities are turned
into brightness by log(1 + n) / log(1 + n_ref) with n_ref the 99.5th percentile of occupied bins.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit

from morphe.core.signal.arrays import Encoded, Float, Plane
from morphe.core.signal.ycbcr import Matrix, rgb_to_ycbcr_matrix

__all__ = [
    "PERCENT_HIGH",
    "PERCENT_LOW",
    "VECTOR_REACH",
    "Scopes",
    "brightness",
    "scopes",
    "vector_angle_deg",
]

PERCENT_LOW, PERCENT_HIGH = -7.0, 109.0
VECTOR_REACH = 0.55  # the vectorscope spans this much Cb and Cr to either side


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Scopes:
    """Counts per bin. Row 0 is the top (109 %, +Cr); the last axis runs left to right (or -Cb to +Cb)."""

    luma: Plane  # (rows, columns)
    parade: Plane  # (3, rows, columns)
    histogram: Plane  # (4, bins): luma, r, g, b
    vector: Plane  # (size, size)


@njit(nogil=True, cache=True, fastmath=True)
def _count(picture, matrix, luma, parade, histogram, vector, reach):  # type: ignore[no-untyped-def]
    height, width = picture.shape[0], picture.shape[1]
    rows, columns = luma.shape
    bins, size = histogram.shape[1], vector.shape[0]
    row_scale, bin_scale = rows / 116.0, bins / 116.0
    for j in range(height):
        for i in range(width):
            column = i * columns // width
            y, cb, cr = 0.0, 0.0, 0.0
            for c in range(3):
                v = picture[j, i, c]
                y += matrix[0, c] * v
                cb += matrix[1, c] * v
                cr += matrix[2, c] * v
                p = 100.0 * v
                row = min(max(int((109.0 - p) * row_scale), 0), rows - 1)
                parade[c, row, column] += 1
                histogram[c + 1, min(max(int((p + 7.0) * bin_scale), 0), bins - 1)] += 1
            p = 100.0 * y
            luma[min(max(int((109.0 - p) * row_scale), 0), rows - 1), column] += 1
            histogram[0, min(max(int((p + 7.0) * bin_scale), 0), bins - 1)] += 1
            h = min(max(int((cb + reach) / (2 * reach) * size), 0), size - 1)
            v2 = min(max(int((reach - cr) / (2 * reach) * size), 0), size - 1)
            vector[v2, h] += 1


def scopes(
    encoded: Encoded, *, rows: int = 256, columns: int = 512, bins: int = 256, vector_size: int = 256
) -> Scopes:
    """Count a picture (H, W, 3) into all scopes at once."""
    picture = np.ascontiguousarray(encoded, np.float32)
    columns = min(picture.shape[1], columns)
    result = Scopes(
        luma=np.zeros((rows, columns), np.uint32),
        parade=np.zeros((3, rows, columns), np.uint32),
        histogram=np.zeros((4, bins), np.uint32),
        vector=np.zeros((vector_size, vector_size), np.uint32),
    )
    matrix = rgb_to_ycbcr_matrix(Matrix.BT709).astype(np.float32)
    _count(
        picture, matrix, result.luma, result.parade, result.histogram, result.vector, np.float32(VECTOR_REACH)
    )
    return result


def brightness(counts: Plane) -> Plane:
    """Turn counts into uint8 brightness of the same shape; an empty scope stays black."""
    occupied = counts[counts > 0]
    if not occupied.size:
        return np.zeros(counts.shape, np.uint8)
    reference = max(float(np.percentile(occupied, 99.5)), 1.0)
    shown = np.log1p(counts) / np.log1p(reference)
    return (np.clip(shown, 0, 1) * 255).astype(np.uint8)


def vector_angle_deg(cb: Float, cr: Float) -> Float:
    """Angle on the vectorscope, degrees anticlockwise from +Cb, 0..360."""
    return np.degrees(np.arctan2(cr, cb)) % 360
