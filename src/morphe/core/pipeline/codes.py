"""Planes of codes as signal and back: code = offset + scale * signal."""

from __future__ import annotations

import numpy as np

from morphe.core.bands import over_rows
from morphe.core.signal.arrays import Codes, Plane

__all__ = ["to_codes", "to_signal"]


def to_signal(codes: Codes, offset: float, scale: float) -> Plane:
    """The signal (H, W) float32 of a plane of codes."""
    from morphe.core.pipeline.kernels import to_signal_rows  # compiled: late, while decoding goes on

    out = np.empty(codes.shape, np.float32)
    numbers = np.float32(offset), np.float32(1) / np.float32(scale)
    over_rows(len(codes), lambda a, b: to_signal_rows(a, b, codes, *numbers, out))
    return out


def to_codes(signal: Plane, offset: float, scale: float) -> Codes:
    """The nearest codes (H, W) of 16 bits; what is beyond them is held."""
    from morphe.core.pipeline.kernels import to_codes_rows  # compiled: late, while decoding goes on

    out = np.empty(signal.shape, np.uint16)
    numbers = np.float32(offset), np.float32(scale)
    over_rows(len(signal), lambda a, b: to_codes_rows(a, b, signal, *numbers, out))
    return out
