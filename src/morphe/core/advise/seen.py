"""A clip's judging frames as they look through the work so far, each view computed once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from morphe.core.advise.aims import Aims
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.source import Source
from morphe.core.grade.step import Step
from morphe.core.measure.faces import Box
from morphe.core.measure.readings import Cast, cast_of, luma_of
from morphe.core.measure.skin import Patch, Skin, skin_in
from morphe.core.measure.zone import Reading, Zone
from morphe.core.pipeline.colour import through
from morphe.core.signal.arrays import Encoded, Float, Linear, highest
from morphe.core.signal.profiles import PROFILES

__all__ = ["Seen", "bright_end", "seen_through"]

_STD = PROFILES.get("std-709")


def bright_end(values: Float) -> float:
    """Robust bright end of positive values: geometric mean of their 99.6th and 99.95th percentile."""
    low, high = np.percentile(values, [99.6, 99.95])
    return float(np.sqrt(max(low, 1e-4) * max(high, 1e-4)))


@dataclass(eq=False)
class Seen:
    """Encoded pictures (H, W, 3) and their moments."""

    pictures: tuple[Encoded, ...]
    times_s: tuple[float, ...] = field(default=())
    aims: Aims = field(default_factory=Aims)
    patch: Patch | None = None  # where the person says that there is skin
    faces: tuple[tuple[Box, ...], ...] | None = None  # by picture, where they were looked for

    def then(self, step: Step) -> Seen:
        """The same through one more step."""
        if not step.at_work:
            return self
        return seen_through(self, Grade.of(step))

    @cached_property
    def pixels(self) -> Encoded:
        """All pictures' pixels (n, 3)."""
        return np.concatenate([p.reshape(-1, 3) for p in self.pictures])

    @cached_property
    def light(self) -> tuple[Linear, ...]:
        """The pictures as scene-linear light."""
        return tuple(_STD.decode(p).astype(np.float32) for p in self.pictures)

    @cached_property
    def peaks(self) -> Float:
        """The brightest channel of every pixel, in light (n,)."""
        return np.concatenate([highest(p).ravel() for p in self.light])

    @cached_property
    def bright_end(self) -> float:
        """Robust bright end of the light."""
        return bright_end(self.peaks)

    @cached_property
    def skin(self) -> Skin | None:
        """Skin: where the person pointed, or found by itself."""
        return skin_in(self.pictures, self.patch, self.faces)

    @cached_property
    def luma(self) -> Float:
        """Luma of every pixel (n,)."""
        return luma_of(self.pixels)

    @cached_property
    def cast(self) -> Cast:
        """Where near-neutral tones lie."""
        return cast_of(self.pixels)

    def percentiles(self, *shares: float) -> tuple[float, ...]:
        """Percentiles of luma, in percent."""
        return tuple(float(v) * 100 for v in np.percentile(self.luma, shares))

    def level(self, percentile: float, zone: Zone) -> Reading:
        """The level that a percentile of the pixels reaches, read and marked in percent."""
        (value,) = self.percentiles(percentile)
        return Reading(value=value, zone=zone, marks=(value,), marked_zone=(zone.low, zone.high))


def seen_through(seen: Seen, grade: Grade) -> Seen:
    """Frames through the source and the layers of a grade, each at its moment; regions are not heeded."""
    times: Sequence[float] = seen.times_s or (0.0,) * len(seen.pictures)
    layers = tuple(layer for layer in grade.layers if layer.region is None)
    pictures = tuple(
        through(_held(grade.source, t), _held_layers(layers, t), p)
        for t, p in zip(times, seen.pictures, strict=True)
    )
    return replace(seen, pictures=pictures)


def _held(source: Source, time_s: float) -> Source:
    return source.at(time_s)


def _held_layers(layers: tuple[Layer, ...], time_s: float) -> tuple[Layer, ...]:
    return tuple(layer.at(time_s) for layer in layers)
