"""Compile the kernels once, so that nobody waits for them later: `python -m morphe.core.handover.warm_up`."""

from __future__ import annotations

from typing import Any

import numpy as np

from morphe.core.footage.planes import Planes
from morphe.core.grade.grade import Grade
from morphe.core.grade.kernel import apply_planes, bake_planes, to_420
from morphe.core.grade.steps import Exposure
from morphe.core.handover.preview import graded_still, scope_pictures
from morphe.core.signal.ycbcr import Matrix, Range

__all__ = ["warm_up"]


def warm_up() -> None:
    """Run every kernel once for each type it serves; compiled code is kept on disk."""
    grade = Grade.of(Exposure(stops=0.1))
    still = np.linspace(0, 1, 16 * 16 * 3, dtype=np.float32).reshape(16, 16, 3)
    scope_pictures(graded_still(still, grade))
    narrow: dict[str, Any] = {"code_range": Range.NARROW, "matrix": Matrix.BT709}
    for bits, dtype in ((8, np.uint8), (10, np.uint16)):
        luma, chroma = np.full((16, 16), 60, dtype), np.full((8, 8), 2 ** (bits - 1), dtype)
        planes = Planes(
            luma=luma, cb=chroma, cr=chroma, bit_depth=bits, range=Range.NARROW, matrix=Matrix.BT709
        )
        lut = bake_planes(grade, bit_depth=bits, bits_out=bits, **narrow)
        out = (np.empty_like(luma), np.empty_like(chroma), np.empty_like(chroma))
        apply_planes(lut, to_420(planes, bits=bits), out)


if __name__ == "__main__":
    warm_up()
