"""Code values, ranges and Y'CbCr matrices.

Documents: ITU-R BT.601-7, BT.709-6, BT.2020-2 (non-constant luminance), BT.2100-2.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from morphe.core.signal.arrays import Encoded, Float, Plane

__all__ = [
    "LUMA_WEIGHTS",
    "Matrix",
    "Range",
    "RangeScale",
    "range_scale",
    "rgb_to_ycbcr",
    "rgb_to_ycbcr_matrix",
    "ycbcr_to_rgb",
    "ycbcr_to_rgb_matrix",
]


class Range(StrEnum):
    """How codes map to the nominal signal."""

    UNSPECIFIED = "unspecified"
    NARROW = "narrow"
    FULL = "full"


class Matrix(StrEnum):
    """Which luma weights made Y'CbCr from R'G'B'."""

    UNSPECIFIED = "unspecified"
    BT601 = "bt601"
    BT709 = "bt709"
    BT2020 = "bt2020"


LUMA_WEIGHTS: dict[Matrix, tuple[float, float, float]] = {
    Matrix.BT601: (0.299, 0.587, 0.114),  # BT.601-7, 2.5.1
    Matrix.BT709: (0.2126, 0.7152, 0.0722),  # BT.709-6, item 3.2
    Matrix.BT2020: (0.2627, 0.6780, 0.0593),  # BT.2020-2, table 4
}


@dataclass(frozen=True, slots=True, kw_only=True)
class RangeScale:
    """Affine map from codes: signal = (code - offset) / scale, for luma and for chroma."""

    luma_offset: float
    luma_scale: float
    chroma_offset: float
    chroma_scale: float
    max_code: int


def range_scale(code_range: Range, bit_depth: int) -> RangeScale:
    """Give offset and scale of luma and chroma codes (BT.709-6 item 4.6, BT.2100-2 table 9)."""
    top = 2**bit_depth - 1
    if code_range is Range.FULL:
        half = float(2 ** (bit_depth - 1))
        return RangeScale(
            luma_offset=0.0, luma_scale=float(top), chroma_offset=half, chroma_scale=float(top), max_code=top
        )
    s = 2.0 ** (bit_depth - 8)
    return RangeScale(
        luma_offset=16 * s, luma_scale=219 * s, chroma_offset=128 * s, chroma_scale=224 * s, max_code=top
    )


def rgb_to_ycbcr_matrix(matrix: Matrix) -> Float:
    """Give the 3x3 that takes R'G'B' to (Y', Cb, Cr), chroma in -0.5..0.5."""
    kr, kg, kb = LUMA_WEIGHTS[matrix]
    luma = np.array([kr, kg, kb])
    cb = (np.array([0.0, 0.0, 1.0]) - luma) / (2 * (1 - kb))
    cr = (np.array([1.0, 0.0, 0.0]) - luma) / (2 * (1 - kr))
    return np.stack([luma, cb, cr])


def ycbcr_to_rgb_matrix(matrix: Matrix) -> Float:
    """Give the inverse of `rgb_to_ycbcr_matrix`."""
    return np.linalg.inv(rgb_to_ycbcr_matrix(matrix))


def rgb_to_ycbcr(encoded: Encoded, matrix: Matrix = Matrix.BT709) -> Encoded:
    """Turn R'G'B' (..., 3) into Y'CbCr (..., 3) float32; nothing is clipped."""
    return encoded @ rgb_to_ycbcr_matrix(matrix).T.astype(np.float32)


def ycbcr_to_rgb(ycbcr: Plane, matrix: Matrix = Matrix.BT709) -> Encoded:
    """Turn Y'CbCr (..., 3) into R'G'B' (..., 3) float32; nothing is clipped."""
    return np.asarray(ycbcr, np.float32) @ ycbcr_to_rgb_matrix(matrix).T.astype(np.float32)
