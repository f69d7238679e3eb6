"""Families of curves that cameras write: ordinary and flat gammas, and logs with a linear toe.

A curve of either family is named by three landmarks, the codes (narrow-range fractions) of black (x = 0),
grey (x = .18) and white (x = .9) of a well-exposed scene: what a person reads off a scope, and what can be
told from a picture. The landmarks hold the exposure as well: a clip filmed a stop darker has others.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Float
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.point_curve import GREY
from morphe.core.signal.profiles import Kind
from morphe.core.signal.transfer import decode_bt709, encode_bt709

__all__ = ["FAMILIES", "STEEPEST", "FlatGamma", "Landing", "curve_of", "log_of"]

WHITE = 0.9  # linear light of white paper
GREY_709, WHITE_709 = (float(encode_bt709(np.array(x))) for x in (GREY, WHITE))
MILDEST, STEEPEST = 1.5, 2000.0  # curvature of a log: 1 / its linear offset


@dataclass(frozen=True, slots=True, kw_only=True)
class FlatGamma:
    """y = black + span * v^power, v the BT.709 code of the light: ordinary video is (0, 1, 1)."""

    black: float
    span: float
    power: float

    def __post_init__(self) -> None:
        if not all(np.isfinite(value) for value in self.numbers) or min(self.span, self.power) <= 0.01:
            raise ColourError("A flat gamma needs a black, and a span and a power above 0.")

    @property
    def numbers(self) -> tuple[float, ...]:
        return self.black, self.span, self.power

    @classmethod
    def of(cls, numbers: tuple[float, ...]) -> FlatGamma:
        """The curve with these `numbers`."""
        black, span, power = numbers
        return cls(black=black, span=span, power=power)

    def encode(self, linear: Float) -> Float:
        """Scene-linear to code fraction."""
        code = encode_bt709(np.asarray(linear))
        return self.black + self.span * np.sign(code) * np.abs(code) ** self.power

    def decode(self, signal: Float) -> Float:
        """Inverse of `encode`."""
        y = (np.asarray(signal) - self.black) / self.span
        return decode_bt709(np.sign(y) * np.abs(y) ** (1 / self.power))


@dataclass(frozen=True, slots=True, kw_only=True)
class Landing:
    """Where a curve puts black, grey and white of a well-exposed scene: fractions of the narrow range."""

    black: float
    grey: float
    white: float

    @property
    def bend(self) -> float:
        """Share of the way from black to white at which grey lies: the more, the wider the curve."""
        return (self.grey - self.black) / max(self.white - self.black, 1e-6)

    @classmethod
    def of(cls, curve: FlatGamma | CameraLog) -> Landing:
        """The landmarks of a curve."""
        black, grey, white = (float(v) for v in curve.encode(np.array([0.0, GREY, WHITE])))
        return cls(black=black, grey=grey, white=white)

    def wider(self, by: float) -> Landing:
        """The same ends with a curve that is wider (positive) or milder, in steps of its log odds."""
        odds = self.bend / (1 - self.bend) * np.exp(by)
        return self.bent(float(odds / (1 + odds)))

    def bent(self, bend: float) -> Landing:
        """The same ends with grey elsewhere between them."""
        return replace(self, grey=self.black + bend * (self.white - self.black))


def log_of(landing: Landing) -> CameraLog:
    """The log with a linear toe through three landmarks; the bend is kept within what logs have."""
    bend = float(np.clip(landing.bend, _bend_of(MILDEST) + 1e-4, _bend_of(STEEPEST) - 1e-4))
    low, high = np.log(MILDEST), np.log(STEEPEST)
    for _ in range(40):  # the bend rises with the curvature
        middle = 0.5 * (low + high)
        low, high = (middle, high) if _bend_of(np.exp(middle)) < bend else (low, middle)
    curvature = float(np.exp(0.5 * (low + high)))
    slope = (landing.white - landing.black) / np.log2(1 + WHITE * curvature)
    offset = 1 / curvature
    return CameraLog(
        log_slope=float(slope), log_offset=float(landing.black - slope * np.log2(offset)),
        linear_offset=offset, linear_break=0.0,
    )  # fmt: skip


def _bend_of(curvature: float) -> float:
    return float(np.log1p(GREY * curvature) / np.log1p(WHITE * curvature))


def _flat_of(landing: Landing) -> FlatGamma:
    power = float(np.log(np.clip(landing.bend, 0.05, 0.95)) / np.log(GREY_709 / WHITE_709))
    span = (landing.white - landing.black) / WHITE_709**power
    return FlatGamma(black=landing.black, span=span, power=power)


FAMILIES: dict[Kind, Callable[[Landing], FlatGamma | CameraLog]] = {Kind.FLAT: _flat_of, Kind.LOG: log_of}


def curve_of(kind: Kind, landing: Landing) -> FlatGamma | CameraLog:
    """The curve of a family through three landmarks."""
    return FAMILIES[kind](landing)
