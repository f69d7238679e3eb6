"""Colour steps in a row, evaluated directly: one pass over the picture carries the state of the light."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from morphe.core.grade.convert import narrowed
from morphe.core.grade.layer import Layer
from morphe.core.grade.light import Light
from morphe.core.grade.source import Source
from morphe.core.grade.step import ColourStep
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.primaries import Primaries, rgb_to_rgb
from morphe.core.signal.profiles import PROFILES

__all__ = ["through"]

_STD = PROFILES.get("std-709")
_TO_WIDE = rgb_to_rgb(Primaries.BT709, Primaries.BT2020).T.astype(np.float32)


def through(source: Source, layers: Iterable[Layer], encoded: Encoded) -> Encoded:
    """Evaluate a source and layers of colour steps on R'G'B' (..., 3) float32, held at a moment.

    The result is BT.709-encoded and not clipped; without a step at work it is the input itself. Regions are
    not heeded here.
    """
    picture, state = _steps(encoded, Light.ENCODED, source.steps)
    for layer in layers:
        if not layer.at_work:
            continue
        colour = tuple(step for step in layer.steps if isinstance(step, ColourStep))
        changed, after = _steps(picture, state, colour)
        if layer.strength < 1:
            changed = _mixed(_to_state(picture, state, after), changed, after, layer.strength)
        picture, state = changed, after
    return _to_state(picture, state, Light.ENCODED).astype(np.float32, copy=False)


def _steps(picture: Float, state: Light, steps: Iterable[ColourStep]) -> tuple[Float, Light]:
    for step in steps:
        if not step.at_work:
            continue
        if state is Light.WIDE and step.works_in is Light.LINEAR:
            picture = step.apply_wide(picture)
            continue
        picture = step.apply(_to_state(picture, state, step.works_in))
        state = step.gives
    return picture, state


def _to_state(picture: Float, state: Light, wanted: Light) -> Float:
    if state is wanted:
        return picture
    if state is Light.WIDE:
        return _to_state(narrowed(picture), Light.LINEAR, wanted)
    if wanted is Light.WIDE:
        return _to_state(picture, state, Light.LINEAR) @ _TO_WIDE
    return _STD.decode(picture) if wanted is Light.LINEAR else _STD.encode(picture)


def _mixed(one: Float, other: Float, state: Light, share: float) -> Float:
    """Mix two pictures of one state like with like: in code, where equal steps look equal."""
    if state is not Light.ENCODED:
        one, other = _STD.encode(one), _STD.encode(other)
    mixed = one + np.float32(share) * (other - one)
    return mixed if state is Light.ENCODED else _STD.decode(mixed)
