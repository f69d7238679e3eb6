"""Colour passes baked into tables over Y'CbCr codes, so that frames need no trip through R'G'B'.

Luma has 65 x 65 chroma nodes for every level; neutral chroma lies exactly on a node, so greys are not
interpolated across colour at all. A table says how codes came in and how they go out: codes of a file, or
`BETWEEN` passes, where 16 bits span a wider domain and nothing is clipped.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from morphe.core.bands import over_rows
from morphe.core.errors import ColourError
from morphe.core.pipeline.passes import ColourPass
from morphe.core.signal.arrays import Codes, Float, highest, lowest
from morphe.core.signal.ycbcr import Matrix, Range, range_scale, rgb_to_ycbcr, ycbcr_to_rgb

__all__ = [
    "BETWEEN",
    "NODES",
    "CodesIn",
    "CodesOut",
    "PlaneLut",
    "bake_between",
    "bake_planes",
    "look_up",
    "rounding",
]

NODES = 65  # chroma nodes per axis; node 32 is neutral
LEVELS = 256  # evaluated levels of luma
DITHERED = 8  # pixels after which the pattern of rounding begins again
# R'G'B' beyond this is written by no camera; between passes lights may still be far above white.
REACH, REACH_BETWEEN = (-0.2, 1.3), (-0.5, 3.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class CodesIn:
    """How a file's codes are read."""

    bit_depth: int
    range: Range
    matrix: Matrix

    def __post_init__(self) -> None:
        if self.bit_depth not in (8, 10):
            raise ColourError("The render kernel works on 8 or 10 bits.")


@dataclass(frozen=True, slots=True, kw_only=True)
class CodesOut:
    """How signal becomes codes: code = offset + scale * signal, with spare bits until it is rounded."""

    luma_offset: float
    luma_scale: float
    chroma_offset: float
    chroma_scale: float
    bits: int
    spare_bits: int
    is_legal: bool  # whether R'G'B' is clipped to 0..1: the last pass does it, once
    matrix: Matrix = Matrix.BT709

    @classmethod
    def of_file(cls, bits: int, matrix: Matrix = Matrix.BT709) -> CodesOut:
        """Narrow-range codes of 8 or 10 bits."""
        if bits not in (8, 10):
            raise ColourError("The render kernel works on 8 or 10 bits.")
        scale = range_scale(Range.NARROW, bits)
        return cls(
            luma_offset=scale.luma_offset, luma_scale=scale.luma_scale, chroma_offset=scale.chroma_offset,
            chroma_scale=scale.chroma_scale, bits=bits, spare_bits={8: 7, 10: 5}[bits], is_legal=True,
            matrix=matrix,
        )  # fmt: skip


# Light of up to three stops above white, and of colours far outside the gamut, until a later pass brings it
# in.
BETWEEN = CodesOut(
    luma_offset=8192, luma_scale=16384, chroma_offset=32768, chroma_scale=51200, bits=16, spare_bits=0,
    is_legal=False,
)  # fmt: skip


class EveryCode:
    """Tables written out for every code of 8 bits, as pictures come to need them."""

    def __init__(self, bits: int) -> None:
        dtype = np.uint8 if bits == 8 else np.uint16
        self.tables = tuple(np.empty((256, 256, levels), dtype) for levels in (256, 128, 128))
        self._written: dict[int, Codes] = {}

    def written(self, first_row: int) -> Codes:
        """Which chroma codes (256, 256) the band of a picture that begins there has written out.

        Bands run beside each other and keep this apart; what they write is the same.
        """
        return self._written.setdefault(first_row, np.zeros((256, 256), np.uint8))


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PlaneLut:
    """Tables over codes: luma (65, 65, levels), chroma (65, 65, levels, 2), uint16 with spare bits.

    Over a file's codes luma has a level for each; between passes there are 257 levels. `every` is there for
    sources of 8 bits where a table serves many frames.
    """

    luma: Codes
    chroma: Codes
    bits_in: int
    out: CodesOut
    every: EveryCode | None = None


def bake_planes(colour: ColourPass, codes: CodesIn, out: CodesOut, *, every_code: bool = True) -> PlaneLut:
    """Evaluate a pass over the codes of a file; `every_code` where the tables serve many frames."""
    scale = range_scale(codes.range, codes.bit_depth)
    step = 2**codes.bit_depth
    luma_codes = np.arange(LEVELS + 1) * (step / LEVELS)
    chroma_codes = np.arange(NODES) * (step / (NODES - 1))
    signal = _signal(
        colour, (luma_codes - scale.luma_offset) / scale.luma_scale,
        (chroma_codes - scale.chroma_offset) / scale.chroma_scale, codes.matrix, out,
    )  # fmt: skip
    lut = PlaneLut(
        luma=_luma_table(signal[..., 0], step, out),
        chroma=_chroma_table(signal[..., 1:], out),
        bits_in=codes.bit_depth,
        out=out,
    )
    return lut if codes.bit_depth > 8 or not every_code else replace(lut, every=EveryCode(out.bits))


def bake_between(colour: ColourPass, codes: CodesOut = BETWEEN) -> PlaneLut:
    """Evaluate a pass over the codes between passes; 257 levels of luma, so that the last has an end."""
    luma_codes = np.arange(LEVELS + 1) * (2**16 / LEVELS)
    chroma_codes = np.arange(NODES) * (2**16 / (NODES - 1))
    signal = _signal(
        colour, (luma_codes - codes.luma_offset) / codes.luma_scale,
        (chroma_codes - codes.chroma_offset) / codes.chroma_scale, codes.matrix, codes,
    )  # fmt: skip
    return PlaneLut(
        luma=_coded(signal[..., 0], codes.luma_offset, codes.luma_scale, codes),
        chroma=_coded(signal[..., 1:], codes.chroma_offset, codes.chroma_scale, codes),
        bits_in=16,
        out=codes,
    )


def _signal(colour: ColourPass, luma: Float, chroma: Float, matrix: Matrix, out: CodesOut) -> Float:
    """The pass over a grid of signal values: Y'CbCr (65, 65, 257, 3)."""
    y, c = luma.astype(np.float32), chroma.astype(np.float32)
    signal = np.empty((NODES, NODES, LEVELS + 1, 3), np.float32)

    def evaluate_nodes(first: int, end: int) -> None:
        cb, cr, level = np.meshgrid(c[first:end], c, y, indexing="ij")
        encoded = ycbcr_to_rgb(np.stack([level, cb, cr], axis=-1), matrix)
        # Most codes of the cube are no colour at all: they take what the nearest level that is one gives.
        low, high = REACH if out.is_legal else REACH_BETWEEN
        is_colour = (lowest(encoded) > low) & (highest(encoded) < high)
        is_colour |= ~is_colour.any(axis=-1, keepdims=True)
        graded = colour.apply(encoded[is_colour])
        told = rgb_to_ycbcr(np.clip(graded, 0, 1) if out.is_legal else graded, out.matrix)
        number = (np.cumsum(is_colour) - 1).reshape(is_colour.shape)  # of each colour among those told
        signal[first:end] = told[np.take_along_axis(number, _nearest_true(is_colour), axis=-1)]

    over_rows(NODES, evaluate_nodes, bands=8)
    return signal


def _nearest_true(mask: Any) -> Codes:
    """For each place along the last axis, the nearest one between the first and the last that are true."""
    first = mask.argmax(axis=-1)
    last = mask.shape[-1] - 1 - mask[..., ::-1].argmax(axis=-1)
    places = np.arange(mask.shape[-1])
    return np.clip(places, first[..., None], last[..., None])


def _coded(signal: Float, offset: float, scale: float, out: CodesOut) -> Codes:
    codes = np.rint((signal * scale + offset) * 2**out.spare_bits)
    return np.ascontiguousarray(np.clip(codes, 0, 65535).astype(np.uint16))


def _luma_table(luma: Float, step: int, out: CodesOut) -> Codes:
    if step > LEVELS:
        each = step // LEVELS
        share = np.arange(each, dtype=np.float32) / each
        between = luma[..., :-1, None] * (1 - share) + luma[..., 1:, None] * share
        luma = between.reshape(*luma.shape[:2], step)
    else:
        luma = luma[..., :LEVELS]
    return _coded(luma, out.luma_offset, out.luma_scale, out)


def _chroma_table(chroma: Float, out: CodesOut) -> Codes:
    # A level of the table stands for the codes up to the next one: take the middle of the two ends.
    middle = 0.5 * (chroma[..., :-1, :] + chroma[..., 1:, :]) if out.bits > 8 else chroma[..., :-1, :]
    return _coded(middle, out.chroma_offset, out.chroma_scale, out)


def rounding(*, dithered: bool) -> Float:
    """What is added to each pixel before the rest is dropped (n, n), 0..1: a half, or an even pattern.

    The pattern (Bayer 1973) spreads what lies between two codes over neighbours, so that smooth sky shows no
    bands.
    """
    if not dithered:
        return np.full((1, 1), 0.5)
    order = np.zeros((1, 1))
    while len(order) < DITHERED:
        order = np.block([[4 * order, 4 * order + 2], [4 * order + 3, 4 * order + 1]])
    return np.asarray((order + 0.5) / order.size)


def look_up(lut: PlaneLut, planes: tuple[Codes, Codes, Codes], out: tuple[Codes, Codes, Codes]) -> None:
    """Grade 4:2:0 planes of a file's codes: by tables of every code, or by interpolation across colour."""
    from morphe.core.pipeline.kernels import looked_up_rows  # compiled: late, while decoding goes on

    every = lut.every
    if every is None:
        _interpolate(lut, planes, out)
        return
    tables = (lut.luma, lut.chroma, lut.out.spare_bits)
    over_rows(
        planes[1].shape[0],
        lambda a, b: looked_up_rows(  # type: ignore[call-arg]
            a, b, *planes, *tables, every.written(a), *every.tables, *out
        ),
    )


def _interpolate(lut: PlaneLut, planes: tuple[Codes, Codes, Codes], out: tuple[Codes, Codes, Codes]) -> None:
    """By interpolation across colour; to fewer bits, dithered."""
    from morphe.core.pipeline.kernels import graded_rows  # compiled: late, while decoding goes on

    frac_bits, level_shift = lut.bits_in - 6, lut.bits_in - 6
    spare = lut.out.spare_bits
    unit = 1 << (2 * frac_bits + spare)
    round_at = (rounding(dithered=lut.bits_in > lut.out.bits) * unit).astype(np.int32)
    over_rows(
        planes[1].shape[0],
        lambda a, b: graded_rows(
            a, b, *planes, lut.luma, lut.chroma, frac_bits, level_shift, spare, round_at, *out
        ),
    )
