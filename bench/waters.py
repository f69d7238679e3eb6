"""Photographs put under water: any water, depth, distance, lamp, filter and camera, with the truth kept.

The truth is what a diver would like to see: the near subject as in air; far things pale into water of its own
colour, half as much as they do in the picture. Every number is drawn by chance from wide ranges.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from bench.simulate import Camera, Faults, any_camera, recorded
from morphe.core.advise.profile.prior import FITTED, FITTED_FLAT
from morphe.core.signal.arrays import Encoded, Float, Linear, Plane
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.transfer import decode_bt709, encode_bt709
from morphe.core.water.daylight import WATER_TYPES
from morphe.core.water.hints import WaterHints
from morphe.core.water.imaging import Dive, between, left_of, seen_under_water, water_colour

__all__ = ["Filmed", "any_distances", "any_dive", "clouds", "film_dive", "film_under_water"]

TYPES = ("I", "IB", "II", "III", "1C", "3C", "5C")
OFTEN = (0.15, 0.25, 0.22, 0.17, 0.14, 0.07)  # how often a water lies between a type and the next
KINDS = {"std-709": 0.65, FITTED_FLAT: 0.13, FITTED: 0.22}
LUMA = LUMINANCE_709.astype(np.float32)
MOST_LOST = 2.0  # of green on its way down, in powers of e: deeper nobody films without a lamp
THICKEST = 1.2  # of the water before the near subject, in powers of e
PALE = 0.3  # luminance of endless water as it is wanted, at most
CLEARED = 0.5  # share of the haze behind the subject that is wanted gone


@dataclass(frozen=True, kw_only=True)
class Filmed:
    """A picture as filmed and as wanted, both encoded (H, W, 3), with all that is true of it.

    distances : metres (H, W), infinite where there is only water
    near_m : distance of the near subject
    named : the water type that a person would name
    left : share of the near subject's colour that reached the sensor (3,), by daylight at the surface
    water : what endless water is in the recorded light (3,)
    gains : of the camera, from light at the sensor to recorded light (3,)
    """

    camera: Camera
    faults: Faults
    dive: Dive
    distances: Plane
    near_m: float
    named: str
    picture: Encoded
    truth: Encoded
    left: Float
    water: Float
    gains: Float

    @property
    def hints(self) -> WaterHints:
        """All that a person could know of it."""
        return WaterHints(
            wet=True, depth_m=self.dive.depth_m, distance_m=self.near_m, water=self.named,
            lamp=max(self.dive.lamp) > 0, filter="red" if min(self.dive.filter) < 1 else "none",
        )  # fmt: skip

    @property
    def has_open_water(self) -> bool:
        return bool(np.isinf(self.distances).mean() > 0.03)


def any_dive(generator: np.random.Generator) -> tuple[Dive, str]:
    """Circumstances of a shot, from the surface to 15 m, and the type that its water is nearest to."""
    g = generator
    at = int(g.choice(len(TYPES) - 1, p=OFTEN))
    share = float(g.random())
    water = between(
        WATER_TYPES.get(TYPES[at]), WATER_TYPES.get(TYPES[at + 1]), share,
        forward=float(g.uniform(0.2, 0.9)), thrown=float(np.exp(g.uniform(np.log(0.05), np.log(0.35)))),
    )  # fmt: skip
    depth = float(np.exp(g.uniform(np.log(1.2), np.log(min(15.0, MOST_LOST / water.down[1])))))
    dive = Dive(water=water, depth_m=depth, slant=float(g.uniform(1, 1.3)))
    if g.random() < 0.25:
        warm = g.normal(0, 0.25)
        power = float(np.exp(g.uniform(np.log(0.15), np.log(3.0))))
        dive = replace(dive, lamp=tuple(power * np.exp2([warm / 2, 0, -warm / 2])))
    elif g.random() < 0.15:
        dive = replace(dive, filter=(0.9, float(g.uniform(0.2, 0.55)), float(g.uniform(0.15, 0.5))))
    return dive, TYPES[at + round(share)]


def clouds(shape: tuple[int, int], generator: np.random.Generator, cells: int = 4) -> Plane:
    """Slow random waves (H, W) about 0, deviation near 1."""
    coarse = generator.normal(0, 1, (cells, cells + 2)).astype(np.float32)
    return cv2.resize(coarse, shape[::-1], interpolation=cv2.INTER_CUBIC)


def any_distances(shape: tuple[int, int], generator: np.random.Generator, along: float) -> Plane:
    """Distances (H, W) in metres: all as far, or a bottom that leads away, perhaps to open water, and a
    subject before it; `along` is what a metre of the sight line takes."""
    g = generator
    near = float(np.exp(g.uniform(np.log(0.6), np.log(max(0.7, min(3.5, THICKEST / along))))))
    y = np.linspace(0, 1, shape[0], dtype=np.float32)[:, None]
    x = np.linspace(-1, 1, shape[1], dtype=np.float32)[None, :]
    bumps = np.exp(0.12 * clouds(shape, g))
    if g.random() < 0.35:
        return near * bumps
    far = near * float(np.exp(g.uniform(np.log(1.5), np.log(6.0))))
    edge = g.uniform(-0.3, 0.45) if g.random() < 0.6 else -1.0
    way = np.clip((1 - y) / (1 - max(edge, 0.0)), 0, 1) ** g.uniform(1, 3)
    found = np.exp(np.log(near) + way * np.log(far / near)) * bumps
    found = np.where(y + 0.06 * clouds(shape, g, 7) < edge, np.inf, found)
    if g.random() < 0.5:
        at, size = (g.uniform(-0.6, 0.6), g.uniform(0.3, 0.8)), (g.uniform(0.2, 0.5), g.uniform(0.15, 0.4))
        inside = ((x - at[0]) / size[0]) ** 2 + ((y - at[1]) / size[1]) ** 2 < 1 + 0.3 * clouds(shape, g, 6)
        found = np.where(inside, near * g.uniform(0.6, 1.0), found)
    return found.astype(np.float32)


def wanted(light: Linear, distances: Plane, near_m: float, dive: Dive) -> Linear:
    """The picture that is wanted (H, W, 3)."""
    behind = np.maximum(np.minimum(distances, 1e3) - near_m, 0)
    clear = np.exp(-CLEARED * np.mean(dive.water.along) * behind)[..., None]
    plain = replace(dive, filter=(1.0, 1.0, 1.0))
    shown = water_colour(plain) / float(left_of(plain, np.array(near_m)) @ LUMA)
    shown = shown * min(1.0, PALE / float(shown @ LUMA))
    return np.asarray(light * clear + shown * (1 - clear), np.float32)


def film_under_water(photograph: Encoded, generator: np.random.Generator) -> Filmed:
    """Put a picture (H, W, 3), taken as daylight's, under water and film it there."""
    dive, named = any_dive(generator)
    light = decode_bt709(photograph).astype(np.float32)
    distances = any_distances(photograph.shape[:2], generator, float(np.mean(dive.water.along)))
    return film_dive(light, distances, dive, named, generator)


def film_dive(
    light: Linear, distances: Plane, dive: Dive, named: str, generator: np.random.Generator
) -> Filmed:
    """Film what is seen of light in air (H, W, 3) through water, by any camera."""
    g = generator
    near = float(np.quantile(distances, 0.2))
    seen = seen_under_water(light, distances, dive)
    white = _camera_balance(seen, g)
    metered = seen * white
    bright = float(np.quantile(metered.max(axis=-1), 0.995))
    mean = float((metered @ LUMA).mean())
    gain = g.uniform(0.6, 1.05) / max(bright, 1e-6)
    if g.random() < 0.5:
        gain = min(0.16 * np.exp2(g.normal(0, 0.4)) / max(mean, 1e-6), 1.3 / max(bright, 1e-6))
    kind = str(g.choice(list(KINDS), p=list(KINDS.values())))
    camera = any_camera(kind, g)
    read = float(np.exp(g.normal(np.log(0.0008), 0.4))) * float(np.clip(gain / 8, 1, 6))
    faults = Faults(read=read, shot=read * read * 30, bits=int(g.choice([8, 10])))
    gains = gain * white
    picture = recorded((seen * gains).astype(np.float32), camera, faults, g)
    truth = np.clip(encode_bt709(np.clip(wanted(light, distances, near, dive), 0, 1)), 0, 1)
    return Filmed(
        camera=camera, faults=faults, dive=dive, distances=distances, near_m=near, picture=picture,
        truth=truth.astype(np.float32), named=named, left=left_of(dive, np.array(near)),
        water=water_colour(dive) * gains, gains=gains,
    )  # fmt: skip


def _camera_balance(seen: Linear, generator: np.random.Generator) -> Float:
    """Gains (3,) of the camera's balance: held at daylight, or as far towards grey as its automatic goes."""
    if generator.random() < 0.4:
        return np.exp2(np.array([generator.normal(0, 0.1), 0, generator.normal(0, 0.1)]))
    mean = seen.reshape(-1, 3).mean(axis=0) + 1e-9
    pull = generator.uniform(0.2, 0.9)
    limit = generator.uniform(0.6, 1.8)  # stops
    return np.exp2(np.clip(pull * np.log2(mean[1] / mean), -limit, limit))
