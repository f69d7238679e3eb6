"""Where a clip's curve most likely puts black, grey and white, if it is flat or a log; with the spread.

Small networks look at how the codes are spread (the traits of `resemblance`) and say where the landmarks of a
well-exposed scene lie, and how much colour the curve took. They were taught on photographs filmed in curves
of the whole family; `python -m bench.teach` does it again.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

from morphe.core.advise.networks import Networks, read_taught
from morphe.core.signal.arrays import Float
from morphe.core.signal.families import Landing
from morphe.core.signal.profiles import Kind

__all__ = ["COLOUR_SCALE", "TAUGHT", "Judged", "landing_of"]

TAUGHT = Path(__file__).with_suffix(".npz")
COLOUR_SCALE = 0.3  # of the logarithm of colour, so that it weighs about as much as a landmark
LEAST_SPAN = 0.08  # between two landmarks
# Points by which a spread is stood for: the mean, and one to either side along each of the two main axes.
REACH, OUTER = 1.3, 0.15


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Judged:
    """Mean (black, grey, white, colour) of a clip's curve, and the deviations of these from the truth (4, 4):
    rows are main axes, longest first."""

    mean: Float
    axes: Float

    def points(self) -> Iterator[tuple[Landing, float, float]]:
        """Curves that stand for all likely ones: landing, gain of colour, and weight."""
        yield *_shaped(self.mean), 1 - 4 * OUTER
        for axis in self.axes[:2]:
            for side in (-REACH, REACH):
                yield *_shaped(self.mean + side * axis), OUTER

    def as_json(self) -> dict[str, list[float] | list[list[float]]]:
        """Plain values, as a clip keeps them."""
        return {"mean": self.mean.round(5).tolist(), "axes": self.axes.round(5).tolist()}

    @classmethod
    def from_json(cls, data: Mapping[str, Sequence[float] | Sequence[Sequence[float]]]) -> Judged:
        """From what `as_json` gave."""
        return cls(mean=np.array(data["mean"], float), axes=np.array(data["axes"], float))

    @property
    def best(self) -> tuple[Landing, float]:
        """The likeliest curve and its gain of colour."""
        return _shaped(self.mean)

    @property
    def spread(self) -> tuple[float, float, float]:
        """Deviations of black, grey and white."""
        black, grey, white = np.sqrt((self.axes**2).sum(axis=0))[:3]
        return float(black), float(grey), float(white)


def _shaped(numbers: Float) -> tuple[Landing, float]:
    black, grey, white, colour = (float(n) for n in numbers)
    black = float(np.clip(black, -0.02, 0.4))
    grey = float(np.clip(grey, black + LEAST_SPAN, 0.9))
    white = float(np.clip(white, grey + LEAST_SPAN, 1.3))
    return Landing(black=black, grey=grey, white=white), float(
        np.clip(np.exp(colour / COLOUR_SCALE), 0.7, 2.5)
    )


def landing_of(traits: Float, kind: Kind) -> Judged:
    """Judge the curve of a clip of a kind (flat or log) by its traits."""
    where, how_far, axes = _taught(kind)
    mean = where.answers(traits).mean(axis=0)
    factor = np.exp(0.5 * float(how_far.answers(traits).mean()))
    return Judged(mean=mean, axes=factor * axes)


@lru_cache(maxsize=2)
def _taught(kind: Kind) -> tuple[Networks, Networks, Float]:
    arrays = read_taught(TAUGHT)
    return Networks.of(arrays, f"{kind}_mean"), Networks.of(arrays, f"{kind}_spread"), arrays[f"{kind}_axes"]
