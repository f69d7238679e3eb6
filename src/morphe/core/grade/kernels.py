"""The loops of frame steps, compiled; imported when one is first at work."""

from __future__ import annotations

from numba import njit

__all__ = ["sharpened_rows"]


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
