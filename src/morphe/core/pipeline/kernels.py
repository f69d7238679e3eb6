"""The loops over planes, compiled: each fills a band of rows and releases the lock."""

from __future__ import annotations

import numpy as np
from numba import njit

__all__ = [
    "between_rows",
    "graded_rows",
    "legal_rows",
    "looked_up_rows",
    "to_codes_rows",
    "to_signal_rows",
]


@njit(nogil=True, cache=True, boundscheck=False)
def graded_rows(
    first, end, y, cb, cr, luma, chroma, frac_bits, level_shift, spare, round_at, out_y, out_cb, out_cr
):  # fmt: skip
    """Codes of a file through tables; `round_at` (n, n), n a power of two, is added before bits go."""
    mask = (1 << frac_bits) - 1
    unit = 1 << frac_bits
    shift = 2 * frac_bits + spare
    side = round_at.shape[0] - 1
    for j in range(first, end):
        top, bottom = y[2 * j], y[2 * j + 1]
        out_top, out_bottom = out_y[2 * j], out_y[2 * j + 1]
        over, under = round_at[(2 * j) & side], round_at[(2 * j + 1) & side]
        for i in range(cb.shape[1]):
            even, odd = (2 * i) & side, (2 * i + 1) & side
            b, r = np.int32(cb[j, i]), np.int32(cr[j, i])
            bi, ri, bf, rf = b >> frac_bits, r >> frac_bits, b & mask, r & mask
            w00, w01 = (unit - bf) * (unit - rf), (unit - bf) * rf
            w10, w11 = bf * (unit - rf), bf * rf
            n00, n01, n10, n11 = luma[bi, ri], luma[bi, ri + 1], luma[bi + 1, ri], luma[bi + 1, ri + 1]
            y0, y1, y2, y3 = top[2 * i], top[2 * i + 1], bottom[2 * i], bottom[2 * i + 1]
            out_top[2 * i] = (
                np.int32(n00[y0]) * w00 + np.int32(n01[y0]) * w01 + np.int32(n10[y0]) * w10
                + np.int32(n11[y0]) * w11 + over[even]
            ) >> shift  # fmt: skip
            out_top[2 * i + 1] = (
                np.int32(n00[y1]) * w00 + np.int32(n01[y1]) * w01 + np.int32(n10[y1]) * w10
                + np.int32(n11[y1]) * w11 + over[odd]
            ) >> shift  # fmt: skip
            out_bottom[2 * i] = (
                np.int32(n00[y2]) * w00 + np.int32(n01[y2]) * w01 + np.int32(n10[y2]) * w10
                + np.int32(n11[y2]) * w11 + under[even]
            ) >> shift  # fmt: skip
            out_bottom[2 * i + 1] = (
                np.int32(n00[y3]) * w00 + np.int32(n01[y3]) * w01 + np.int32(n10[y3]) * w10
                + np.int32(n11[y3]) * w11 + under[odd]
            ) >> shift  # fmt: skip
            level = (np.int32(y0) + np.int32(y1) + np.int32(y2) + np.int32(y3) + 2) >> level_shift
            c00, c01 = chroma[bi, ri, level], chroma[bi, ri + 1, level]
            c10, c11 = chroma[bi + 1, ri, level], chroma[bi + 1, ri + 1, level]
            out_cb[j, i] = (
                np.int32(c00[0]) * w00 + np.int32(c01[0]) * w01 + np.int32(c10[0]) * w10
                + np.int32(c11[0]) * w11 + over[odd]
            ) >> shift  # fmt: skip
            out_cr[j, i] = (
                np.int32(c00[1]) * w00 + np.int32(c01[1]) * w01 + np.int32(c10[1]) * w10
                + np.int32(c11[1]) * w11 + under[even]
            ) >> shift  # fmt: skip


@njit(nogil=True, cache=True, boundscheck=False)
def looked_up_rows(
    first, end, y, cb, cr, luma, chroma, spare, written, every_y, every_cb, every_cr, out_y, out_cb, out_cr
):
    """Grade rows of chroma `first` to `end` by tables for every code of 8 bits.

    What a pair of chroma codes becomes is written out when it is met first; `written` says of which that
    is done.
    """
    for j in range(first, end):
        top, bottom = y[2 * j], y[2 * j + 1]
        out_top, out_bottom = out_y[2 * j], out_y[2 * j + 1]
        for i in range(cb.shape[1]):
            b, r = cb[j, i], cr[j, i]
            if not written[b, r]:
                _write_out(b, r, luma, chroma, spare, every_y[b, r], every_cb[b, r], every_cr[b, r])
                written[b, r] = 1
            levels = every_y[b, r]
            y0, y1, y2, y3 = top[2 * i], top[2 * i + 1], bottom[2 * i], bottom[2 * i + 1]
            out_top[2 * i], out_top[2 * i + 1] = levels[y0], levels[y1]
            out_bottom[2 * i], out_bottom[2 * i + 1] = levels[y2], levels[y3]
            level = (np.int32(y0) + np.int32(y1) + np.int32(y2) + np.int32(y3)) >> 3
            out_cb[j, i], out_cr[j, i] = every_cb[b, r, level], every_cr[b, r, level]


@njit(nogil=True, cache=True, boundscheck=False)
def _write_out(b, r, luma, chroma, spare, out_y, out_cb, out_cr):
    """All levels of luma for one pair of chroma codes."""
    shift = 4 + spare
    half = 1 << (shift - 1)
    bi, bf, ri, rf = b >> 2, b & 3, r >> 2, r & 3
    w00, w01, w10, w11 = (4 - bf) * (4 - rf), (4 - bf) * rf, bf * (4 - rf), bf * rf
    n00, n01, n10, n11 = luma[bi, ri], luma[bi, ri + 1], luma[bi + 1, ri], luma[bi + 1, ri + 1]
    for v in range(256):
        out_y[v] = (
            np.int32(n00[v]) * w00 + np.int32(n01[v]) * w01 + np.int32(n10[v]) * w10
            + np.int32(n11[v]) * w11 + half
        ) >> shift  # fmt: skip
    c00, c01, c10, c11 = chroma[bi, ri], chroma[bi, ri + 1], chroma[bi + 1, ri], chroma[bi + 1, ri + 1]
    for v in range(128):
        at = 2 * v + 1  # the middle of the two levels that share an entry
        out_cb[v] = (
            np.int32(c00[at, 0]) * w00 + np.int32(c01[at, 0]) * w01 + np.int32(c10[at, 0]) * w10
            + np.int32(c11[at, 0]) * w11 + half
        ) >> shift  # fmt: skip
        out_cr[v] = (
            np.int32(c00[at, 1]) * w00 + np.int32(c01[at, 1]) * w01 + np.int32(c10[at, 1]) * w10
            + np.int32(c11[at, 1]) * w11 + half
        ) >> shift  # fmt: skip


@njit(nogil=True, inline="always")
def _between_levels(n00, n01, n10, n11, w00, w01, w10, w11, v):
    """A luma code between passes through the four columns of its chroma cell."""
    level, part = v >> 8, np.float32(v & 255) * np.float32(1 / 256)
    low = n00[level] * w00 + n01[level] * w01 + n10[level] * w10 + n11[level] * w11
    level += 1
    high = n00[level] * w00 + n01[level] * w01 + n10[level] * w10 + n11[level] * w11
    return low + part * (high - low)


@njit(nogil=True, cache=True, boundscheck=False, fastmath=True)
def between_rows(first, end, y, cb, cr, luma, chroma, mask, left, top, strength):
    """Grade chroma rows of a window in place, by codes between passes, as far as a mask says.

    `mask` covers the window, which begins at column `left` and row `top`; of one element, it means
    everywhere.
    """
    everywhere = mask.size == 1
    to_share, quarter, half = np.float32(1 / 1024), np.float32(0.25), np.float32(0.5)
    columns = cb.shape[1] if everywhere else mask.shape[1] // 2
    start = left // 2
    for j in range(first, end):
        row = 0 if everywhere else 2 * j - top
        over, under = mask[row], mask[row if everywhere else row + 1]
        line, next_line = y[2 * j], y[2 * j + 1]
        for at in range(columns):
            m0 = m1 = m2 = m3 = strength
            if not everywhere:
                m0, m1 = strength * over[2 * at], strength * over[2 * at + 1]
                m2, m3 = strength * under[2 * at], strength * under[2 * at + 1]
                if m0 + m1 + m2 + m3 <= 0:
                    continue
            i = start + at
            b, r = np.int32(cb[j, i]), np.int32(cr[j, i])
            bi, ri = b >> 10, r >> 10
            bf, rf = np.float32(b & 1023) * to_share, np.float32(r & 1023) * to_share
            w11 = bf * rf
            w10, w01 = bf - w11, rf - w11
            w00 = np.float32(1) - bf - w01
            n00, n01, n10, n11 = luma[bi, ri], luma[bi, ri + 1], luma[bi + 1, ri], luma[bi + 1, ri + 1]
            v0, v1 = np.int32(line[2 * i]), np.int32(line[2 * i + 1])
            v2, v3 = np.int32(next_line[2 * i]), np.int32(next_line[2 * i + 1])
            g0 = _between_levels(n00, n01, n10, n11, w00, w01, w10, w11, v0)
            g1 = _between_levels(n00, n01, n10, n11, w00, w01, w10, w11, v1)
            g2 = _between_levels(n00, n01, n10, n11, w00, w01, w10, w11, v2)
            g3 = _between_levels(n00, n01, n10, n11, w00, w01, w10, w11, v3)
            line[2 * i], line[2 * i + 1] = v0 + m0 * (g0 - v0) + half, v1 + m1 * (g1 - v1) + half
            next_line[2 * i], next_line[2 * i + 1] = v2 + m2 * (g2 - v2) + half, v3 + m3 * (g3 - v3) + half
            mean = (v0 + v1 + v2 + v3) >> 2
            level, part = mean >> 8, np.float32(mean & 255) * np.float32(1 / 256)
            m = quarter * (m0 + m1 + m2 + m3)
            c00, c01, c10, c11 = (
                chroma[bi, ri],
                chroma[bi, ri + 1],
                chroma[bi + 1, ri],
                chroma[bi + 1, ri + 1],
            )
            a, z = level, level + 1
            low = c00[a, 0] * w00 + c01[a, 0] * w01 + c10[a, 0] * w10 + c11[a, 0] * w11
            high = c00[z, 0] * w00 + c01[z, 0] * w01 + c10[z, 0] * w10 + c11[z, 0] * w11
            cb[j, i] = b + m * (low + part * (high - low) - b) + half
            low = c00[a, 1] * w00 + c01[a, 1] * w01 + c10[a, 1] * w10 + c11[a, 1] * w11
            high = c00[z, 1] * w00 + c01[z, 1] * w01 + c10[z, 1] * w10 + c11[z, 1] * w11
            cr[j, i] = r + m * (low + part * (high - low) - r) + half


@njit(nogil=True, cache=True, boundscheck=False, fastmath=True)
def legal_rows(
    first, end, y, cb, cr, weights, round_at, y_off, y_scale, c_off, c_scale, to_y, from_y, to_c, from_c,
    out_y, out_cb, out_cr,
):  # fmt: skip
    """Codes between passes to codes of a file: R'G'B' is clipped to 0..1, once, and then rounded.

    `weights` (3,) float32 are those of red, green and blue in luma; `round_at` (n, n) float32, n a power of
    two, is added before what is behind the point is dropped.
    """
    zero, one, two = np.float32(0), np.float32(1), np.float32(2)
    side = round_at.shape[0] - 1
    of_r, of_g, of_b = weights[0], weights[1], weights[2]
    span_r, span_b = two * (one - of_r), two * (one - of_b)  # BT.709-6 item 3.3, BT.2020-2 table 4
    green_r, green_b = of_r * span_r / of_g, of_b * span_b / of_g
    for j in range(first, end):
        for i in range(cb.shape[1]):
            b = (np.float32(cb[j, i]) - c_off) * c_scale
            r = (np.float32(cr[j, i]) - c_off) * c_scale
            add_r, add_b = span_r * r, span_b * b
            add_g = -green_b * b - green_r * r
            least, most = min(add_r, add_g, add_b), max(add_r, add_g, add_b)
            sum_b, sum_r = zero, zero
            clipped = False
            for k in range(4):
                at_row, at_column = 2 * j + (k >> 1), 2 * i + (k & 1)
                v = (np.float32(y[at_row, at_column]) - y_off) * y_scale
                if v + least < zero or v + most > one:
                    clipped = True
                    red = min(max(v + add_r, zero), one)
                    green = min(max(v + add_g, zero), one)
                    blue = min(max(v + add_b, zero), one)
                    v = of_r * red + of_g * green + of_b * blue
                    sum_b += (blue - v) / span_b
                    sum_r += (red - v) / span_r
                else:
                    sum_b += b
                    sum_r += r
                out_y[at_row, at_column] = int(v * to_y + from_y + round_at[at_row & side, at_column & side])
            if clipped:
                b, r = sum_b * np.float32(0.25), sum_r * np.float32(0.25)
            out_cb[j, i] = int(b * to_c + from_c + round_at[(2 * j) & side, (2 * i + 1) & side])
            out_cr[j, i] = int(r * to_c + from_c + round_at[(2 * j + 1) & side, (2 * i) & side])


@njit(nogil=True, cache=True, boundscheck=False, fastmath=True)
def to_signal_rows(first, end, codes, offset, scale, out):
    """16-bit codes to signal, float32."""
    for j in range(first, end):
        for i in range(codes.shape[1]):
            out[j, i] = (np.float32(codes[j, i]) - offset) * scale


@njit(nogil=True, cache=True, boundscheck=False, fastmath=True)
def to_codes_rows(first, end, signal, offset, scale, out):
    """Signal to 16-bit codes, rounded; what is beyond them is held."""
    low, high = np.float32(0), np.float32(65535)
    for j in range(first, end):
        for i in range(signal.shape[1]):
            out[j, i] = np.uint16(min(max(signal[j, i] * scale + offset, low), high) + np.float32(0.5))
