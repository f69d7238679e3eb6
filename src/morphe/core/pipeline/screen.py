"""The executor of the screen: stills through kept tables, and the same for a browser that plays."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.pipeline.cube import PREVIEW_SIZE, SIGNAL_DOMAIN, CubeLut, apply_lut, bake
from morphe.core.pipeline.passes import ColourPass, FramePass, MaskedPass, Pipeline, compile_grade
from morphe.core.pipeline.reference import frame_step_applied
from morphe.core.signal.arrays import Encoded

__all__ = ["graded_still"]

DOMAIN_STEP = 0.125  # domains of later tables are rounded outwards to this, so that tables can be kept


def graded_still(
    encoded: Encoded, grade: Grade | Pipeline, time_s: float = 0.0, *, size: int = PREVIEW_SIZE
) -> Encoded:
    """Apply a grade to a still (H, W, 3) of a moment, clipped as it is delivered.

    `size` is that of the tables.
    """
    pipeline = compile_grade(grade) if isinstance(grade, Grade) else grade
    if not pipeline.at_work:
        return encoded
    out, domain = encoded, SIGNAL_DOMAIN
    for one in pipeline.at(time_s).passes:
        if isinstance(one, FramePass):
            out = frame_step_applied(one.step, out, one.strength)
        elif isinstance(one, MaskedPass):
            out = _masked(one, out, _domain_of(out) if out is not encoded else domain, size)
        else:
            out = apply_lut(_table(one, _domain_of(out) if out is not encoded else domain, size), out)
    return np.clip(out, 0, 1)


@lru_cache(maxsize=24)  # of half a megabyte each: a number that is dragged leaves the other passes alone
def _table(colour: ColourPass, domain: tuple[float, float], size: int) -> CubeLut:
    return bake(colour, domain=domain, size=size)


def _domain_of(picture: Encoded) -> tuple[float, float]:
    low, high = float(picture.min()), float(picture.max())
    return (
        float(np.clip(np.floor(low / DOMAIN_STEP) * DOMAIN_STEP, -2, 0)),
        float(np.clip(np.ceil(high / DOMAIN_STEP) * DOMAIN_STEP, 1, 6)),
    )


def _masked(one: MaskedPass, picture: Encoded, domain: tuple[float, float], size: int) -> Encoded:
    height, width = picture.shape[:2]
    left, top, right, bottom = one.region.window(width, height)
    if right <= left or bottom <= top:
        return picture
    part = np.ascontiguousarray(picture[top:bottom, left:right])
    mask = np.float32(one.strength) * one.region.mask(width, height, window=(left, top, right, bottom))
    changed = apply_lut(_table(one.inside, domain, size), part)
    out = picture.copy()
    weights = cv2.merge([mask, mask, mask])
    out[top:bottom, left:right] = part + weights * (changed - part)
    return out
