"""Turning knobs until the colours of one set of pictures lie as those of another, stage after stage."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from morphe.core.grade.layer import Layer
from morphe.core.grade.source import Source
from morphe.core.match.distance import cloud_of, directions, tones
from morphe.core.match.knobs import Knob, steps_of
from morphe.core.pipeline.colour import through
from morphe.core.signal.arrays import Encoded, Float

__all__ = ["Fitted", "fit", "through_steps"]

DIRECTIONS, TONES = 24, 48
TRIED = 0.04  # of what is usual for a knob: the step by which its effect is felt
ROUNDS, LAST_ROUNDS = 4, 5
OUTLYING = 2.0  # distances beyond weigh less: what only one of the pictures shows
Fitted = dict[Knob, float]


def through_steps(values: Mapping[Knob, float], encoded: Encoded) -> Encoded:
    """Pixels (n, 3) through the steps that numbers make."""
    steps = steps_of(values)
    if not steps:
        return encoded
    return through(Source(), (Layer(id="match", steps=steps),), encoded)


def fit(pixels: Encoded, reference: Encoded, stages: Sequence[Sequence[Knob]], *, held: float) -> Fitted:
    """Numbers for the knobs of all stages: each stage in turn, then all together.

    Parameters
    ----------
    pixels, reference : R'G'B' (n, 3) and (m, 3)
    held : how much a knob's usual range costs, against a distance of one
    """
    along = directions(DIRECTIONS)
    wanted = tones(cloud_of(reference), along, TONES)

    def apart(values: Fitted) -> Float:
        return (tones(cloud_of(through_steps(values, pixels)), along, TONES) - wanted).ravel()

    values: Fitted = {}
    for knobs in filter(None, stages):
        values |= dict.fromkeys(knobs, 0.0)
        values = _turned(values, tuple(knobs), apart, held, ROUNDS)
    return _turned(values, tuple(values), apart, held, LAST_ROUNDS)


def _turned(
    values: Fitted, knobs: tuple[Knob, ...], apart: Callable[[Fitted], Float], held: float, rounds: int
) -> Fitted:
    """Gauss-Newton with bounds, each knob felt for in turn; a step that does not help is halved."""
    here = apart(values)
    cost = _cost(here, values, held)
    for _ in range(rounds):
        slopes = np.stack([_felt(values, knob, here, apart) for knob in knobs], axis=-1)
        wish = _wish(slopes, here, np.array([values[k] / k.usual for k in knobs]), held)
        share = 1.0
        while share > 0.1:
            tried = values | {
                k: float(np.clip(values[k] + share * w * k.usual, k.low, k.high))
                for k, w in zip(knobs, wish, strict=True)
            }
            there = apart(tried)
            better = _cost(there, tried, held)
            if better < cost:
                break
            share /= 2
        else:
            break
        gained, values, here, cost = cost - better, tried, there, better
        if gained < 0.004 * cost:
            break
    return values


def _felt(values: Fitted, knob: Knob, here: Float, apart: Callable[[Fitted], Float]) -> Float:
    """How distances change as a knob is turned, for one usual range."""
    way = -1 if values[knob] + TRIED * knob.usual > knob.high else 1
    return (apart(values | {knob: values[knob] + way * TRIED * knob.usual}) - here) / (way * TRIED)


def _weights(here: Float) -> Float:
    """Small differences count by their square, large ones by their size."""
    return OUTLYING / np.maximum(np.abs(here), OUTLYING)


def _wish(slopes: Float, here: Float, now: Float, held: float) -> Float:
    price = held**2 * len(here) / len(now)
    weights = _weights(here)[:, None]
    system = slopes.T @ (weights * slopes) + price * np.eye(len(now))
    target = -(slopes.T @ (weights[:, 0] * here)) - price * now
    return np.asarray(np.linalg.solve(system, target))


def _cost(here: Float, values: Fitted, held: float) -> float:
    size = np.abs(here)
    lost = np.where(size < OUTLYING, 0.5 * size**2, OUTLYING * (size - 0.5 * OUTLYING)).mean()
    turned = np.array([value / knob.usual for knob, value in values.items()])
    return float(lost + 0.5 * held**2 * np.square(turned).mean())
