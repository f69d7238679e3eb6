"""Scopes as the screen draws them, and which pixels lie in a part of one."""

from __future__ import annotations

import base64
from dataclasses import dataclass
from typing import Any

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.measure.readings import luma_of
from morphe.core.measure.scopes import PERCENT_HIGH, PERCENT_LOW, VECTOR_REACH, brightness, scopes
from morphe.core.screen.pictures import only_lit
from morphe.core.signal.arrays import Encoded, Mask, Plane
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = ["ScopePictures", "light_up", "scope_pictures"]

TALL = 480


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ScopePictures:
    """Scopes as uint8 brightness: luma (rows, columns), parade (3, …), histogram (4, bins), vector."""

    luma: Plane
    parade: Plane
    histogram: Plane
    vector: Plane

    def as_json(self) -> dict[str, Any]:
        """All four, each with its shape and its bytes in base64."""
        return {name: _packed(getattr(self, name)) for name in self.__slots__}


def _packed(plane: Plane) -> dict[str, Any]:
    return {"shape": list(plane.shape), "data": base64.b64encode(plane.tobytes()).decode()}


def scope_pictures(encoded: Encoded, part: Mask | None = None) -> ScopePictures:
    """Make the scopes of a still, or of a part (H, W) of it, at the size the screen draws."""
    step = 2 if encoded.shape[0] >= TALL else 1  # a gauge has fewer rows than half of such a still
    rows = encoded[::step]
    counts = scopes(rows, rows=232, columns=240, vector_size=192, part=None if part is None else part[::step])
    peak = np.sqrt(np.maximum(np.percentile(counts.histogram, 99.5, axis=1, keepdims=True), 1))
    histogram = np.clip(np.sqrt(counts.histogram) / peak, 0, 1) * 255
    return ScopePictures(
        luma=brightness(counts.luma),
        parade=np.stack([brightness(c) for c in counts.parade]),
        histogram=histogram.astype(np.uint8),
        vector=brightness(counts.vector),
    )


def light_up(encoded: Encoded, scope: str, region: tuple[float, float, float, float]) -> bytes:
    """A transparent PNG that lights the pixels which a scope shows inside a region.

    Parameters
    ----------
    region : left, top, right, bottom as shares 0..1 of the scope's drawing
    """
    left, top, right, bottom = region
    width = encoded.shape[1]
    span = PERCENT_HIGH - PERCENT_LOW
    if scope == "vector":
        ycbcr = rgb_to_ycbcr(encoded)
        h = (ycbcr[..., 1] + VECTOR_REACH) / (2 * VECTOR_REACH)
        v = (VECTOR_REACH - ycbcr[..., 2]) / (2 * VECTOR_REACH)
        lit = (h >= left) & (h <= right) & (v >= top) & (v <= bottom)
    elif scope == "histogram":
        level = (luma_of(encoded) * 100 - PERCENT_LOW) / span
        lit = (level >= left) & (level <= right)
    elif scope in ("luma", "parade"):
        position = np.arange(width) / width
        values = encoded
        if scope == "parade":
            channel = min(int(3 * (left + right) / 2), 2)
            left, right = 3 * left - channel, 3 * right - channel
            level = encoded[..., channel]
        else:
            level = luma_of(values)
        row = (PERCENT_HIGH - level * 100) / span
        column = (position >= left) & (position <= right)
        lit = (row >= top) & (row <= bottom) & column[None, :]
    else:
        raise ColourError(f"There is no scope {scope!r}.")
    return only_lit(lit)
