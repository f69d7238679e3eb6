"""One curve for the clips of a camera and folder: every clip tells of it, each at an exposure of its own.

What a clip's landmarks say is a normal distribution (see `landing`); the exposure slides grey and white along
the curve, so that along this direction other clips say little, and across it much.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from morphe.core.advise.profile.landing import COLOUR_SCALE, Judged
from morphe.core.signal.arrays import Float
from morphe.core.signal.families import WHITE, curve_of
from morphe.core.signal.point_curve import GREY
from morphe.core.signal.profiles import Kind

__all__ = ["pooled", "shared_curve"]

EXPOSURES_DIFFER = 0.5  # stops, deviation
# What clips filmed alike may differ by besides: black, grey, white, and the logarithm of colour.
DIFFER = np.diag(np.array([0.01, 0.01, 0.015, 0.1 * COLOUR_SCALE]) ** 2)
ALIKE = 0.3  # clips of one folder err alike: n of them say as much as n / (1 + ALIKE (n - 1))


def pooled(own: Judged, others: Sequence[Judged], kind: Kind) -> Judged:
    """The curve of a clip at its own exposure, told by itself and by others filmed with the same curve."""
    if not others:
        return own
    mean, spread = _common(others, kind)
    slid = _slide(mean, kind)
    told = np.linalg.inv(spread + slid + DIFFER)
    seen = np.linalg.inv(_covariance(own))
    return _judged(told + seen, told @ mean + seen @ own.mean)


def shared_curve(clips: Sequence[Judged], kind: Kind) -> Judged:
    """The curve that several clips were filmed with, at the exposure that they have in the mean.

    Raises
    ------
    ValueError
        If there is no clip.
    """
    if not clips:
        raise ValueError("A shared curve needs at least one clip.")
    mean, spread = _common(clips, kind)
    weight = np.linalg.inv(spread)
    return _judged(weight, weight @ mean)


def _common(clips: Sequence[Judged], kind: Kind) -> tuple[Float, Float]:
    """Mean and covariance of what several clips say together."""
    weights = [np.linalg.inv(_covariance(c) + _slide(c.mean, kind) + DIFFER) for c in clips]
    counts_as = 1 / (1 + ALIKE * (len(clips) - 1))
    spread = np.linalg.inv(sum(weights))
    mean = spread @ sum(w @ c.mean for w, c in zip(weights, clips, strict=True))
    return mean, spread / counts_as


def _covariance(judged: Judged) -> Float:
    return np.asarray(judged.axes.T @ judged.axes + 1e-8 * np.eye(4))


def _judged(weight: Float, weighed: Float) -> Judged:
    spread = np.linalg.inv(weight)
    sizes, directions = np.linalg.eigh(0.5 * (spread + spread.T))
    axes = (directions * np.sqrt(np.maximum(sizes, 0))).T[::-1]
    return Judged(mean=spread @ weighed, axes=axes)


def _slide(mean: Float, kind: Kind) -> Float:
    """Covariance by which exposures that differ slide the landmarks along a curve."""
    curve = curve_of(kind, Judged(mean=mean, axes=np.zeros((4, 4))).best[0])
    light = np.array([[GREY], [WHITE]]) * np.exp2(np.array([-0.25, 0.25]))
    below, above = np.asarray(curve.encode(light)).T
    along = EXPOSURES_DIFFER * np.array([0.0, *(above - below) * 2, 0.0])
    return np.outer(along, along)
