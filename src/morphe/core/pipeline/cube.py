"""Colour passes baked into 3D tables, and tetrahedral interpolation in them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from morphe.core.bands import THREADS, over_rows
from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.passes import ColourPass, compile_grade
from morphe.core.signal.arrays import Encoded, Float, Plane

__all__ = [
    "DELIVERY_SIZE",
    "PREVIEW_SIZE",
    "SIGNAL_DOMAIN",
    "CubeLut",
    "apply_lut",
    "apply_lut_reference",
    "bake",
    "bake_grade",
    "looked_up",
]

PREVIEW_SIZE = 33
BANDS_OF_PARTS = 4 * THREADS  # a region may lie in few rows alone
DELIVERY_SIZE = 65
# All that 8-bit narrow codes 1..254 can say, so that sub-black and super-white are graded, not cut.
SIGNAL_DOMAIN = (-0.07, 1.09)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class CubeLut:
    """Table (n, n, n, 3) float32 indexed [r, g, b] over domain[0]..domain[1] in each channel."""

    table: Float
    domain: tuple[float, float] = (0.0, 1.0)

    @property
    def size(self) -> int:
        return int(self.table.shape[0])


def _nodes(reds: Float, axis: Float) -> Encoded:
    """Colours of a part of the grid, (n, 3): in one row, as numpy multiplies matrices fastest."""
    return np.stack(np.meshgrid(reds, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)


def bake(
    colour: ColourPass,
    *,
    size: int = PREVIEW_SIZE,
    domain: tuple[float, float] = SIGNAL_DOMAIN,
    before: Callable[[Encoded], Encoded] | None = None,
) -> CubeLut:
    """Evaluate a pass on an even grid of encoded R'G'B'; nothing is clipped.

    `before` brings the grid's colours to those that the pass expects, if they are others.
    """
    axis = np.linspace(*domain, size, dtype=np.float32)
    table = np.empty((size, size, size, 3), np.float32)

    def evaluate_reds(first: int, end: int) -> None:
        grid = _nodes(axis[first:end], axis)
        table[first:end] = colour.apply(before(grid) if before else grid).reshape(-1, size, size, 3)

    over_rows(size, evaluate_reds)
    return CubeLut(table=table, domain=domain)


def bake_grade(
    grade: Grade, *, size: int = DELIVERY_SIZE, domain: tuple[float, float] = SIGNAL_DOMAIN
) -> CubeLut:
    """Bake all of a grade that a table can hold; what it cannot, `Pipeline.left_out` names."""
    parts = [one.at_rest for one in compile_grade(grade).passes if isinstance(one, ColourPass)]
    axis = np.linspace(*domain, size, dtype=np.float32)
    table = np.empty((size, size, size, 3), np.float32)

    def evaluate_reds(first: int, end: int) -> None:
        out = _nodes(axis[first:end], axis)
        for one in parts:
            out = one.apply(out)
        table[first:end] = out.reshape(-1, size, size, 3)

    over_rows(size, evaluate_reds)
    return CubeLut(table=table, domain=domain)


def apply_lut(lut: CubeLut, encoded: Encoded, share: Plane | None = None) -> Encoded:
    """Interpolate a picture (H, W, 3) float32 tetrahedrally in a table; beyond the domain it is held.

    Parameters
    ----------
    share : how much of the table's colour each pixel takes, (H, W) float32 0..1

    Raises
    ------
    ColourError
        If the picture holds NaN, which the kernel would turn into a colour.
    """
    picture = np.ascontiguousarray(encoded, np.float32)
    if np.isnan(picture.sum()):  # any one makes the sum so
        raise ColourError("The picture holds values that are no numbers.")
    return looked_up(lut, picture, share)


def looked_up(lut: CubeLut, encoded: Encoded, share: Plane | None = None) -> Encoded:
    """As `apply_lut`, for pictures that are known to hold numbers alone: those of an earlier pass."""
    from morphe.core.signal.tetrahedra import ALL_OF_IT, tetrahedral_rows  # late: compiled

    picture = np.ascontiguousarray(encoded, np.float32)
    out = np.empty_like(picture)
    low, high = lut.domain
    scale = np.float32((lut.size - 1) / (high - low))
    flat = np.ascontiguousarray(lut.table, np.float32).ravel()
    part = ALL_OF_IT if share is None else share
    over_rows(
        picture.shape[0],
        lambda a, b: tetrahedral_rows(a, b, picture, flat, lut.size, np.float32(low), scale, part, out),
        bands=THREADS if share is None else BANDS_OF_PARTS,
    )
    return out


def apply_lut_reference(lut: CubeLut, encoded: Encoded) -> Encoded:
    """Plain numpy tetrahedral interpolation (..., 3): what the kernel is compared with."""
    low, high = lut.domain
    top = lut.size - 1
    at = np.clip((np.asarray(encoded, np.float64) - low) / (high - low) * top, 0, top)
    base = np.minimum(at.astype(int), top - 1)
    part = at - base
    order = np.argsort(-part, axis=-1, kind="stable")
    steps = np.take_along_axis(part, order, axis=-1)
    corner = base.copy()
    out = (1 - steps[..., :1]) * lut.table[tuple(np.moveaxis(corner, -1, 0))]
    for k in range(3):
        np.put_along_axis(
            corner, order[..., k : k + 1], np.take_along_axis(corner, order[..., k : k + 1], -1) + 1, -1
        )
        following = steps[..., k + 1 : k + 2] if k < 2 else 0.0
        out = out + (steps[..., k : k + 1] - following) * lut.table[tuple(np.moveaxis(corner, -1, 0))]
    return out.astype(np.float32)
