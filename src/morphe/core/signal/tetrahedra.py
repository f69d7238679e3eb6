"""Tetrahedral interpolation in a cube of colours: the kernel, and its plain use on any array."""

from __future__ import annotations

import numpy as np
from numba import njit

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Float

__all__ = ["ALL_OF_IT", "interpolate", "tetrahedral_rows"]


@njit(nogil=True, cache=True, fastmath=True, boundscheck=False)
def tetrahedral_rows(first, end, picture, table, size, low, scale, share, out):  # type: ignore[no-untyped-def]
    """`table` is flat; a step in red, green or blue is a step of dr, dg or db in it.

    `share` (H, W) says how much of the table's colour each pixel takes; empty for all of it.
    """
    in_part = share.shape[0] > 0
    dr, dg, db = 3 * size * size, 3 * size, 3
    whole = dr + dg + db
    none, top, last = np.float32(0), np.float32(size - 1), size - 2
    for j in range(first, end):
        for i in range(picture.shape[1]):
            if in_part and share[j, i] == none:
                for c in range(3):
                    out[j, i, c] = picture[j, i, c]
                continue
            r = min(max((picture[j, i, 0] - low) * scale, none), top)
            g = min(max((picture[j, i, 1] - low) * scale, none), top)
            b = min(max((picture[j, i, 2] - low) * scale, none), top)
            ri, gi, bi = min(np.int32(r), last), min(np.int32(g), last), min(np.int32(b), last)
            fr, fg, fb = r - np.float32(ri), g - np.float32(gi), b - np.float32(bi)
            # Six tetrahedra share the cell's grey diagonal; the order of the fractions picks one.
            if fr >= fg:
                if fg >= fb:
                    one, two, hi, mid, lo = dr, dr + dg, fr, fg, fb
                elif fr >= fb:
                    one, two, hi, mid, lo = dr, dr + db, fr, fb, fg
                else:
                    one, two, hi, mid, lo = db, dr + db, fb, fr, fg
            elif fb >= fg:
                one, two, hi, mid, lo = db, dg + db, fb, fg, fr
            elif fb >= fr:
                one, two, hi, mid, lo = dg, dg + db, fg, fb, fr
            else:
                one, two, hi, mid, lo = dg, dr + dg, fg, fr, fb
            at = dr * ri + dg * gi + db * bi
            w0, w1, w2 = np.float32(1) - hi, hi - mid, mid - lo
            for c in range(3):
                value = (
                    w0 * table[at + c]
                    + w1 * table[at + one + c]
                    + w2 * table[at + two + c]
                    + lo * table[at + whole + c]
                )
                if in_part:
                    value = picture[j, i, c] + share[j, i] * (value - picture[j, i, c])
                out[j, i, c] = value


ALL_OF_IT = np.zeros((0, 0), np.float32)


def interpolate(cube: Float, picture: Float, domain: tuple[float, float]) -> Float:
    """Look up (..., 3) in a cube (n, n, n, 3) over `domain`, in the calling thread; the edge is held.

    Raises
    ------
    ColourError
        If the picture holds NaN, which the kernel would turn into a colour.
    """
    flat = np.ascontiguousarray(picture, np.float32).reshape(-1, 1, 3)
    if np.isnan(flat).any():
        raise ColourError("The picture holds values that are no numbers.")
    out = np.empty_like(flat)
    size, (low, high) = cube.shape[0], domain
    scale = np.float32((size - 1) / (high - low))
    table = np.ascontiguousarray(cube, np.float32).ravel()
    tetrahedral_rows(0, len(flat), flat, table, size, np.float32(low), scale, ALL_OF_IT, out)
    return out.reshape(picture.shape)
