"""Colour steps in a row, evaluated directly: one pass over the picture carries the state of the light."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from morphe.core.grade.convert import narrowed
from morphe.core.grade.layer import Layer
from morphe.core.grade.light import Light
from morphe.core.grade.source import Source
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.pipeline.hdr_space import HdrSpace
from morphe.core.signal.arrays import Encoded, Float, highest, lowest
from morphe.core.signal.primaries import LUMINANCE_709, Primaries, rgb_to_rgb
from morphe.core.signal.profiles import PROFILES

__all__ = ["through"]

NEAR_EDGE, LEAST_COLOUR = 0.03, 0.05  # of a colour that is brought inside the gamut
_STD = PROFILES.get("std-709")
_TO_WIDE = rgb_to_rgb(Primaries.BT709, Primaries.BT2020).T.astype(np.float32)


def through(
    source: Source, layers: Iterable[Layer], encoded: Encoded, space: HdrSpace | None = None
) -> Encoded:
    """Evaluate a source and layers of colour steps on R'G'B' (..., 3) float32, held at a moment.

    The result is BT.709-encoded and not clipped; without a step at work it is the input itself. Regions are
    not heeded here. In a `space` codes come and go as it says.
    """
    if space is None:
        picture, state = _steps(encoded, Light.ENCODED, source.steps)
    else:
        light = source.convert.coloured(space.light(source.convert.read_rightly(encoded)))
        picture, state = _steps(light, Light.LINEAR, (source.even_out, source.restore), space)
    for layer in layers:
        if not layer.at_work:
            continue
        colour = tuple(step for step in layer.steps if isinstance(step, ColourStep))
        changed, after = _steps(picture, state, colour, space)
        if layer.strength < 1:
            changed = _mixed(_to_state(picture, state, after), changed, after, layer.strength)
        picture, state = changed, after
    if space is not None:
        return space.code(_to_state(picture, state, Light.LINEAR))
    return _to_state(picture, state, Light.ENCODED).astype(np.float32, copy=False)


def _steps(
    picture: Float, state: Light, steps: Iterable[ColourStep], space: HdrSpace | None = None
) -> tuple[Float, Light]:
    for step in steps:
        if not step.at_work:
            continue
        if state is Light.WIDE and step.works_in is Light.LINEAR:
            picture = step.apply_wide(picture)
            continue
        picture = _to_state(picture, state, step.works_in)
        picture = step.apply(picture) if space is None else _above_white(step, picture, space.peak)
        state = step.gives
    return picture, state


def _above_white(step: ColourStep, picture: Float, peak: float) -> Float:
    """A step on a picture, in the state that it works in, whose light goes on above white."""
    if step.in_hdr is InHdr.AS_IS:
        return step.apply(picture)
    light = _to_state(picture, step.works_in, Light.LINEAR)
    if step.in_hdr is InHdr.TO_PEAK:
        return _to_state(step.apply(light / np.float32(peak)) * np.float32(peak), Light.LINEAR, step.gives)
    by, share = np.maximum(highest(light)[..., None], 1), _share_inside(light)
    inside = _greyer(light / by, share)
    done = _to_state(step.apply(_to_state(inside, Light.LINEAR, step.works_in)), step.gives, Light.LINEAR)
    return _to_state(_greyer(done, 1 / share) * by, Light.LINEAR, step.gives)


def _share_inside(light: Float) -> Float:
    """How much of its colour light (..., 3) may have so that no channel is negative, or quite 0: (..., 1)."""
    grey = (light @ LUMINANCE_709.astype(np.float32))[..., None]
    away = np.maximum(grey - lowest(light)[..., None], 1e-6)
    return np.asarray(
        np.where(grey > 0, np.clip((1 - NEAR_EDGE) * grey / away, LEAST_COLOUR, 1), 1), np.float32
    )


def _greyer(light: Float, share: Float) -> Float:
    grey = (light @ LUMINANCE_709.astype(np.float32))[..., None]
    return grey + share * (light - grey)


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
