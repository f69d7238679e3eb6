"""A size that is kept: how many bits the picture may have, how large it can then be, two passes at a rate."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

__all__ = ["AIMED", "TwoPass", "fitted_size", "rate_for"]

AIMED = 0.985  # of the size: containers and rate control need room
LEAST_BITS_PER_PIXEL = 0.045  # with fewer, a smaller picture looks better
HEIGHTS = (1080, 720, 540, 360)
QUALITY = "18"  # a file that is small enough like this is not made larger
LEAST_RATE = 40_000  # bits a second


@dataclass(frozen=True, slots=True, kw_only=True)
class TwoPass:
    """One pass of two: where its statistics lie, and the rate that is aimed at; 0 aims at a quality."""

    number: int
    stats: Path
    rate: int = 0

    def options(self, options: dict[str, str]) -> dict[str, str]:
        """An encoder's options with those of this pass."""
        told = [options.get("x264-params", ""), f"pass={self.number}", f"stats={self.stats}"]
        passed = {**options, "x264-params": ":".join(t for t in told if t)}
        return passed if self.rate else {**passed, "crf": QUALITY}


def rate_for(megabytes: float, seconds: float, beside_bits: float) -> int:
    """Bits a second that a size leaves for the picture, when what goes along has taken so many in all."""
    return max(int((AIMED * megabytes * 8e6 - beside_bits) / max(seconds, 0.1)), LEAST_RATE)


def fitted_size(width: int, height: int, fps: float, rate: int) -> tuple[int, int]:
    """The largest picture, of the same shape and even, that so many bits a second serve well."""
    for tall in (min(width, height), *HEIGHTS):
        scale = min(tall / min(width, height), 1.0)
        size = tuple(max(round(n * scale / 2) * 2, 2) for n in (width, height))
        if rate / (size[0] * size[1] * fps) >= LEAST_BITS_PER_PIXEL:
            break
    return size[0], size[1]
