"""The general camera log curve with a linear toe (Academy CLF v3, SMPTE ST 2136-1:2024, camera styles)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Float

__all__ = ["CameraLog"]


@dataclass(frozen=True, slots=True, kw_only=True)
class CameraLog:
    """y = A log2(x + b) + D above the break x_b, a line with the same slope below it.

    The linear-side slope is held at 1 and the base at 2: other values describe the same curves.
    `y` is a fraction of the narrow range.
    """

    log_slope: float  # A, code fraction per stop at the top
    log_offset: float  # D
    linear_offset: float  # b
    linear_break: float  # x_b

    def __post_init__(self) -> None:
        if self.log_slope <= 0 or self.linear_break + self.linear_offset <= 0:
            raise ColourError("A log curve needs a positive slope and a break above minus its offset.")

    def _toe(self) -> tuple[float, float, float]:
        reach = self.linear_break + self.linear_offset
        slope = self.log_slope / (reach * np.log(2))
        at_break = self.log_slope * np.log2(reach) + self.log_offset
        return slope, at_break - slope * self.linear_break, at_break

    def encode(self, linear: Float) -> Float:
        """Scene-linear to code fraction."""
        x = np.asarray(linear)
        slope, offset, _ = self._toe()
        log = (
            self.log_slope * np.log2(np.maximum(x, self.linear_break) + self.linear_offset) + self.log_offset
        )
        return np.where(x > self.linear_break, log, slope * x + offset).astype(x.dtype, copy=False)

    def decode(self, signal: Float) -> Float:
        """Inverse of `encode`."""
        y = np.asarray(signal)
        slope, offset, at_break = self._toe()
        log = np.exp2((np.maximum(y, at_break) - self.log_offset) / self.log_slope) - self.linear_offset
        return np.where(y > at_break, log, (y - offset) / slope).astype(y.dtype, copy=False)
