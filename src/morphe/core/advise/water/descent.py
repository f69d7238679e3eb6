"""Water on a changing depth: what is taken back moves with the dive log.

Every judging frame is judged at its own depth; a line over depth is laid through what was found, drawn
towards what the water takes by each metre. So the restoration is as smooth as the log, and never jumps.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from morphe.core.advise.water.estimate import estimate_water
from morphe.core.grade.restore import CHANNEL_LIMIT, Moment
from morphe.core.signal.arrays import Float, Linear
from morphe.core.water.hints import WaterHints

__all__ = ["descent"]

TRUST = 6.0  # square metres of spread in depth at which frames and physics count alike
STEPS = 24  # of depth, between the shallowest and the deepest, that the track follows


def descent(frames: Sequence[Linear], times_s: Sequence[float], hints: WaterHints) -> tuple[Moment, ...]:
    """The track of a restoration over depths that change.

    Parameters
    ----------
    frames, times_s : light (H, W, 3) before water is taken back, and its moments
    """
    depths = np.array([hints.depth_at(t) for t in times_s])
    found = [estimate_water([f], hints.at_depth(d)) for f, d in zip(frames, depths, strict=True)]
    gains, veil = np.array([e.gains for e in found]), np.array([e.veil for e in found])
    slope = _slopes(depths, gains, _by_metre(hints))
    veil_slope = _slopes(depths, veil, np.zeros(3))
    track: list[Moment] = []
    for seconds, depth in _moments(hints):
        away = depth - depths.mean()
        now = np.clip(gains.mean(axis=0) + slope * away, -CHANNEL_LIMIT, CHANNEL_LIMIT)
        light = np.clip(veil.mean(axis=0) + veil_slope * away, 0, 1)
        track.append((seconds, *_three(now), *_three(light)))
    return tuple(track)


def _by_metre(hints: WaterHints) -> Float:
    """Stops by which red and blue have to be raised beyond green for every metre; the camera meters green."""
    down = np.array(hints.dive.water.down) * hints.dive.slant / math.log(2)
    return np.asarray(down - down[1])


def _slopes(depths: Float, values: Float, usual: Float) -> Float:
    """Change of values (frames, 3) by metre, drawn towards the usual one where depths hardly differ."""
    away = depths - depths.mean()
    return np.asarray((away @ (values - values.mean(axis=0)) + TRUST * usual) / (away @ away + TRUST))


def _moments(hints: WaterHints) -> list[tuple[float, float]]:
    """Moments of the log, and such between them that a straight line of depth is followed closely."""
    times = np.array([t for t, _ in hints.depths])
    steps = np.linspace(times[0], times[-1], STEPS + 1)
    every = np.unique(np.round(np.concatenate([times, steps]), 4))
    return [(float(t), hints.depth_at(float(t))) for t in every]


def _three(values: Float) -> tuple[float, float, float]:
    red, green, blue = (round(float(v), 6) for v in values)
    return red, green, blue
