"""Banding: smooth parts of a picture that fall into steps, seen in its codes.

A run is a row of at least eight equal codes that ends in a small step; noise breaks runs up, and hides steps.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from morphe.core.signal.arrays import Codes, Float, Plane

__all__ = ["BANDS", "HALF_STEP", "LEVELS", "Runs", "banding_index", "runs_of", "step_lightness"]

BANDS = 16  # of luma from black to white
LEVELS = (np.arange(BANDS) + 0.5) / BANDS
LONG = 8  # pixels of equal code, from which they are a run
SPAN, MOST_SPAN = 32, 24  # pixels, and codes of 8 bits: what spans more over so many pixels is no smooth part
MOST_STEP = 12  # codes of 8 bits: larger ones are edges
HALF_STEP = 0.5  # of L*: a step by which the index is counted as whole


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Runs:
    """Shares of all pixels that lie in runs, by luma band (BANDS,), and the mean step at their ends (codes of
    the plane)."""

    shares: Float
    steps: Float

    def as_json(self) -> dict[str, list[float]]:
        return {n: [round(float(v), 4) for v in getattr(self, n)] for n in ("shares", "steps")}

    @classmethod
    def from_json(cls, data: dict[str, list[float]]) -> Runs:
        return cls(**{n: np.array(data[n], float) for n in ("shares", "steps")})


def runs_of(luma: Codes, bit_depth: int) -> Runs:
    """Find the runs of a plane (H, W) of narrow-range codes."""
    unit = 2 ** (bit_depth - 8)
    codes = np.asarray(luma, np.int32)
    height, width = codes.shape
    if width < SPAN:
        return Runs(shares=np.zeros(BANDS), steps=np.zeros(BANDS))
    steps = np.diff(codes, axis=1)
    ends = steps != 0
    # The number of the run that each pixel of a row belongs to, all rows one after another.
    number = np.zeros(codes.shape, np.int64)
    number[:, 1:] = np.cumsum(ends, axis=1)
    number += (np.arange(height) * width)[:, None]
    lengths = np.bincount(number.ravel(), minlength=height * width)
    at, column = np.nonzero(ends)
    size = np.abs(steps[at, column])
    run = number[at, column]
    smooth = _smooth(codes, unit)[at, column]
    kept = smooth & (lengths[run] >= LONG) & (size <= MOST_STEP * unit)
    level = (codes[at, column][kept] / unit - 16) / 219
    band = np.clip((level * BANDS).astype(int), 0, BANDS - 1)
    pixels = np.bincount(band, weights=lengths[run[kept]], minlength=BANDS)
    count = np.bincount(band, minlength=BANDS)
    total = np.bincount(band, weights=size[kept], minlength=BANDS)
    return Runs(shares=pixels / codes.size, steps=total / np.maximum(count, 1))


def _smooth(codes: Plane, unit: int) -> Plane:
    """Where a row spans few codes over `SPAN` pixels (H, W - 1)."""
    height, width = codes.shape
    blocks = width // SPAN
    parts = codes[:, : blocks * SPAN].reshape(height, blocks, SPAN)
    span = parts.max(axis=2) - parts.min(axis=2)
    wide = np.repeat(span <= MOST_SPAN * unit, SPAN, axis=1)
    out = np.zeros((height, width - 1), bool)
    out[:, : min(wide.shape[1], width - 1)] = wide[:, : width - 1]
    return out


def banding_index(runs: Runs, lightness: Float) -> float:
    """The share of the picture in runs, weighed by the steps at their ends: from about .3 it shows.

    Parameters
    ----------
    lightness : L* of one code of the plane, by band (BANDS,)
    """
    return float((runs.shares * runs.steps * lightness / HALF_STEP).sum())


@lru_cache(maxsize=4)
def step_lightness(bit_depth: int) -> Float:
    """L* of one code of a delivered picture, by band (BANDS,)."""
    from morphe.core.signal.perception import encoded_to_lab

    half = 0.5 / (219 * 2 ** (bit_depth - 8))
    ends = [np.repeat(np.clip(LEVELS + s * half, 0, 1)[:, None], 3, axis=1) for s in (-1, 1)]
    low, high = (encoded_to_lab(e)[:, 0] for e in ends)
    return np.asarray(high - low)
