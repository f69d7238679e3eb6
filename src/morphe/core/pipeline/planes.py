"""The executor of renders: a pipeline over planar 4:2:0 codes.

A grade that is one table goes from a file's codes to a file's codes in one look-up a sample. Others go
through 16-bit planes that span a wider domain; the last pass clips and rounds, once.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import lru_cache
from itertools import groupby

import numpy as np

from morphe.core.bands import over_rows
from morphe.core.errors import ColourError
from morphe.core.footage.planes import Planes
from morphe.core.grade.step import Frame
from morphe.core.pipeline.codes import to_codes, to_signal
from morphe.core.pipeline.denoiser import Denoiser
from morphe.core.pipeline.passes import ColourPass, FramePass, MaskedPass, Pass, Pipeline
from morphe.core.pipeline.tables import (
    BETWEEN,
    CodesIn,
    CodesOut,
    PlaneLut,
    bake_between,
    bake_planes,
    look_up,
    rounding,
)
from morphe.core.signal.arrays import Codes, Plane
from morphe.core.signal.ycbcr import LUMA_WEIGHTS, Matrix

__all__ = ["Grader", "PlaneSet", "to_420"]

PlaneSet = tuple[Codes, Codes, Codes]  # luma (H, W), cb and cr (H/2, W/2)
WEIGHTS = 64  # steps of the blend between two tables
EVERYWHERE = np.ones((1, 1), np.float32)


class Grader:
    """Grades the frames of one clip: tables are baked where the picture changes, and kept."""

    def __init__(
        self, pipeline: Pipeline, codes: CodesIn, bits_out: int, matrix: Matrix = Matrix.BT709
    ) -> None:
        self.bits_out = bits_out
        self._denoiser = Denoiser(pipeline.denoise, codes) if pipeline.denoise.at_work else None
        codes = self._denoiser.given if self._denoiser else codes
        self._final = final = CodesOut.of_file(bits_out, matrix)
        between = replace(BETWEEN, matrix=matrix)
        single = pipeline.only_colour
        passes: tuple[Pass, ...] = (single,) if single else pipeline.passes
        first = passes[0] if isinstance(passes[0], ColourPass) else ColourPass()
        self._first = _moving_table(
            first, lambda held, often: bake_planes(
                held, codes, final if single else between, every_code=often
            )
        )  # fmt: skip
        rest = passes[1:] if first is passes[0] else passes
        self._rest = [
            work
            for framed, group in groupby(rest, lambda one: isinstance(one, FramePass))
            for work in (
                [_framed([p for p in group if isinstance(p, FramePass)])]
                if framed
                else [_between_pass(p, between) for p in group if not isinstance(p, FramePass)]
            )
        ]
        self._is_single = single is not None
        self._round_at = rounding(dithered=codes.bit_depth > bits_out).astype(np.float32)

    def grade(self, planes: PlaneSet, time_s: float, out: PlaneSet, *, frame: int = 0) -> None:
        """Grade 4:2:0 planes into `out` of the same shapes; the source is left alone.

        `frame` is its number, from which steps with chance in them draw.
        """
        y, cb, cr = planes
        if y.shape != (2 * cb.shape[0], 2 * cb.shape[1]) or cr.shape != cb.shape:
            raise ColourError("The kernel needs 4:2:0 planes of even size.")
        if self._denoiser:
            planes = self._denoiser.clean(planes, frame)
        if self._is_single:
            look_up(self._first(time_s), planes, out)
            return
        between: PlaneSet = tuple(np.empty(p.shape, np.uint16) for p in planes)  # type: ignore[assignment]
        look_up(self._first(time_s), planes, between)
        for work in self._rest:
            between = work(between, time_s, frame)
        _make_legal(between, self._final, self._round_at, out)


def _make_legal(between: PlaneSet, final: CodesOut, round_at: Plane, out: PlaneSet) -> None:
    from morphe.core.pipeline.kernels import legal_rows  # compiled: late, while decoding goes on

    numbers = (
        BETWEEN.luma_offset, 1 / BETWEEN.luma_scale, BETWEEN.chroma_offset, 1 / BETWEEN.chroma_scale,
        final.luma_scale, final.luma_offset, final.chroma_scale, final.chroma_offset,
    )  # fmt: skip
    typed = tuple(np.float32(n) for n in numbers)
    weights = np.array(LUMA_WEIGHTS[final.matrix], np.float32)
    over_rows(
        between[1].shape[0],
        lambda a, b: legal_rows(a, b, *between, weights, round_at, *typed, *out),  # type: ignore[call-arg]
    )


# --- passes between --------------------------------------------------------------------------------

Between = Callable[[PlaneSet, float, int], PlaneSet]


def _between_pass(one: ColourPass | MaskedPass, codes: CodesOut) -> Between:
    from morphe.core.pipeline.kernels import between_rows  # compiled: late, as few grades need it

    inside = one.inside if isinstance(one, MaskedPass) else one
    table = _moving_table(inside, lambda held, often: bake_between(held, codes))
    place = _masked(one) if isinstance(one, MaskedPass) else None
    strength = np.float32(one.strength if isinstance(one, MaskedPass) else 1.0)

    def work(planes: PlaneSet, time_s: float, frame: int) -> PlaneSet:
        height, width = planes[0].shape
        mask, (left, top, right, bottom) = (
            place(width, height, time_s) if place else (EVERYWHERE, (0, 0, width, height))
        )
        lut, start = table(time_s), top // 2
        if right > left and bottom > top:
            over_rows(
                (bottom - top) // 2,
                lambda a, b: between_rows(
                    start + a, start + b, *planes, lut.luma, lut.chroma, mask, left, top, strength
                ),
            )
        return planes

    return work


Masked = Callable[[int, int, float], tuple[Plane, tuple[int, int, int, int]]]


def _masked(one: MaskedPass) -> Masked:
    """The mask of a region at a moment, with its window; kept where the region holds still."""
    region = one.region

    def at(width: int, height: int, time_s: float) -> tuple[Plane, tuple[int, int, int, int]]:
        window = region.window(width, height, time_s)
        if window[2] <= window[0] or window[3] <= window[1]:
            return EVERYWHERE, window
        return region.mask(width, height, time_s, window), window

    kept = lru_cache(maxsize=1)(at)
    return at if region.moves else lambda width, height, time_s: kept(width, height, 0.0)


def _framed(passes: Sequence[FramePass]) -> Between:
    """Effects one after another, on signal between the codes of the passes around them."""
    white = passes[0].white
    offsets = BETWEEN.luma_offset, BETWEEN.chroma_offset, BETWEEN.chroma_offset
    scales = [white * n for n in (BETWEEN.luma_scale, BETWEEN.chroma_scale, BETWEEN.chroma_scale)]

    def work(planes: PlaneSet, time_s: float, frame: int) -> PlaneSet:
        luma, *colour = (to_signal(*one) for one in zip(planes, offsets, scales, strict=True))
        chroma = np.stack(colour, axis=-1)
        done = Frame(luma=luma, chroma=chroma)
        for one in passes:
            done = _mixed(done, one.step.at(time_s).apply(done, frame), one.strength)
        new_luma = planes[0] if done.luma is luma else to_codes(done.luma, offsets[0], scales[0])
        if done.chroma is chroma:
            return new_luma, planes[1], planes[2]
        blue, red = (to_codes(done.chroma[..., c], offsets[1], scales[1]) for c in (0, 1))
        return new_luma, blue, red

    return work


def _mixed(before: Frame, after: Frame, strength: float) -> Frame:
    if strength == 1:
        return after
    share = np.float32(strength)
    luma, chroma = before.luma + share * (after.luma - before.luma), before.chroma
    return Frame(luma=luma, chroma=chroma + share * (after.chroma - chroma))


# --- tables that move ------------------------------------------------------------------------------

Bake = Callable[[ColourPass, bool], PlaneLut]


def _moving_table(colour: ColourPass, bake: Bake) -> Callable[[float], PlaneLut]:
    """The table for a moment: one for all, or blended between those baked where the picture has changed."""
    if not colour.moves:
        kept = lru_cache(maxsize=1)(lambda: bake(colour, True))
        return lambda time_s: kept()
    knots = np.array(colour.knots)

    @lru_cache(maxsize=2)
    def baked(knot: int) -> PlaneLut:
        return bake(colour.at(float(knots[knot])), False)

    @lru_cache(maxsize=2)
    def blended(knot: int, weight: int) -> PlaneLut:
        one = baked(knot)
        if weight == 0 or knot + 1 >= len(knots):
            return one
        two = baked(knot + 1)
        return PlaneLut(
            luma=_between(one.luma, two.luma, weight), chroma=_between(one.chroma, two.chroma, weight),
            bits_in=one.bits_in, out=one.out,
        )  # fmt: skip

    def at(time_s: float) -> PlaneLut:
        knot = int(np.clip(np.searchsorted(knots, time_s, side="right") - 1, 0, len(knots) - 1))
        if knot + 1 >= len(knots):
            return blended(knot, 0)
        share = (time_s - knots[knot]) / (knots[knot + 1] - knots[knot])
        return blended(knot, int(np.clip(round(share * WEIGHTS), 0, WEIGHTS)))

    return at


def _between(one: Codes, two: Codes, weight: int) -> Codes:
    mixed = one.astype(np.uint32) * (WEIGHTS - weight) + two.astype(np.uint32) * weight + WEIGHTS // 2
    return (mixed // WEIGHTS).astype(one.dtype)


# --- planes of a file ------------------------------------------------------------------------------


def to_420(planes: Planes, *, bits: int) -> PlaneSet:
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
