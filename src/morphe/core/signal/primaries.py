"""Primaries, the matrices between them, and compression of colours that do not fit.

Documents: ITU-R BT.709-6, BT.2020-2, SMPTE EG 432-1, SMPTE RP 177 (derivation).
"""

from __future__ import annotations

from enum import StrEnum

import numpy as np

from morphe.core.signal.arrays import Float, Linear, highest, lowest

__all__ = ["CHROMATICITIES", "LUMINANCE_709", "Primaries", "compress_gamut", "rgb_to_rgb", "rgb_to_xyz"]


class Primaries(StrEnum):
    """Which lights the three channels stand for."""

    UNSPECIFIED = "unspecified"
    BT601_525 = "bt601-525"
    BT601_625 = "bt601-625"
    BT709 = "bt709"
    BT2020 = "bt2020"
    P3_D65 = "p3-d65"


D65 = (0.3127, 0.3290)
CHROMATICITIES: dict[Primaries, tuple[tuple[float, float], ...]] = {
    Primaries.BT601_525: ((0.630, 0.340), (0.310, 0.595), (0.155, 0.070)),
    Primaries.BT601_625: ((0.640, 0.330), (0.290, 0.600), (0.150, 0.060)),
    Primaries.BT709: ((0.640, 0.330), (0.300, 0.600), (0.150, 0.060)),
    Primaries.BT2020: ((0.708, 0.292), (0.170, 0.797), (0.131, 0.046)),
    Primaries.P3_D65: ((0.680, 0.320), (0.265, 0.690), (0.150, 0.060)),
}
LUMINANCE_709 = np.array([0.2126390, 0.7151687, 0.0721923])


def rgb_to_xyz(primaries: Primaries) -> Float:
    """Derive the 3x3 from linear RGB to XYZ, white D65 (RP 177)."""
    xy = np.array(CHROMATICITIES[primaries])
    columns = np.stack([xy[:, 0] / xy[:, 1], np.ones(3), (1 - xy.sum(axis=1)) / xy[:, 1]])
    white = np.array([D65[0] / D65[1], 1.0, (1 - sum(D65)) / D65[1]])
    return columns * np.linalg.solve(columns, white)


def rgb_to_rgb(source: Primaries, target: Primaries) -> Float:
    """Give the 3x3 between two sets of primaries with the same white."""
    return np.linalg.solve(rgb_to_xyz(target), rgb_to_xyz(source))


def compress_gamut(linear: Linear, *, threshold: float = 0.85, peak: float = 1.0) -> Linear:
    """Pull colours into 0..peak along a ray to their own grey, keeping luminance.

    Parameters
    ----------
    linear : (..., 3) float32, BT.709 primaries
    threshold : share of the way to the gamut surface that stays untouched

    Notes
    -----
    Continuous in value and slope at the threshold; neutrals never move.
    """
    luminance = (linear @ LUMINANCE_709.astype(linear.dtype))[..., None]
    away = linear - luminance
    safe = np.clip(luminance, 1e-6, peak - 1e-6)
    left = np.maximum(peak - safe, 1e-6)  # next to a large peak float32 knows no millionth
    under, over = -lowest(away)[..., None] / safe, highest(away)[..., None] / left
    reach = np.maximum(under, over)
    room = 1 - threshold
    held = threshold + room * (1 - np.exp(-(np.maximum(reach, threshold) - threshold) / room))
    scale = np.where(reach > threshold, held / np.maximum(reach, 1e-6), 1.0).astype(linear.dtype)
    inside = luminance + away * scale
    return np.where(luminance <= 0, 0, np.where(luminance >= peak, peak, inside)).astype(linear.dtype)
