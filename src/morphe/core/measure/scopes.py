"""Scopes as density arrays: waveform, parade, histogram and vectorscope.

They read the signal as delivered, unclipped, in narrow percent over -7..109 %. Densities are turned
into brightness by log(1 + n) / log(1 + n_ref) with n_ref the 99.5th percentile of occupied bins.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numba import njit

from morphe.core.bands import over_rows
from morphe.core.signal.arrays import Encoded, Float, Mask, Plane
from morphe.core.signal.ycbcr import Matrix, rgb_to_ycbcr, rgb_to_ycbcr_matrix

__all__ = [
    "PERCENT_HIGH",
    "PERCENT_LOW",
    "VECTOR_REACH",
    "Scopes",
    "brightness",
    "safe_outline",
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


BRIGHT_SHARE = 0.995  # of the occupied bins are drawn below full brightness
NOT_MEANT = np.float32(-1000)  # in red: the pixel is left out


@njit(nogil=True, cache=True, fastmath=True, boundscheck=False)
def _count(first, end, picture, matrix, column_of, luma, parade, vector, reach):  # type: ignore[no-untyped-def]
    # Counts lie column by column: a picture's neighbours fall into the same few, which stay at hand.
    rows, size = luma.shape[1], vector.shape[0]
    # Row 0 is 109 %; the last one ends at -7 %.
    per_level = np.float32(rows / 1.16)
    top = np.float32(1.09) * per_level
    per_chroma = np.float32(size / (2 * reach))
    middle = np.float32(size / 2)
    for j in range(first, end):
        for i in range(picture.shape[1]):
            column = column_of[i]
            r, g, b = picture[j, i, 0], picture[j, i, 1], picture[j, i, 2]
            if r <= NOT_MEANT:
                continue
            parade[column, 0, min(max(np.int32(top - per_level * r), 0), rows - 1)] += 1
            parade[column, 1, min(max(np.int32(top - per_level * g), 0), rows - 1)] += 1
            parade[column, 2, min(max(np.int32(top - per_level * b), 0), rows - 1)] += 1
            y = matrix[0, 0] * r + matrix[0, 1] * g + matrix[0, 2] * b
            luma[column, min(max(np.int32(top - per_level * y), 0), rows - 1)] += 1
            cb = matrix[1, 0] * r + matrix[1, 1] * g + matrix[1, 2] * b
            cr = matrix[2, 0] * r + matrix[2, 1] * g + matrix[2, 2] * b
            across = min(max(np.int32(middle + per_chroma * cb), 0), size - 1)
            down = min(max(np.int32(middle - per_chroma * cr), 0), size - 1)
            vector[down, across] += 1


def scopes(
    encoded: Encoded, *, rows: int = 256, columns: int = 512, vector_size: int = 256, part: Mask | None = None
) -> Scopes:
    """Count a picture (H, W, 3) into all scopes at once; the histogram has a bin per row of the waveform.

    With `part` (H, W) only the pixels count where it is true.
    """
    picture = np.ascontiguousarray(encoded, np.float32)
    if part is not None:
        picture = picture.copy()
        picture[~part] = NOT_MEANT
    height, width = picture.shape[:2]
    columns = min(width, columns)
    matrix = rgb_to_ycbcr_matrix(Matrix.BT709).astype(np.float32)
    column_of = (np.arange(width) * columns // width).astype(np.int32)
    parts = []

    def count(first: int, end: int) -> None:
        counts = (
            np.zeros((columns, rows), np.uint32),
            np.zeros((columns, 3, rows), np.uint32),
            np.zeros((vector_size, vector_size), np.uint32),
        )
        _count(first, end, picture, matrix, column_of, *counts, VECTOR_REACH)
        parts.append(counts)

    over_rows(height, count)
    by_column, by_channel, vector = (sum(rest, one) for one, *rest in zip(*parts, strict=True))
    luma, parade = np.ascontiguousarray(by_column.T), np.ascontiguousarray(by_channel.transpose(1, 2, 0))
    # Rows run from bright to dark, bins from dark to bright.
    histogram = np.concatenate([luma[None], parade]).sum(axis=2)[:, ::-1]
    return Scopes(luma=luma, parade=parade, histogram=histogram, vector=vector)


def brightness(counts: Plane) -> Plane:
    """Turn counts into uint8 brightness of the same shape; an empty scope stays black."""
    heights = np.bincount(counts.ravel())
    heights[0] = 0
    reached = np.cumsum(heights)
    if not reached[-1]:
        return np.zeros(counts.shape, np.uint8)
    reference = int(np.searchsorted(reached, BRIGHT_SHARE * reached[-1]))
    shown = 255 * np.log1p(np.arange(reference + 1)) / np.log1p(reference)
    return shown.astype(np.uint8)[np.minimum(counts, reference)]


def vector_angle_deg(cb: Float, cr: Float) -> Float:
    """Angle on the vectorscope, degrees anticlockwise from +Cb, 0..360."""
    return np.degrees(np.arctan2(cr, cb)) % 360


@lru_cache(maxsize=1)
def safe_outline() -> tuple[tuple[float, float], ...]:
    """The outer outline of the vectorscope: fully saturated primaries and secondaries as (Cb, Cr)."""
    corners = np.array([[1, 0, 0], [1, 0, 1], [0, 0, 1], [0, 1, 1], [0, 1, 0], [1, 1, 0]], np.float32)
    points = rgb_to_ycbcr(corners)[:, 1:]
    order = np.argsort(vector_angle_deg(points[:, 0], points[:, 1]))
    return tuple((float(cb), float(cr)) for cb, cr in points[order])
