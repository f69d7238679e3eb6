"""The loops of frame steps, compiled; imported when one is first at work."""

from __future__ import annotations

import numpy as np
from numba import njit

__all__ = ["joined_rows", "sharpened_rows"]


@njit(nogil=True, cache=True, boundscheck=False, fastmath=True)
def sharpened_rows(first, end, luma, blurred, amount, threshold, halo, out):  # type: ignore[no-untyped-def]
    """Unsharp masking of rows: small differences are left out, and the range of the neighbours held."""
    height, width = luma.shape
    for j in range(first, end):
        above, here, below = luma[max(j - 1, 0)], luma[j], luma[min(j + 1, height - 1)]
        for i in range(width):
            left, right = max(i - 1, 0), min(i + 1, width - 1)
            low = min(above[left], above[i], above[right], here[left], here[i], here[right],
                      below[left], below[i], below[right])  # fmt: skip
            high = max(above[left], above[i], above[right], here[left], here[i], here[right],
                       below[left], below[i], below[right])  # fmt: skip
            away = here[i] - blurred[j, i]
            kept = away - min(max(away, -threshold), threshold)
            out[j, i] = min(max(here[i] + amount * kept, low - halo), high + halo)


@njit(nogil=True, inline="always")
def _alike(away, narrow):  # type: ignore[no-untyped-def]
    share = max(np.float32(1) - away * away * narrow, np.float32(0))
    return share * share


@njit(nogil=True, cache=True, boundscheck=False, fastmath=True)
def joined_rows(first, end, plane, guide, reach, out):  # type: ignore[no-untyped-def]
    """Means of five by five neighbours whose guide differs by less than `reach`.

    The planes are two pixels wider all round. A row of neighbours is written out, so that sums stay in
    registers.
    """
    width = out.shape[1]
    total, weight = np.empty(width, np.float32), np.empty(width, np.float32)
    narrow = np.float32(1) / (reach * reach)
    for j in range(first, end):
        here = guide[j + 2]
        total[:] = np.float32(0)
        weight[:] = np.float32(0)
        for dy in range(5):
            like, values = guide[j + dy], plane[j + dy]
            for i in range(width):
                middle = here[i + 2]
                w0, w1 = _alike(like[i] - middle, narrow), _alike(like[i + 1] - middle, narrow)
                w2, w3 = _alike(like[i + 2] - middle, narrow), _alike(like[i + 3] - middle, narrow)
                w4 = _alike(like[i + 4] - middle, narrow)
                total[i] += (
                    w0 * values[i] + w1 * values[i + 1] + w2 * values[i + 2] + w3 * values[i + 3]
                    + w4 * values[i + 4]
                )  # fmt: skip
                weight[i] += w0 + w1 + w2 + w3 + w4
        for i in range(width):
            out[j, i] = total[i] / weight[i]
