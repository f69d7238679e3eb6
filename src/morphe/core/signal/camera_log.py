"""The general camera log curve with a linear toe (Academy CLF v3, SMPTE ST 2136-1:2024, camera styles)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Float

__all__ = ["CameraLog", "general_log"]


CODES = np.linspace(-0.1, 1.1, 7)  # at which a curve must give light
LARGEST, BRIGHTEST = 100.0, 1e9  # of its numbers, and of the light it gives: no curve reaches further


@dataclass(frozen=True, slots=True, kw_only=True)
class CameraLog:
    """y = A log2(x + b) + D above the break x_b, a line below it: with the same slope, unless one is given.

    The linear-side slope is held at 1 and the base at 2: other values describe the same curves
    (`general_log` brings them here). `y` is a fraction of the narrow range.
    """

    log_slope: float  # A, code fraction per stop at the top
    log_offset: float  # D
    linear_offset: float  # b
    linear_break: float  # x_b
    linear_slope: float | None = None  # s

    def __post_init__(self) -> None:
        if not all(np.isfinite(value) for value in self.numbers):
            raise ColourError("A log curve needs numbers that are finite.")
        if self.log_slope <= 0 or self.linear_break + self.linear_offset <= 0:
            raise ColourError("A log curve needs a positive slope and a break above minus its offset.")
        if self.linear_slope is not None and self.linear_slope <= 0:
            raise ColourError("The straight part of a log curve must rise.")
        if max(abs(value) for value in self.numbers) > LARGEST or not self._gives_light():
            raise ColourError("No camera writes such a log curve; check its numbers.")

    def _gives_light(self) -> bool:
        """Whether all codes that a camera writes stand for light that there may be."""
        with np.errstate(all="ignore"):
            light = self.decode(CODES)
        return bool(np.isfinite(light).all() and np.abs(light).max() < BRIGHTEST)

    @property
    def numbers(self) -> tuple[float, ...]:
        """(A, D, b, x_b), and s where it is given."""
        four = (self.log_slope, self.log_offset, self.linear_offset, self.linear_break)
        return four if self.linear_slope is None else (*four, self.linear_slope)

    @classmethod
    def of(cls, numbers: Sequence[float]) -> CameraLog:
        """The curve with these `numbers`."""
        if len(numbers) not in (4, 5):
            raise ColourError("A log curve has four numbers, or five with the slope of its straight part.")
        return cls(
            log_slope=numbers[0], log_offset=numbers[1], linear_offset=numbers[2], linear_break=numbers[3],
            linear_slope=numbers[4] if len(numbers) == 5 else None,
        )  # fmt: skip

    def _toe(self) -> tuple[float, float, float]:
        reach = self.linear_break + self.linear_offset
        slope = self.linear_slope or self.log_slope / (reach * np.log(2))
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


FULL_SCALE, NARROW_SPAN, NARROW_BLACK = 1023, 876, 64  # 10-bit codes


def general_log(
    *,
    log_slope: float,
    log_offset: float,
    linear_offset: float,
    linear_break: float,
    linear_side_slope: float = 1.0,
    base: float = 2.0,
    linear_slope: float | None = None,
    full_range: bool = False,
) -> CameraLog:
    """Bring the general form y = A log_B(a x + b) + D to a = 1 and B = 2, on the narrow range.

    Parameters
    ----------
    full_range : whether y is a fraction of all codes (0..1023) and not of the narrow range.

    Raises
    ------
    ColourError
        If the numbers describe no rising curve.
    """
    if linear_side_slope <= 0 or base <= 1:
        raise ColourError("A log curve needs a positive linear-side slope and a base above 1.")
    scale = FULL_SCALE / NARROW_SPAN if full_range else 1.0
    per_stop = log_slope / np.log2(base)
    offset = log_offset + per_stop * np.log2(linear_side_slope)
    return CameraLog(
        log_slope=float(scale * per_stop),
        log_offset=float(scale * offset - (NARROW_BLACK / NARROW_SPAN if full_range else 0.0)),
        linear_offset=linear_offset / linear_side_slope,
        linear_break=linear_break,
        linear_slope=None if linear_slope is None else scale * linear_slope,
    )
