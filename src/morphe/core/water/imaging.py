"""How water changes a picture on its way to the lens: what is lost, what is laid over it, a lamp, a filter.

I = J · light(depth) · exp(-c z) + veil · (1 - exp(-c z)), per channel, in linear light (Schechner and
Karpel 2005); J as daylight at the surface shows it, z the way from subject to lens. A lamp at the lens adds
J · lamp · exp(-2 c z) / z².
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from morphe.core.signal.arrays import Float, Linear, Plane
from morphe.core.water.daylight import WATER_TYPES, Channels, WaterType

__all__ = [
    "Dive",
    "Water",
    "between",
    "daylight_at",
    "left_of",
    "seen_under_water",
    "water_colour",
    "water_of",
]

NEAREST_M = 0.4  # nearer, a lamp is not brighter still: it lights from beside the lens


@dataclass(frozen=True, slots=True, kw_only=True)
class Water:
    """What one metre of water takes, and throws back, per channel.

    `down` is K_d of daylight, `along` the loss on the sight line, `thrown_back` the share of daylight at the
    subject's depth that endless water shows (its colour).
    """

    down: Channels
    along: Channels
    thrown_back: Channels


@dataclass(frozen=True, slots=True, kw_only=True)
class Dive:
    """One shot's circumstances.

    slant : way of sunlight by depth (1 for a high sun); lamp : its light at one metre, by daylight's at the
    surface; filter : what a filter on the lens lets through
    """

    water: Water
    depth_m: float
    slant: float = 1.0
    lamp: Channels = (0.0, 0.0, 0.0)
    filter: Channels = (1.0, 1.0, 1.0)


def between(one: WaterType, other: WaterType, share: float, *, forward: float, thrown: float) -> Water:
    """A water between two types.

    Parameters
    ----------
    share : 0..1, of `other`
    forward : 0..1, share of what is scattered out of the sight line that still reaches the lens
    thrown : what endless water shows of the light scattered on the sight line
    """

    def mixed(a: Channels, b: Channels) -> Float:
        return np.exp((1 - share) * np.log(a) + share * np.log(b))

    down, beam = mixed(one.down, other.down), mixed(one.beam, other.beam)
    scattered = np.maximum(beam - 0.8 * down, 0.05 * beam)  # K_d is mostly absorption
    along = np.maximum(beam - forward * scattered, 0.9 * down)
    return Water(down=_three(down), along=_three(along), thrown_back=_three(thrown * scattered / along))


def water_of(kind: WaterType | str, *, forward: float = 0.6, thrown: float = 0.15) -> Water:
    """A water of one of Jerlov's types."""
    found = WATER_TYPES.get(kind) if isinstance(kind, str) else kind
    return between(found, found, 0.0, forward=forward, thrown=thrown)


def _three(values: Float) -> Channels:
    return float(values[0]), float(values[1]), float(values[2])


def daylight_at(dive: Dive) -> Float:
    """Share of the surface's daylight that arrives at the subject's depth (3,)."""
    return np.exp(-np.array(dive.water.down) * dive.depth_m * dive.slant)


def water_colour(dive: Dive) -> Float:
    """What endless water looks like through the filter (3,), by the surface's daylight."""
    return daylight_at(dive) * np.array(dive.water.thrown_back) * np.array(dive.filter)


def left_of(dive: Dive, distance_m: Float) -> Float:
    """Share of a subject's colour that reaches the sensor (..., 3), of daylight and lamp together."""
    z = np.asarray(distance_m, np.float64)[..., None]
    along = np.array(dive.water.along)
    lamp = np.array(dive.lamp) * np.exp(-along * z) / np.maximum(z, NEAREST_M) ** 2
    return (daylight_at(dive) + lamp) * np.exp(-along * z) * np.array(dive.filter)


def seen_under_water(light: Linear, distance_m: Plane, dive: Dive) -> Linear:
    """What the lens gets of a scene (H, W, 3) in daylight, at distances (H, W) in metres.

    Endless water is where the distance is infinite.
    """
    z = np.minimum(distance_m, 1e3)
    through = np.exp(-np.array(dive.water.along) * z[..., None])
    found = light * left_of(dive, z) + water_colour(dive) * (1 - through)
    return found.astype(np.float32)
