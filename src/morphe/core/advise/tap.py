"""Balance from something white or grey that a person points at."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP, Layer
from morphe.core.grade.steps import Balance
from morphe.core.measure.readings import luma_of
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.light import light_shift
from morphe.core.signal.profiles import PROFILES

__all__ = ["balance_from_tap"]

PATCH = 9  # px a side, at measuring size
CLIPPED, DARK = 0.97, 0.08
MAX_SPREAD = 0.35
DOUBTFUL_MIRED, DOUBTFUL_DUV = 150.0, 0.03


def balance_from_tap(encoded: Encoded, grade: Grade, x: float, y: float) -> tuple[Balance, str]:
    """Find the balance that makes a patch neutral, and a sentence about it.

    Parameters
    ----------
    encoded : (H, W, 3), the frame as the camera wrote it
    grade : the grade so far; what comes before the balance is applied to the patch
    x, y : the patch's centre as shares of width and height

    Raises
    ------
    ColourError
        If the patch is clipped, too dark or too uneven to be a reference.
    """
    height, width = encoded.shape[:2]
    half = max(PATCH * width // 960, PATCH) // 2
    cx, cy = int(np.clip(x, 0, 1) * (width - 1)), int(np.clip(y, 0, 1) * (height - 1))
    patch = encoded[max(cy - half, 0) : cy + half + 1, max(cx - half, 0) : cx + half + 1].reshape(-1, 3)
    _refuse_unfit(patch)
    linear = PROFILES.get("std-709").decode(evaluate(_before_balance(grade), patch))
    rgb = np.median(linear, axis=0)
    if rgb.min() <= 0:
        raise ColourError("A channel is empty there; tap something lighter that is white or grey.")
    spread = float((np.subtract(*np.percentile(linear, [75, 25], axis=0)) / rgb).max())
    if spread > MAX_SPREAD:
        raise ColourError("That patch is uneven; tap a plain white or grey area.")
    mired, duv = light_shift(rgb)
    step = Balance(
        warmth=round(Balance.within("warmth", mired), 1),
        tint=round(Balance.within("tint", 1000 * duv), 1),
    )
    side = "warm" if mired > 0 else "cool"
    sentence = f"The patch was {abs(mired):.0f} mired {side}, tint {1000 * duv:+.0f}; it is neutral now."
    if abs(mired) > DOUBTFUL_MIRED or abs(duv) > DOUBTFUL_DUV:
        sentence = (
            f"The patch was {abs(mired):.0f} mired {side}: it is probably not grey. Undo if it looks wrong."
        )
    return step, sentence


def _refuse_unfit(patch: Encoded) -> None:
    if float(np.median(patch.max(axis=1))) > CLIPPED:
        raise ColourError("That patch is clipped; tap something white that still has tone.")
    if float(np.median(luma_of(patch))) < DARK:
        raise ColourError("That patch is too dark to judge; tap something lighter.")


def _before_balance(grade: Grade) -> Grade:
    """All that comes before the balance of the clip."""
    layers: list[Layer] = []
    for layer in grade.layers:
        if layer.id != CLIP:
            layers.append(layer)
            continue
        keys = [step.key for step in layer.with_step(Balance()).steps]
        early = keys[: keys.index("balance")]
        layers.append(replace(layer, steps=tuple(s for s in layer.steps if s.key in early)))
        break
    return replace(grade, layers=tuple(layer for layer in layers if layer.region is None))
