"""What a clip's picture says in numbers: levels, clipping, cast and saturation.

Percent is of the narrow-range signal (0 = nominal black, 100 = nominal white); cast follows the
near-neutral rule, saturation is Oklab chroma of the picture on a BT.1886 display.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.perception import linear_to_oklab
from morphe.core.signal.transfer import decode_bt1886
from morphe.core.signal.ycbcr import LUMA_WEIGHTS, Matrix, rgb_to_ycbcr

__all__ = ["Cast", "Levels", "Readings", "Saturation", "cast_of", "luma_of", "measure", "oklab_of"]

# Float arithmetic leaves nominal black and white within this of 0 and 1.
EDGE = 1e-5
SAFE_LOW, SAFE_HIGH = -0.05, 1.05  # EBU R 103: the outline of tolerated R'G'B'
NEUTRAL_LUMA = (0.20, 0.85)
NEUTRAL_CHROMA, NEUTRAL_CHROMA_RELAXED = 0.05, 0.08
NEUTRAL_SHARE = 0.005


@dataclass(frozen=True, slots=True, kw_only=True)
class Levels:
    """Percentiles of one component in percent, and the shares of pixels outside 0..100 %."""

    p01: float
    p50: float
    p99: float
    below_0_pct: float
    above_100_pct: float

    def as_json(self) -> dict[str, float]:
        return {name: round(getattr(self, name), 3) for name in self.__slots__}


@dataclass(frozen=True, slots=True, kw_only=True)
class Cast:
    """Median chroma of near-neutral pixels in percent of the full chroma swing; None if too few."""

    cb: float | None
    cr: float | None
    neutral_share_pct: float

    @property
    def magnitude(self) -> float | None:
        return None if self.cb is None or self.cr is None else float(np.hypot(self.cb, self.cr))

    def as_json(self) -> dict[str, float | None]:
        return {
            "cb": None if self.cb is None else round(self.cb, 3),
            "cr": None if self.cr is None else round(self.cr, 3),
            "neutral_share_pct": round(self.neutral_share_pct, 3),
        }


@dataclass(frozen=True, slots=True, kw_only=True)
class Saturation:
    """Oklab chroma percentiles and the share of pixels beyond the safe outline."""

    p50: float
    p95: float
    outside_pct: float

    def as_json(self) -> dict[str, float]:
        return {
            "p50": round(self.p50, 4),
            "p95": round(self.p95, 4),
            "outside_pct": round(self.outside_pct, 3),
        }


@dataclass(frozen=True, slots=True, kw_only=True)
class Readings:
    """All readings of one picture, or of several pooled."""

    frames: tuple[float, ...]
    luma: Levels
    red: Levels
    green: Levels
    blue: Levels
    cast: Cast
    saturation: Saturation

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Readings:
        """Readings from what `as_json` gave."""
        levels = {"luma": data["luma"], **{k: data["channels"][k[0]] for k in ("red", "green", "blue")}}
        return cls(
            frames=tuple(data["frames"]),
            cast=Cast(**data["cast"]),
            saturation=Saturation(**data["saturation"]),
            **{name: Levels(**numbers) for name, numbers in levels.items()},
        )

    def as_json(self) -> dict[str, object]:
        return {
            "frames": [round(t, 3) for t in self.frames],
            "luma": self.luma.as_json(),
            "channels": {"r": self.red.as_json(), "g": self.green.as_json(), "b": self.blue.as_json()},
            "cast": self.cast.as_json(),
            "saturation": self.saturation.as_json(),
        }


def luma_of(encoded: Encoded) -> Float:
    """BT.709 luma (...,) of R'G'B' (..., 3)."""
    return encoded @ np.array(LUMA_WEIGHTS[Matrix.BT709], np.float32)


def oklab_of(encoded: Encoded) -> Float:
    """Oklab (..., 3) of R'G'B' (..., 3) as a BT.1886 display shows it."""
    return linear_to_oklab(decode_bt1886(np.clip(encoded, 0, 1)).astype(np.float32))


def cast_of(pixels: Encoded) -> Cast:
    """Read the cast of near-neutral pixels (n, 3)."""
    luma, lab = luma_of(pixels), oklab_of(pixels)
    chroma = np.hypot(lab[:, 1], lab[:, 2])
    toned = (luma >= NEUTRAL_LUMA[0]) & (luma <= NEUTRAL_LUMA[1])
    for limit in (NEUTRAL_CHROMA, NEUTRAL_CHROMA_RELAXED):
        neutral = toned & (chroma < limit)
        if neutral.mean() >= NEUTRAL_SHARE:
            _, cb, cr = np.median(rgb_to_ycbcr(pixels[neutral]), axis=0) * 100
            return Cast(cb=float(cb), cr=float(cr), neutral_share_pct=float(neutral.mean() * 100))
    return Cast(cb=None, cr=None, neutral_share_pct=float(neutral.mean() * 100))


def _levels(small: Float, full: Sequence[Float]) -> Levels:
    low, mid, high = np.percentile(small, [1, 50, 99]) * 100
    count = sum(f.size for f in full)
    return Levels(
        p01=float(low),
        p50=float(mid),
        p99=float(high),
        below_0_pct=100 * sum(int(np.count_nonzero(f < -EDGE)) for f in full) / count,
        above_100_pct=100 * sum(int(np.count_nonzero(f > 1 + EDGE)) for f in full) / count,
    )


def measure(
    small: Sequence[Encoded], full: Sequence[Encoded] | None = None, *, times_s: Sequence[float] = ()
) -> Readings:
    """Measure pictures pooled.

    Parameters
    ----------
    small : (H, W, 3) each, encoded R'G'B' averaged to measuring size: percentiles, cast, saturation
    full : the same at full size, for the counters; `small` serves where it is not given
    times_s : the pictures' times, kept for the record
    """
    pixels = np.concatenate([p.reshape(-1, 3) for p in small])
    whole = [p.reshape(-1, 3) for p in (full or small)]
    lab = oklab_of(pixels)
    chroma_50, chroma_95 = np.percentile(np.hypot(lab[:, 1], lab[:, 2]), [50, 95])
    outside = sum(int(((p < SAFE_LOW) | (p > SAFE_HIGH)).any(axis=1).sum()) for p in whole)
    red, green, blue = (_levels(pixels[:, c], [p[:, c] for p in whole]) for c in range(3))
    return Readings(
        frames=tuple(times_s),
        luma=_levels(luma_of(pixels), [luma_of(p) for p in whole]),
        red=red,
        green=green,
        blue=blue,
        cast=cast_of(pixels),
        saturation=Saturation(
            p50=float(chroma_50), p95=float(chroma_95), outside_pct=100 * outside / sum(len(p) for p in whole)
        ),
    )
