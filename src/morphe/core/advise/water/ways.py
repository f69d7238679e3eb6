"""Four ways to bring colour back, of which each has those who swear by it: what each does, and its risk."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from morphe.core.grade.restore import CHANNEL_LIMIT, Channels, Restore, Way
from morphe.core.signal.arrays import Float, Linear
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.profiles import PROFILES

__all__ = ["WAYS", "WayWords", "way_of"]

_STD = PROFILES.get("std-709")
GREY = 0.18
BLUE_BACK = 0.35  # stops by which blue is taken back after balance was pushed
PUSHED_FURTHEST = 4.0  # stops between channels
ENDS, DARK, BRIGHT = (0.5, 99.5), 0.03, 0.92  # percentiles of a channel, and the codes they are put on
TONES, GREY_SHARE = (4, 50, 96), 0.75  # percentiles; how far channels are brought together at each
APART = 0.02  # of codes, at least, between two tones


@dataclass(frozen=True, slots=True, kw_only=True)
class WayWords:
    """A way as a person reads of it."""

    label: str
    does: str
    risk: str


WAYS = {
    Way.PHYSICAL: WayWords(
        label="By the water itself", does="Removes the veil, gives back what the water took.",
        risk="A wrong distance shows as a cast.",
    ),
    Way.PUSHED: WayWords(
        label="Balance pushed far", does="Warmth and magenta as far as it takes, then blue taken back.",
        risk="Haze stays, and mid tones may turn magenta.",
    ),
    Way.LEVELS: WayWords(
        label="Channels levelled", does="Every channel from its own black to its own white.",
        risk="The water behind turns grey.",
    ),
    Way.TONES: WayWords(
        label="Curves in three tones", does="Red raised in shadows, mids and lights, each by its own need.",
        risk="Noise in the shadows comes up with the red.",
    ),
}  # fmt: skip


def way_of(way: Way, light: Sequence[Linear], physical: Restore) -> Restore:
    """The restoration of another way, from frames (H, W, 3) in light before water is taken back."""
    if way is Way.PHYSICAL:
        return physical
    pixels = np.concatenate([f.reshape(-1, 3) for f in light])
    if way is Way.PUSHED:
        return Restore(strength=100.0, way=way, track=((0.0, *_pushed(pixels), 0.0, 0.0, 0.0),))
    codes = np.asarray(_STD.encode(np.maximum(pixels, 0)), np.float64)
    tones = _levels(codes) if way is Way.LEVELS else _three_tones(codes)
    return Restore(strength=100.0, way=way, tones=tones)


def _pushed(pixels: Linear) -> Channels:
    mean = np.maximum(pixels.mean(axis=0), 1e-4)
    stops = np.log2(GREY / mean)
    stops = stops.min() + np.minimum(stops - stops.min(), PUSHED_FURTHEST)
    stops[2] -= BLUE_BACK
    red, green, blue = (round(float(v), 4) for v in np.clip(stops, -CHANNEL_LIMIT, CHANNEL_LIMIT))
    return red, green, blue


def _rising(levels: Float) -> Channels:
    low, middle, high = (float(v) for v in levels)
    middle = max(middle, low + APART)
    return round(low, 5), round(middle, 5), round(max(high, middle + APART), 5)


def _levels(codes: Float) -> tuple[tuple[Channels, Channels], ...]:
    low, high = np.percentile(codes, ENDS, axis=0)
    go = (DARK, (DARK + BRIGHT) / 2, BRIGHT)
    return tuple((_rising(np.array([a, (a + b) / 2, b])), go) for a, b in zip(low, high, strict=True))


def _three_tones(codes: Float) -> tuple[tuple[Channels, Channels], ...]:
    levels = np.percentile(codes, TONES, axis=0)  # (tones, channels)
    grey = (levels @ LUMINANCE_709)[:, None]
    low, high = grey[0, 0], grey[-1, 0]
    wanted = levels + GREY_SHARE * (grey - levels)
    spread = DARK + (wanted - low) / max(high - low, APART) * (BRIGHT - DARK)
    return tuple((_rising(levels[:, c]), _rising(np.clip(spread[:, c], 0, 1))) for c in range(3))
