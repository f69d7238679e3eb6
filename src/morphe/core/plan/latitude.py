"""How much of a scene a profile holds: codes per stop, usable stops above and below the grey card."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from morphe.core.signal.profiles import PROFILES, Profile
from morphe.core.signal.transfer import encode_bt709

__all__ = ["Latitude", "codes_per_stop", "lightness_step", "scene_span", "usable"]

GREY = 0.18
LEAST_CODES = 8  # codes per stop below which a tone is taken as drowned
NOISE_FLOOR_STOPS = 6.5  # a small sensor's usable stops below grey at base ISO, rule of thumb
NOISE_PER_ISO_STOP = 0.75  # of which every stop of ISO takes this much
BRIGHT_SHARE = 0.4  # of a scene's contrast lies above the grey card, rule of thumb


def _codes(profile: Profile, stops: float, bit_depth: int) -> float:
    light = min(GREY * 2.0**stops, profile.clip)
    return float(profile.encode(np.array(light))) * 219 * 2 ** (bit_depth - 8)


@lru_cache(maxsize=1024)
def codes_per_stop(profile: str, bit_depth: int, stops: float) -> float:
    """Code values of the stop centred `stops` above the grey card, narrow range; 0 beyond the clip."""
    entry = PROFILES.get(profile)
    return _codes(entry, stops + 0.5, bit_depth) - _codes(entry, stops - 0.5, bit_depth)


@lru_cache(maxsize=256)
def lightness_step(profile: str, bit_depth: int) -> float:
    """Step of L* that one source code makes at the grey card once it is an ordinary BT.709 picture.

    The picture is judged on a display of gamma 2.4 (BT.1886).
    """
    entry = PROFILES.get(profile)
    half = 0.05  # stops to either side
    low, high = GREY * 2.0**-half, GREY * 2.0**half
    codes = _codes(entry, half, bit_depth) - _codes(entry, -half, bit_depth)
    light = encode_bt709(np.array([low, high])) ** 2.4
    lightness = 116 * np.cbrt(light) - 16
    return float(lightness[1] - lightness[0]) / codes


@dataclass(frozen=True, slots=True, kw_only=True)
class Latitude:
    """Usable stops above and below the grey card."""

    above: float
    below: float

    @property
    def span(self) -> float:
        return self.above + self.below


@lru_cache(maxsize=512)
def usable(profile: str, bit_depth: int, iso_stops: float = 0.0) -> Latitude:
    """Span of a profile: up to its clip, down to where codes or noise end it.

    `iso_stops` is how far ISO stands above the camera's base.
    """
    entry = PROFILES.get(profile)
    above = math.log2(entry.clip / GREY)
    below = 0.0
    while below < 12 and codes_per_stop(profile, bit_depth, -round(below + 0.1, 1)) >= LEAST_CODES:
        below += 0.1
    noise = max(1.0, NOISE_FLOOR_STOPS - NOISE_PER_ISO_STOP * max(iso_stops, 0.0))
    return Latitude(above=above, below=min(below, noise))


def scene_span(contrast_stops: float) -> Latitude:
    """A scene's contrast laid around its grey card."""
    above = BRIGHT_SHARE * contrast_stops
    return Latitude(above=above, below=contrast_stops - above)
