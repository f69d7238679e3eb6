"""Curves: tones bent through points, for luma and for each channel."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded, Float, Plane
from morphe.core.signal.ycbcr import LUMA_WEIGHTS, Matrix

__all__ = ["CHANNELS", "LEAST_APART", "MOST_POINTS", "Curves", "bent"]

CHANNELS = ("luma", "red", "green", "blue")
MOST_POINTS = 12
LEAST_APART = 1.0  # percent along the way in
LOWEST, HIGHEST = -10.0, 110.0
STRAIGHT = ((0.0, 0.0), (100.0, 100.0))
SAMPLES = 2049
Points = tuple[tuple[float, float], ...]  # percent in, percent out


@dataclass(frozen=True, slots=True, kw_only=True)
class Curves(ColourStep):
    """Bend R'G'B' by rising curves through points (Fritsch & Carlson 1980), first luma, then the channels.

    Luma is bent with the ratios of the channels kept half-way, as contrast is. Beyond its ends a curve goes
    on straight.
    """

    key: ClassVar[str] = "curves"
    label: ClassVar[str] = "Curves"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS

    luma: Points = STRAIGHT
    red: Points = STRAIGHT
    green: Points = STRAIGHT
    blue: Points = STRAIGHT

    def __post_init__(self) -> None:
        for name in CHANNELS:
            _check(name, getattr(self, name))

    @property
    def is_neutral(self) -> bool:
        return all(_is_straight(getattr(self, name)) for name in CHANNELS)

    @property
    def summary(self) -> str:
        return ", ".join(n for n in CHANNELS if not _is_straight(getattr(self, n))) if self.at_work else ""

    def apply(self, picture: Encoded) -> Encoded:
        out = picture
        if not _is_straight(self.luma):
            luma = (out @ np.array(LUMA_WEIGHTS[Matrix.BT709], np.float32))[..., None]
            level = bent(self.luma, luma)
            scaled = np.where(luma > 1e-4, out * (level / np.maximum(luma, 1e-4)), level)
            out = np.asarray(0.5 * (bent(self.luma, out) + scaled), np.float32)
        if any(not _is_straight(getattr(self, name)) for name in CHANNELS[1:]):
            out = np.stack([bent(getattr(self, n), out[..., c]) for c, n in enumerate(CHANNELS[1:])], axis=-1)
        return out.astype(np.float32)


def _is_straight(points: Points) -> bool:
    return all(level == at for at, level in points)


def _check(name: str, points: Points) -> None:
    if not isinstance(points, tuple) or not 2 <= len(points) <= MOST_POINTS:
        raise ColourError(f"Curves: {name} has 2 to {MOST_POINTS} points.")
    try:
        table = np.array(points, float)
    except (TypeError, ValueError) as error:
        raise ColourError(f"Curves: {name} has points of two numbers.") from error
    if table.shape != (len(points), 2) or not np.isfinite(table).all():
        raise ColourError(f"Curves: {name} has points of two numbers.")
    if table.min() < LOWEST or table.max() > HIGHEST:
        raise ColourError(f"Curves: a point lies between {LOWEST:g} and {HIGHEST:g} %.")
    if (np.diff(table[:, 0]) < LEAST_APART - 1e-9).any() or (np.diff(table[:, 1]) < 0).any():
        raise ColourError(f"Curves: {name} has to rise, its points at least {LEAST_APART:g} % apart.")


def bent(points: Points, values: Plane) -> Plane:
    """Values (...,) 0..1 along the curve through points in percent."""
    low, high, levels, low_slope, high_slope = _table(points)
    place = np.clip((values - low) * np.float32((SAMPLES - 1) / (high - low)), 0, SAMPLES - 1 - 1e-3)
    at = place.astype(np.int32)
    start = np.take(levels, at)
    inner = start + (place - at).astype(np.float32) * (np.take(levels, at + 1) - start)
    outside = values - np.clip(values, low, high)
    if outside.any():
        inner = inner + np.where(outside < 0, low_slope, high_slope) * outside
    return np.asarray(inner, np.float32)


@lru_cache(maxsize=32)
def _table(points: Points) -> tuple[np.float32, np.float32, Float, np.float32, np.float32]:
    """Both ends, levels evenly between them, and the slopes there."""
    from scipy.interpolate import PchipInterpolator  # heavy: late, as few grades have curves

    table = np.array(points, float) / 100
    curve = PchipInterpolator(table[:, 0], table[:, 1])
    low, high = (np.float32(end) for end in table[[0, -1], 0])
    grid = np.linspace(table[0, 0], table[-1, 0], SAMPLES)
    slopes = [np.float32(slope) for slope in curve.derivative()(grid[[0, -1]])]
    return low, high, curve(grid).astype(np.float32), slopes[0], slopes[1]
