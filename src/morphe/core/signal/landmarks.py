"""What a profile makes of black, grey, white and clip, and how many codes it spends on each stop."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from morphe.core.signal.point_curve import GREY
from morphe.core.signal.profiles import Profile
from morphe.core.signal.ycbcr import Range, range_scale

__all__ = ["Landmarks", "codes_per_stop", "landmarks", "stops_drawn"]

LOWEST_STOP, HIGHEST_STOP = -8, 8


@dataclass(frozen=True, slots=True, kw_only=True)
class Landmarks:
    """Percent of the narrow range at x = 0, .18, .9 and the brightest light kept; clip also in stops."""

    black: float
    grey: float
    white: float
    clip: float
    clip_stops: float

    def code(self, name: str, bit_depth: int) -> int:
        """The code of one landmark."""
        scale = range_scale(Range.NARROW, bit_depth)
        return round(getattr(self, name) / 100 * scale.luma_scale + scale.luma_offset)


def landmarks(profile: Profile) -> Landmarks:
    """Read a profile's landmarks off its curve."""
    levels = 100 * np.asarray(profile.encode(np.array([0.0, GREY, 0.9, profile.clip])), float)
    black, grey, white, clip = (float(v) for v in levels)
    return Landmarks(
        black=black, grey=grey, white=white, clip=clip, clip_stops=float(np.log2(profile.clip / GREY))
    )


def stops_drawn(profile: Profile) -> list[int]:
    """Whole stops from grey that lie within what the profile keeps."""
    top = min(int(np.floor(np.log2(profile.clip / GREY) + 1e-6)), HIGHEST_STOP)
    return list(range(LOWEST_STOP, top + 1))


def codes_per_stop(profile: Profile, stop: float, bit_depth: int) -> float:
    """Codes between half a stop below and half a stop above `stop` from grey."""
    light = GREY * np.exp2(np.array([stop - 0.5, stop + 0.5]))
    low, high = profile.encode(light)
    return float(high - low) * range_scale(Range.NARROW, bit_depth).luma_scale
