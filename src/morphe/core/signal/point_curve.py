"""A measured transfer curve: points of code against stops, joined by a rising cubic.

Interpolation: Fritsch and Carlson (1980), as scipy's PchipInterpolator has it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Float

if TYPE_CHECKING:
    from scipy.interpolate import PchipInterpolator

__all__ = ["GREY", "PointCurve"]

GREY = 0.18
MOST_POINTS = 256
STEPS = 4096  # of the table that starts the inverse
NEWTON = 3  # steps that bring the inverse to rounding error


FARTHEST = 40.0  # stops from grey, and far beyond any code


@dataclass(frozen=True, kw_only=True)
class PointCurve:
    """Code fraction of the narrow range against stops above (or below) an 18 % grey.

    `points` are (code fraction, stops), both rising. Below the lowest point light goes on along a straight
    line in code, so that black and noise below it stay finite; above the highest, stops do.
    """

    points: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        if not 3 <= len(self.points) <= MOST_POINTS:
            raise ColourError(f"A measured curve needs 3 to {MOST_POINTS} points.")
        table = np.array(self.points, float)
        if table.shape[1:] != (2,) or not np.isfinite(table).all():
            raise ColourError("Every point of a curve needs a code and a number of stops.")
        if np.abs(table).max() > FARTHEST:
            raise ColourError("A point of the curve lies where no camera writes; check its numbers.")
        for number, (code, stops) in enumerate(np.diff(table, axis=0), 2):
            if code <= 0 or stops <= 0:
                raise ColourError(f"Point {number} of the curve does not lie above the one before it.")

    @classmethod
    def of(cls, points: Sequence[Sequence[float]]) -> PointCurve:
        """The curve through (code fraction, stops) pairs."""
        return cls(points=tuple((float(code), float(stops)) for code, stops in points))

    @cached_property
    def _stops_of(self) -> PchipInterpolator:
        from scipy.interpolate import PchipInterpolator  # heavy: late, as few clips have such a curve

        codes, stops = np.array(self.points, float).T
        return PchipInterpolator(codes, stops)

    @cached_property
    def _ends(self) -> tuple[float, float, float, float]:
        """Light and light per code at the lowest point; stops and stops per code at the highest."""
        first, last = self.points[0], self.points[-1]
        slope = self._stops_of.derivative()
        low = GREY * 2.0 ** first[1]
        steep = max(float(slope(first[0])), 1e-3)
        return low, low * np.log(2) * steep, last[1], max(float(slope(last[0])), 1e-3)

    def decode(self, signal: Float) -> Float:
        """Code fraction to scene-linear."""
        y = np.asarray(signal)
        low, high = self.points[0][0], self.points[-1][0]
        light, light_per_code, stops, stops_per_code = self._ends
        inner = self._stops_of(np.clip(y, low, high))
        above = np.minimum(stops + (y - high) * stops_per_code, FARTHEST)
        curved = GREY * np.exp2(np.where(y > high, above, inner))
        return np.where(y < low, light + (y - low) * light_per_code, curved).astype(y.dtype, copy=False)

    def encode(self, linear: Float) -> Float:
        """Inverse of `decode`."""
        x = np.asarray(linear)
        low, high = self.points[0][0], self.points[-1][0]
        light, light_per_code, stops, stops_per_code = self._ends
        wanted = np.log2(np.maximum(x, light) / GREY)
        inner = self._code_at(np.clip(wanted, self.points[0][1], stops))
        curved = np.where(wanted > stops, high + (wanted - stops) / stops_per_code, inner)
        return np.where(x < light, low + (x - light) / light_per_code, curved).astype(x.dtype, copy=False)

    def _code_at(self, stops: Float) -> Float:
        grid = np.linspace(self.points[0][0], self.points[-1][0], STEPS)
        code = np.interp(stops, self._stops_of(grid), grid)
        slope = self._stops_of.derivative()
        for _ in range(NEWTON):
            code = code - (self._stops_of(code) - stops) / np.maximum(slope(code), 1e-6)
            code = np.clip(code, grid[0], grid[-1])
        return code
