"""What a person knows of a dive: each hint narrows down what the water did."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Float
from morphe.core.water.daylight import WATER_TYPES
from morphe.core.water.imaging import Dive, left_of, water_of

__all__ = [
    "DEEPEST_M",
    "FARTHEST_M",
    "HINT_TRAITS",
    "MOST_DEPTHS",
    "RED_FILTER",
    "Depths",
    "WaterHints",
    "ceiling_of",
]

DEEPEST_M, FARTHEST_M = 60.0, 30.0
HINT_TRAITS = 9
Depths = tuple[tuple[float, float], ...]  # seconds of the clip, metres
MOST_DEPTHS = 400
USUAL_LAMP, USUAL_SLANT = 0.7, 1.1  # of a lamp at a metre by daylight, of a sun at its usual height
RED_FILTER, MAGENTA_FILTER = (0.9, 0.35, 0.3), (0.9, 0.35, 0.7)
USUAL_WATER, USUAL_DEPTH_M, USUAL_DISTANCE_M = "II", 4.0, 1.5


def ceiling_of(bit_depth: int) -> float:
    """Stops by which red may be raised above green without the person's word: beyond, noise is raised."""
    return 3.0 if bit_depth <= 8 else 4.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterHints:
    """A person's word on a clip's water; None and empty where nothing was said.

    Parameters
    ----------
    wet : filmed under water, or not
    planned : a dive or snorkel was planned, or clips beside it were filmed under water
    depth_m : the subject's depth; distance_m : from subject to lens
    depths : seconds of the clip and metres, where the depth changes
    water : one of WATER_TYPES; lamp : whether one lit the subject; filter : red, magenta or none on the lens
    """

    wet: bool | None = None
    planned: bool = False
    depth_m: float | None = None
    distance_m: float | None = None
    water: str = ""
    lamp: bool | None = None
    filter: str = ""
    depths: Depths = ()

    def __post_init__(self) -> None:
        for name, value, most in (
            ("depth", self.depth_m, DEEPEST_M), ("distance", self.distance_m, FARTHEST_M),
        ):  # fmt: skip
            if value is not None and not 0 <= value <= most:
                raise ColourError(f"A {name} under water is 0 to {most:g} m, not {value:g}.")
        seconds = [t for t, _ in self.depths]
        if len(seconds) > MOST_DEPTHS or seconds != sorted(set(seconds)) or any(t < 0 for t in seconds):
            raise ColourError(f"Depths over a clip are at most {MOST_DEPTHS}, at rising seconds.")
        if not all(0 <= depth <= DEEPEST_M for _, depth in self.depths):
            raise ColourError(f"A depth under water is 0 to {DEEPEST_M:g} m, all along.")
        if self.water and self.water not in WATER_TYPES:
            raise ColourError(f"There is no water type {self.water!r}; known are: {', '.join(WATER_TYPES)}.")
        if self.filter not in ("", "none", "red", "magenta"):
            raise ColourError("A filter under water is red, magenta or none.")

    @property
    def tells(self) -> bool:
        """Whether anything is known of how the light came."""
        return bool(self.depth_m is not None or self.distance_m is not None or self.water)

    @property
    def dive(self) -> Dive:
        """The circumstances, with what is usual where nothing is known."""
        filters = {"red": RED_FILTER, "magenta": MAGENTA_FILTER}
        return Dive(
            water=water_of(self.water or USUAL_WATER),
            depth_m=USUAL_DEPTH_M if self.depth_m is None else self.depth_m,
            slant=USUAL_SLANT,
            lamp=(USUAL_LAMP,) * 3 if self.lamp else (0.0, 0.0, 0.0),
            filter=filters.get(self.filter, (1.0, 1.0, 1.0)),
        )

    @property
    def left(self) -> Float:
        """Share of the subject's colour that reached the sensor (3,), as far as can be known."""
        distance = USUAL_DISTANCE_M if self.distance_m is None else self.distance_m
        return left_of(self.dive, np.array(distance))

    @property
    def changes_depth(self) -> bool:
        """Whether the subject lies at other depths during the clip."""
        return len({depth for _, depth in self.depths}) > 1

    def depth_at(self, time_s: float) -> float:
        """Depth at a moment, in metres, where depths are known."""
        times, metres = zip(*self.depths, strict=True)
        return float(np.interp(time_s, times, metres))

    def at_depth(self, depth_m: float) -> WaterHints:
        """The same at another depth."""
        return replace(self, depth_m=depth_m, depths=())

    def as_traits(self) -> Float:
        """What the estimator is told (HINT_TRAITS,): light left in stops where anything is known, the ways,
        and what of it was told."""
        ways = (self.depth_m, self.distance_m)
        told = [*(way is not None for way in ways), bool(self.water), self.lamp is not None]
        if not self.tells and not self.lamp and self.filter in ("", "none"):
            return np.zeros(HINT_TRAITS)
        left = np.log2(np.maximum(self.left, 2.0**-12))
        way = [
            np.log2(max(value or 0.3, 0.3)) if known else 0.0
            for value, known in zip(ways, told, strict=False)
        ]
        return np.array([left[0] - left[1], left[2] - left[1], left[1], *way, *told], float)
