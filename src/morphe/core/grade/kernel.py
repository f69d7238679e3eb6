"""The fused render kernel: planar Y'CbCr codes in, graded BT.709 codes out, without a trip through R'G'B'.

A grade is baked into two tables over source codes. Luma is dense in Y' and has 65 x 65 chroma nodes;
chroma has 256 levels of Y'. Neutral chroma lies exactly on a node, so greys are not interpolated at all.
Values are kept with spare bits and rounded once. For 8-bit sources the tables are then written out for
every code there is, so that a frame costs one look-up a sample.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numba import njit

from morphe.core.bands import over_rows
from morphe.core.errors import ColourError
from morphe.core.footage.planes import Planes
from morphe.core.grade.grade import Grade, evaluate
from morphe.core.signal.arrays import Codes, Float
from morphe.core.signal.ycbcr import Matrix, Range, range_scale, rgb_to_ycbcr, ycbcr_to_rgb

__all__ = ["PlaneLut", "apply_planes", "bake_planes", "to_420"]

NODES = 65  # chroma nodes per axis; node 32 is neutral
LEVELS = 256  # evaluated levels of luma
SPARE_BITS = {8: 7, 10: 5}


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PlaneLut:
    """Tables over source codes: luma (65, 65, 2^in), chroma (65, 65, 256, 2), uint16 with spare bits.

    `every` holds them for all codes of an 8-bit source: luma (256, 256, 256), cb and cr (256, 256, 128).
    """

    luma: Codes
    chroma: Codes
    bits_in: int
    bits_out: int
    every: tuple[Codes, Codes, Codes] | None = None


def bake_planes(
    grade: Grade,
    *,
    bit_depth: int,
    code_range: Range,
    matrix: Matrix,
    bits_out: int,
    every_code: bool = True,
) -> PlaneLut:
    """Evaluate a grade over Y'CbCr codes of a source with 8 or 10 bits.

    Writing the tables out for every code of 8 bits pays where they serve many frames.

    The result is legal: R'G'B' is clipped to 0..1 here, once, before it becomes codes.
    """
    if bit_depth not in SPARE_BITS or bits_out not in SPARE_BITS:
        raise ColourError("The render kernel works on 8 or 10 bits.")
    scale = range_scale(code_range, bit_depth)
    step = 2**bit_depth
    luma_codes = np.arange(LEVELS + 1) * (step / LEVELS)
    chroma_codes = np.arange(NODES) * (step / (NODES - 1))
    y = ((luma_codes - scale.luma_offset) / scale.luma_scale).astype(np.float32)
    c = ((chroma_codes - scale.chroma_offset) / scale.chroma_scale).astype(np.float32)
    signal = np.empty((NODES, NODES, LEVELS + 1, 3), np.float32)

    def evaluate_nodes(first: int, end: int) -> None:
        cb, cr, luma = np.meshgrid(c[first:end], c, y, indexing="ij")
        encoded = ycbcr_to_rgb(np.stack([luma, cb, cr], axis=-1), matrix)
        signal[first:end] = rgb_to_ycbcr(np.clip(evaluate(grade, encoded), 0, 1))

    over_rows(NODES, evaluate_nodes, bands=8)
    lut = PlaneLut(
        luma=_luma_table(signal[..., 0], luma_codes, step, bits_out),
        chroma=_chroma_table(signal[..., 1:], bits_out),
        bits_in=bit_depth,
        bits_out=bits_out,
    )
    return lut if bit_depth > 8 or not every_code else replace(lut, every=_every_code(lut))


def _every_code(lut: PlaneLut) -> tuple[Codes, Codes, Codes]:
    """Grade a picture that shows each chroma with each luma once: its result is the table of all codes."""
    dtype = np.uint8 if lut.bits_out == 8 else np.uint16
    code = np.arange(256, dtype=np.uint8)
    luma = np.tile(code, (2 * 65536, 1))
    cb, cr = (np.repeat(c.ravel(), 128).reshape(65536, 128) for c in np.meshgrid(code, code, indexing="ij"))
    out = (np.empty(luma.shape, dtype), np.empty(cb.shape, dtype), np.empty(cr.shape, dtype))
    _interpolate(lut, (luma, cb, cr), out)
    whole = np.ascontiguousarray(out[0][::2]).reshape(256, 256, 256)
    return whole, out[1].reshape(256, 256, 128), out[2].reshape(256, 256, 128)


def _luma_table(luma: Float, luma_codes: Float, step: int, bits_out: int) -> Codes:
    out = range_scale(Range.NARROW, bits_out)
    codes = luma * out.luma_scale + out.luma_offset
    if step > LEVELS:
        each = step // LEVELS
        share = np.arange(each, dtype=np.float32) / each
        between = codes[..., :-1, None] * (1 - share) + codes[..., 1:, None] * share
        codes = between.reshape(*codes.shape[:2], step)
    else:
        codes = codes[..., :LEVELS]
    return np.ascontiguousarray(np.rint(codes * 2 ** SPARE_BITS[bits_out]).astype(np.uint16))


def _chroma_table(chroma: Float, bits_out: int) -> Codes:
    out = range_scale(Range.NARROW, bits_out)
    # A level of the table stands for the codes up to the next one: take the middle of the two ends.
    middle = 0.5 * (chroma[..., :-1, :] + chroma[..., 1:, :]) if bits_out > 8 else chroma[..., :-1, :]
    codes = middle * out.chroma_scale + out.chroma_offset
    return np.ascontiguousarray(np.rint(codes * 2 ** SPARE_BITS[bits_out]).astype(np.uint16))


@njit(nogil=True, cache=True, boundscheck=False)
def _graded_rows(first, end, y, cb, cr, luma, chroma, frac_bits, level_shift, spare, out_y, out_cb, out_cr):  # type: ignore[no-untyped-def]
    mask = (1 << frac_bits) - 1
    unit = 1 << frac_bits
    shift = 2 * frac_bits + spare
    half = 1 << (shift - 1)
    for j in range(first, end):
        top, bottom = y[2 * j], y[2 * j + 1]
        out_top, out_bottom = out_y[2 * j], out_y[2 * j + 1]
        for i in range(cb.shape[1]):
            b, r = np.int32(cb[j, i]), np.int32(cr[j, i])
            bi, ri, bf, rf = b >> frac_bits, r >> frac_bits, b & mask, r & mask
            w00, w01 = (unit - bf) * (unit - rf), (unit - bf) * rf
            w10, w11 = bf * (unit - rf), bf * rf
            n00, n01, n10, n11 = luma[bi, ri], luma[bi, ri + 1], luma[bi + 1, ri], luma[bi + 1, ri + 1]
            y0, y1, y2, y3 = top[2 * i], top[2 * i + 1], bottom[2 * i], bottom[2 * i + 1]
            out_top[2 * i] = (
                np.int32(n00[y0]) * w00 + np.int32(n01[y0]) * w01 + np.int32(n10[y0]) * w10
                + np.int32(n11[y0]) * w11 + half
            ) >> shift  # fmt: skip
            out_top[2 * i + 1] = (
                np.int32(n00[y1]) * w00 + np.int32(n01[y1]) * w01 + np.int32(n10[y1]) * w10
                + np.int32(n11[y1]) * w11 + half
            ) >> shift  # fmt: skip
            out_bottom[2 * i] = (
                np.int32(n00[y2]) * w00 + np.int32(n01[y2]) * w01 + np.int32(n10[y2]) * w10
                + np.int32(n11[y2]) * w11 + half
            ) >> shift  # fmt: skip
            out_bottom[2 * i + 1] = (
                np.int32(n00[y3]) * w00 + np.int32(n01[y3]) * w01 + np.int32(n10[y3]) * w10
                + np.int32(n11[y3]) * w11 + half
            ) >> shift  # fmt: skip
            level = (np.int32(y0) + np.int32(y1) + np.int32(y2) + np.int32(y3) + 2) >> level_shift
            c00, c01 = chroma[bi, ri, level], chroma[bi, ri + 1, level]
            c10, c11 = chroma[bi + 1, ri, level], chroma[bi + 1, ri + 1, level]
            out_cb[j, i] = (
                np.int32(c00[0]) * w00 + np.int32(c01[0]) * w01 + np.int32(c10[0]) * w10
                + np.int32(c11[0]) * w11 + half
            ) >> shift  # fmt: skip
            out_cr[j, i] = (
                np.int32(c00[1]) * w00 + np.int32(c01[1]) * w01 + np.int32(c10[1]) * w10
                + np.int32(c11[1]) * w11 + half
            ) >> shift  # fmt: skip


@njit(nogil=True, cache=True, boundscheck=False)
def _looked_up_rows(first, end, y, cb, cr, luma, table_b, table_r, out_y, out_cb, out_cr):  # type: ignore[no-untyped-def]
    for j in range(first, end):
        top, bottom = y[2 * j], y[2 * j + 1]
        out_top, out_bottom = out_y[2 * j], out_y[2 * j + 1]
        for i in range(cb.shape[1]):
            b, r = cb[j, i], cr[j, i]
            levels = luma[b, r]
            y0, y1, y2, y3 = top[2 * i], top[2 * i + 1], bottom[2 * i], bottom[2 * i + 1]
            out_top[2 * i], out_top[2 * i + 1] = levels[y0], levels[y1]
            out_bottom[2 * i], out_bottom[2 * i + 1] = levels[y2], levels[y3]
            level = (np.int32(y0) + np.int32(y1) + np.int32(y2) + np.int32(y3)) >> 3
            out_cb[j, i], out_cr[j, i] = table_b[b, r, level], table_r[b, r, level]


def apply_planes(lut: PlaneLut, planes: tuple[Codes, Codes, Codes], out: tuple[Codes, Codes, Codes]) -> None:
    """Grade 4:2:0 planes (luma, cb, cr) into `out` of the same shapes; the source is left alone."""
    y, cb, cr = planes
    if y.shape != (2 * cb.shape[0], 2 * cb.shape[1]) or cr.shape != cb.shape:
        raise ColourError("The kernel needs 4:2:0 planes of even size.")
    tables = lut.every
    if tables is None:
        _interpolate(lut, planes, out)
    else:
        over_rows(cb.shape[0], lambda a, b: _looked_up_rows(a, b, y, cb, cr, *tables, *out))


def _interpolate(lut: PlaneLut, planes: tuple[Codes, Codes, Codes], out: tuple[Codes, Codes, Codes]) -> None:
    frac_bits, level_shift = lut.bits_in - 6, lut.bits_in - 6
    spare = SPARE_BITS[lut.bits_out]
    over_rows(
        planes[1].shape[0],
        lambda a, b: _graded_rows(a, b, *planes, lut.luma, lut.chroma, frac_bits, level_shift, spare, *out),
    )


def to_420(planes: Planes, *, bits: int) -> tuple[Codes, Codes, Codes]:
    """Bring planes to 4:2:0 of even size with `bits` (8 or 10): an odd last row or column is dropped."""
    height, width = (n // 2 * 2 for n in planes.luma.shape)
    drop = max(planes.bit_depth - bits, 0)
    luma = planes.luma[:height, :width]
    chroma = [_halved(c, planes.luma.shape, height // 2, width // 2) for c in (planes.cb, planes.cr)]
    if drop:
        luma, *chroma = (p >> drop for p in (luma, *chroma))
    return luma, chroma[0], chroma[1]


def _halved(plane: Codes, luma_shape: tuple[int, ...], height: int, width: int) -> Codes:
    out = plane
    if out.shape[1] >= luma_shape[1] > 1:
        wide = out.astype(np.uint32)
        left = np.concatenate([wide[:, :1], wide[:, :-1]], axis=1)
        right = np.concatenate([wide[:, 1:], wide[:, -1:]], axis=1)
        out = ((left + 2 * wide + right + 2) >> 2)[:, 0::2].astype(plane.dtype)
    if out.shape[0] >= luma_shape[0] > 1:
        even = out[: 2 * height].astype(np.uint32)
        out = ((even[0::2] + even[1::2] + 1) >> 1).astype(plane.dtype)
    return out[:height, :width]
