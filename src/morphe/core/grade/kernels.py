"""The loops of frame steps, compiled; imported when one is first at work."""

from __future__ import annotations

import numpy as np
from numba import njit

__all__ = ["grained_rows", "joined_rows", "screened_rows", "sharpened_rows"]


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


@njit(nogil=True, inline="always")
def _rise(code, added):  # type: ignore[no-untyped-def]
    """How far a code rises when light is screened over it; its square stands for light."""
    here = min(max(code, np.float32(0)), np.float32(1))
    light = here * here
    return np.sqrt(light + added * (np.float32(1) - light)) - here


@njit(nogil=True, cache=True, boundscheck=False, fastmath=True)
def screened_rows(first, end, luma, chroma, added, out_luma, out_chroma):  # type: ignore[no-untyped-def]
    """Screen light over chroma rows `first` to `end` and the luma rows they serve.

    `added` (3, h, W) has fewer rows than the frame; between them it goes straight.
    """
    tall, wide = luma.shape[0] // chroma.shape[0], luma.shape[1] // chroma.shape[1]
    width, count, rows = chroma.shape[1], np.float32(tall * wide), added.shape[1]
    red, green = np.empty(width * wide, np.float32), np.empty(width * wide, np.float32)
    blue = np.empty(width * wide, np.float32)
    more_b, more_r = np.empty(width * wide, np.float32), np.empty(width * wide, np.float32)
    for j in range(first, end):
        for i in range(width):
            cb, cr = chroma[j, i, 0], chroma[j, i, 1]
            for x in range(i * wide, i * wide + wide):
                # BT.709-6 item 3.2 and 3.3
                red[x], blue[x] = np.float32(1.5748) * cr, np.float32(1.8556) * cb
                green[x] = np.float32(-0.187324) * cb - np.float32(0.468124) * cr
        more_b[:] = np.float32(0)
        more_r[:] = np.float32(0)
        for y in range(j * tall, j * tall + tall):
            level, out = luma[y], out_luma[y]
            place = (np.float32(y) + np.float32(0.5)) * np.float32(rows) / np.float32(luma.shape[0])
            place = min(max(place - np.float32(0.5), np.float32(0)), np.float32(rows - 1))
            above = min(int(place), max(rows - 2, 0))
            below, part = min(above + 1, rows - 1), place - np.float32(above)
            r0, g0, b0 = added[0, above], added[1, above], added[2, above]
            r1, g1, b1 = added[0, below], added[1, below], added[2, below]
            for x in range(width * wide):
                up_r = _rise(level[x] + red[x], r0[x] + part * (r1[x] - r0[x]))
                up_g = _rise(level[x] + green[x], g0[x] + part * (g1[x] - g0[x]))
                up_b = _rise(level[x] + blue[x], b0[x] + part * (b1[x] - b0[x]))
                up = np.float32(0.2126) * up_r + np.float32(0.7152) * up_g + np.float32(0.0722) * up_b
                out[x] = level[x] + up
                more_b[x] += up_b - up
                more_r[x] += up_r - up
        for i in range(width):
            b_sum = r_sum = np.float32(0)
            for x in range(i * wide, i * wide + wide):
                b_sum += more_b[x]
                r_sum += more_r[x]
            out_chroma[j, i, 0] = chroma[j, i, 0] + b_sum / (np.float32(1.8556) * count)
            out_chroma[j, i, 1] = chroma[j, i, 1] + r_sum / (np.float32(1.5748) * count)


@njit(nogil=True, cache=True, boundscheck=False, fastmath=True)
def grained_rows(first, end, plane, luma, grain, down, right, amount, out):  # type: ignore[no-untyped-def]
    """Add grain of unit spread, taken from `down` and `right` on, to a plane, as its luma bears it."""
    rows, columns = grain.shape
    for j in range(first, end):
        line, at = grain[(j + down) % rows], right
        for i in range(plane.shape[1]):
            level = min(max(luma[j, i], np.float32(0)), np.float32(1))
            dark = np.float32(1) - level
            borne = np.sqrt(np.float32(4) * level * dark) * (np.float32(0.6) + np.float32(0.4) * dark)
            out[j, i] = plane[j, i] + amount * borne * line[at]
            at = at + 1 if at + 1 < columns else 0
