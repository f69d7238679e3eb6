"""Light on its way down into the water, to the subject and on to the lens.

Beer-Lambert with Jerlov's water types (K_d per vertical metre for a high sun; red 600 nm, green 540 nm,
blue 460 nm). The beam values `c` for the sight line are rough: within a factor of two.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from morphe.core.registry import Registry
from morphe.core.signal.primaries import LUMINANCE_709

__all__ = [
    "WATER_TYPES",
    "DepthLight",
    "WaterType",
    "depth_light",
    "lamp_left",
    "light_left",
    "path_factor",
    "stops_lost",
    "surface_reflection",
]

Channels = tuple[float, float, float]
WATER_INDEX = 1.34  # refractive index of sea water


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterType:
    """How fast one kind of water takes red, green and blue, per metre."""

    key: str
    label: str
    down: Channels  # K_d, daylight going down
    beam: Channels  # c, along the sight line

    @property
    def is_green(self) -> bool:
        """Whether blue goes faster than red, so that the water looks green."""
        return self.down[2] > self.down[0]


WATER_TYPES: Registry[WaterType] = Registry("water type")

# Jerlov 1976, interpolated between 25-nm steps; the beam column is an estimate.
for _key, _label, _down, _beam in (
    ("I", "Clearest ocean", (0.235, 0.055, 0.019), (0.24, 0.07, 0.045)),
    ("IA", "Clear ocean", (0.240, 0.059, 0.026), (0.25, 0.09, 0.07)),
    ("IB", "Clear tropical reef", (0.245, 0.065, 0.035), (0.27, 0.12, 0.11)),
    ("II", "Typical warm sea", (0.260, 0.084, 0.066), (0.43, 0.31, 0.33)),
    ("III", "Productive sea", (0.295, 0.118, 0.127), (0.8, 0.7, 0.85)),
    ("1C", "Clear coast", (0.300, 0.124, 0.218), (0.6, 0.5, 0.6)),
    ("3C", "Green coast", (0.330, 0.194, 0.350), (1.0, 0.9, 1.2)),
    ("5C", "Cloudy coast", (0.400, 0.304, 0.508), (1.4, 1.5, 1.9)),
    ("7C", "Turbid harbour", (0.480, 0.472, 0.818), (2.1, 2.3, 2.9)),
    ("9C", "Very turbid", (0.600, 0.690, 1.452), (3.1, 3.4, 4.6)),
):
    WATER_TYPES.register(_key)(WaterType(key=_key, label=_label, down=_down, beam=_beam))


def stops_lost(per_metre: float, metres: float) -> float:
    """Stops that go along a path: K·d / ln 2."""
    return per_metre * metres / math.log(2)


def light_left(water: WaterType, *, depth_m: float, distance_m: float = 0.0, slant: float = 1.0) -> Channels:
    """Share of surface daylight that reaches the lens by way of the subject, per channel.

    `slant` lengthens the way down for a low sun; 1 for a high sun and for an overcast sky.
    """
    return _channels(
        math.exp(-k * depth_m * slant - c * distance_m) for k, c in zip(water.down, water.beam, strict=True)
    )


def lamp_left(water: WaterType, *, distance_m: float) -> Channels:
    """Share of a lamp's light left when lamp and lens are `distance_m` from the subject."""
    return _channels(math.exp(-2 * c * distance_m) for c in water.beam)


def _channels(values: Iterable[float]) -> Channels:
    red, green, blue = values
    return red, green, blue


def surface_reflection(elevation_deg: float) -> float:
    """Share of direct sun that a flat surface throws back (Fresnel, unpolarised); 1 when it is down."""
    if elevation_deg <= 0:
        return 1.0
    into = math.radians(90 - elevation_deg)
    below = math.asin(math.sin(into) / WATER_INDEX)
    if into < 1e-6:
        return ((WATER_INDEX - 1) / (WATER_INDEX + 1)) ** 2
    across = math.sin(into - below) / math.sin(into + below)
    along = math.tan(into - below) / math.tan(into + below)
    return (across**2 + along**2) / 2


def path_factor(elevation_deg: float) -> float:
    """How much longer than straight down the refracted sun's way is: 1 / cos of its angle in water."""
    into = math.radians(90 - max(elevation_deg, 0.0))
    return 1 / math.sqrt(1 - (math.sin(into) / WATER_INDEX) ** 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class DepthLight:
    """What is left of the light for one shot under water."""

    water: WaterType
    depth_m: float
    distance_m: float
    has_lamp: bool
    daylight: Channels  # share left of surface daylight, over the whole path
    lamp: Channels  # share left of the lamp's own light

    @property
    def lost_stops(self) -> float:
        """Stops of brightness (luminance of BT.709) that daylight loses."""
        weights = LUMINANCE_709
        return -math.log2(max(sum(w * v for w, v in zip(weights, self.daylight, strict=True)), 1e-12))

    @property
    def red_behind_stops(self) -> float:
        """How far red is behind green in the light that the picture is made with."""
        red, green, _ = self.lamp if self.has_lamp else self.daylight
        return math.log2(green / red) if red > 0 else math.inf


def depth_light(
    water: WaterType, *, depth_m: float, distance_m: float, slant: float = 1.0, has_lamp: bool = False
) -> DepthLight:
    """Work out both ways of light for one shot."""
    return DepthLight(
        water=water,
        depth_m=depth_m,
        distance_m=distance_m,
        has_lamp=has_lamp,
        daylight=light_left(water, depth_m=depth_m, distance_m=distance_m, slant=slant),
        lamp=lamp_left(water, distance_m=distance_m),
    )
