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


@njit(nogil=True, cache=True, boundscheck=False, fastmath=True)
def joined_rows(first, end, plane, guide, radius, reach, out):  # type: ignore[no-untyped-def]
    """Means of neighbours whose guide differs by less than `reach`; planes are `radius` wider all round."""
    width = out.shape[1]
    total, weight = np.empty(width, np.float32), np.empty(width, np.float32)
    narrow, one, zero = np.float32(1) / (reach * reach), np.float32(1), np.float32(0)
    for j in range(first, end):
        here = guide[j + radius]
        total[:] = zero
        weight[:] = zero
        for dy in range(2 * radius + 1):
            like, values = guide[j + dy], plane[j + dy]
            for dx in range(2 * radius + 1):
                for i in range(width):
                    away = like[i + dx] - here[i + radius]
                    share = max(one - away * away * narrow, zero)
                    share = share * share
                    total[i] += share * values[i + dx]
                    weight[i] += share
        for i in range(width):
            out[j, i] = total[i] / weight[i]
