"""The executor of the screen: stills through kept tables, and the same for a browser that plays."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.region import Region
from morphe.core.pipeline.cube import PREVIEW_SIZE, SIGNAL_DOMAIN, CubeLut, apply_lut, bake, looked_up
from morphe.core.pipeline.passes import ColourPass, FramePass, MaskedPass, Pipeline, compile_grade
from morphe.core.pipeline.reference import frame_step_applied
from morphe.core.signal.arrays import Encoded, Plane

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
    out = encoded
    if pipeline.denoise.at_work:
        out = frame_step_applied(FramePass(step=pipeline.denoise), encoded)
    for number, one in enumerate(pipeline.at(time_s).passes):
        is_first = number == 0
        if isinstance(one, FramePass):
            out = frame_step_applied(one, out)
        elif isinstance(one, MaskedPass):
            out = _masked(one, out, size, is_first=is_first)
        elif is_first:
            out = apply_lut(_table(one, SIGNAL_DOMAIN, size), out)
        else:
            out = looked_up(_table(one, _domain_of(out), size), out)
    return np.clip(out, 0, 1, out=None if out is encoded else out)


@lru_cache(maxsize=24)  # of half a megabyte each: a number that is dragged leaves the other passes alone
def _table(colour: ColourPass, domain: tuple[float, float], size: int) -> CubeLut:
    return bake(colour, domain=domain, size=size)


def _domain_of(picture: Encoded) -> tuple[float, float]:
    low, high, _, _ = cv2.minMaxLoc(picture.reshape(len(picture), -1))
    return (
        float(np.clip(np.floor(low / DOMAIN_STEP) * DOMAIN_STEP, -2, 0)),
        float(np.clip(np.ceil(high / DOMAIN_STEP) * DOMAIN_STEP, 1, 6)),
    )


@lru_cache(maxsize=8)  # of two megabytes: regions lie still while a number is dragged
def _share(region: Region, strength: float, width: int, height: int) -> tuple[Plane, tuple[slice, slice]]:
    """How much each pixel belongs to a region, and the rows and columns where any does."""
    left, top, right, bottom = region.window(width, height)
    if right <= left or bottom <= top:
        return np.zeros((0, 0), np.float32), (slice(0), slice(0))
    share = np.float32(strength) * region.mask(width, height, window=(left, top, right, bottom))
    rows, columns = (np.flatnonzero(share.any(axis=axis)) for axis in (1, 0))
    if not rows.size:
        return np.zeros((0, 0), np.float32), (slice(0), slice(0))
    part = slice(rows[0], rows[-1] + 1), slice(columns[0], columns[-1] + 1)
    where = slice(top + part[0].start, top + part[0].stop), slice(left + part[1].start, left + part[1].stop)
    return np.ascontiguousarray(share[part]), where


def _masked(one: MaskedPass, picture: Encoded, size: int, *, is_first: bool) -> Encoded:
    height, width = picture.shape[:2]
    share, where = _share(one.region, one.strength, width, height)
    if not share.size:
        return picture
    part = np.ascontiguousarray(picture[where])
    table = _table(one.inside, SIGNAL_DOMAIN if is_first else _domain_of(part), size)
    out = picture.copy() if is_first else picture
    out[where] = (apply_lut if is_first else looked_up)(table, part, share)
    return out
