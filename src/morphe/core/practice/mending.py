"""Mending to tolerance: footage spoiled in known ways, and how far a correction has come on the way back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from morphe.core.measure.drift import STOPS_PER_MIRED
from morphe.core.practice.scenes import PLACES_TO_MEND, chosen_shot, softened
from morphe.core.signal.arrays import Encoded, Linear, Mask
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure, film, record, truth
from morphe.core.standins.demo import render_scene

__all__ = [
    "KINDS",
    "TOLERANCE",
    "Mending",
    "Remains",
    "distance",
    "mending",
    "remains",
    "score",
    "spoil_of",
    "write_spoiled",
]

KINDS = {"mend-light": "Exposure", "mend-colour": "Balance", "mend-both": "Exposure, balance and profile"}
SIZE, FRAMES = (640, 360), 30
TOLERANCE = 2.0  # mean CIEDE2000 at which a mended picture counts as the truth
COMPARED = (192, 108)  # pixels of a picture that are compared
STOPS, MIRED, DUV = (1.5, 0.5), (70.0, 25.0), (0.014, 0.005)  # errors, plain and subtle
FREE = 3  # changes that cost nothing: one a rung
COST = 3.0  # points for each further one
DARK, BRIGHT = 0.02, 0.85  # of light: beyond, a tone tells nothing of exposure or balance
DUV_PER_STOP = 0.02  # of green against red and blue, near enough
_STD = PROFILES.get("std-709")


@dataclass(frozen=True, slots=True, kw_only=True)
class Mending:
    """A made-up clip to mend: what was filmed, and with which errors."""

    seed: int
    level: float
    kind: str
    scene: str
    time_s: float
    exposure: Exposure

    def light(self) -> Linear:
        return softened(render_scene(self.scene, self.time_s, width=SIZE[0], height=SIZE[1]))

    def truth(self) -> Encoded:
        return truth(self.light())


def mending(kind: str, seed: int, level: float) -> Mending:
    """The clip of a kind (of `KINDS`) and a seed; `level` 0..1 goes from plain to subtle."""
    generator = np.random.default_rng((seed, 9))
    shot = chosen_shot(generator, PLACES_TO_MEND)
    return Mending(
        seed=seed, level=level, kind=kind, scene=shot.scene, time_s=shot.time_s,
        exposure=spoil_of(kind, generator, level),
    )  # fmt: skip


def spoil_of(kind: str, generator: np.random.Generator, level: float) -> Exposure:
    """Errors of exposure, balance and profile by chance."""

    def error(between: tuple[float, float]) -> float:
        size = between[0] + (between[1] - between[0]) * min(max(level, 0.0), 1.0)
        return float(generator.choice([-1, 1]) * size * generator.uniform(0.8, 1.2))

    stops = 0.0 if kind == "mend-colour" else error(STOPS)
    if stops > 0:
        stops *= 0.5  # what is clipped cannot be mended
    is_coloured = kind != "mend-light"
    return Exposure(
        exposure_stops=stops, warm_mired=error(MIRED) if is_coloured else 0.0,
        green_duv=error(DUV) if is_coloured else 0.0, profile="flat-a" if kind == "mend-both" else "std-709",
    )  # fmt: skip


def write_spoiled(light: Linear, exposure: Exposure, path: Path, seed: int) -> Path:
    """The clip that the made-up camera writes of a light (H, W, 3) that stands still."""
    generator = np.random.default_rng((seed, 10))
    return record((film(light, exposure, generator) for _ in range(FRAMES)), path, exposure)


def _small(picture: Encoded) -> Encoded:
    return np.clip(cv2.resize(picture, COMPARED, interpolation=cv2.INTER_AREA), 0, 1)


def distance(graded: Encoded, right: Encoded) -> float:
    """How far a picture lies from the truth: mean CIEDE2000 of both made small."""
    return float(delta_e_2000(encoded_to_lab(_small(graded)), encoded_to_lab(_small(right))).mean())


@dataclass(frozen=True, slots=True, kw_only=True)
class Remains:
    """What is still to be done: the picture is so much too bright, too warm, too green."""

    stops: float
    mired: float
    duv: float

    @property
    def sentence(self) -> str:
        said = []
        if abs(self.stops) >= 0.05:
            said.append(f"{abs(self.stops):.1f} stop too {'bright' if self.stops > 0 else 'dark'}")
        if abs(self.mired) >= 2:
            said.append(f"{abs(self.mired):.0f} mired too {'warm' if self.mired > 0 else 'cool'}")
        if abs(self.duv) >= 0.001:
            said.append(f"{abs(1000 * self.duv):.0f} Duv/1000 too {'green' if self.duv > 0 else 'magenta'}")
        if not said:
            return "Exposure and balance are where they were; what is left lies in tones and colours."
        return f"Still {_listed(said)}."


def _listed(said: Sequence[str]) -> str:
    return said[0] if len(said) == 1 else f"{', '.join(said[:-1])} and {said[-1]}"


def remains(graded: Encoded, right: Encoded) -> Remains:
    """What lies between a picture and the truth, as a person would set it."""
    one, other = (np.maximum(_STD.decode(_small(p)), 1e-4) for p in (graded, right))
    told = _told(one) & _told(other)
    if told.sum() < 20:
        told = np.ones(told.shape, bool)
    ratio = np.log2(one[told] / other[told])
    stops = np.log2((one[told] @ LUMINANCE_709) / (other[told] @ LUMINANCE_709))
    return Remains(
        stops=float(np.median(stops)),
        mired=float(np.median(ratio[:, 0] - ratio[:, 2])) / STOPS_PER_MIRED,
        duv=float(np.median(ratio[:, 1] - (ratio[:, 0] + ratio[:, 2]) / 2)) * DUV_PER_STOP,
    )


def _told(light: Linear) -> Mask:
    mask: Mask = np.asarray((light.min(axis=-1) > DARK) & (light.max(axis=-1) < BRIGHT))
    return mask


def score(begun: float, now: float, changes: int) -> int:
    """0..100: how much of the way was gone, less a little for every change beyond the first few."""
    way = max(begun - TOLERANCE, 1e-6)
    gone = min(max((begun - now) / way, 0.0), 1.0)
    return round(max(100 * gone - COST * max(changes - FREE, 0), 0.0))
