"""Noise taken out of the frames of a file, one after another: each knows the one before it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from morphe.core.grade.denoise import Denoise
from morphe.core.grade.step import Frame
from morphe.core.pipeline.codes import to_codes, to_signal
from morphe.core.pipeline.tables import CodesIn
from morphe.core.signal.arrays import Codes
from morphe.core.signal.ycbcr import range_scale

__all__ = ["Denoiser"]

FINE_BITS = 10  # what is cleaned has finer steps than codes of 8 bits
FARTHEST = 1  # frames between two that know of each other


class Denoiser:
    """Cleans the planes of one clip in the order of its frames; `codes` says how they came in, `given` how
    they go out."""

    def __init__(self, step: Denoise, codes: CodesIn) -> None:
        self._step, self._in = step, range_scale(codes.range, codes.bit_depth)
        self.given = replace(codes, bit_depth=FINE_BITS)
        self._out = range_scale(codes.range, FINE_BITS)
        self._past: tuple[int, Frame] | None = None

    def clean(self, planes: tuple[Codes, Codes, Codes], frame: int) -> tuple[Codes, Codes, Codes]:
        """The planes of a frame, cleaned; a frame that does not follow the last one begins anew."""
        y, cb, cr = planes
        luma = to_signal(y, self._in.luma_offset, self._in.luma_scale)
        colour = [to_signal(p, self._in.chroma_offset, self._in.chroma_scale) for p in (cb, cr)]
        cleaned = self._step.apply(Frame(luma=luma, chroma=np.stack(colour, axis=-1)))
        if self._past is not None and 0 < frame - self._past[0] <= FARTHEST:
            cleaned = self._step.with_past(cleaned, self._past[1])
        self._past = (frame, cleaned)
        out = self._out
        blue, red = (np.ascontiguousarray(cleaned.chroma[..., c]) for c in (0, 1))
        most = np.uint16(out.max_code)
        return (
            np.minimum(to_codes(cleaned.luma, out.luma_offset, out.luma_scale), most),
            np.minimum(to_codes(blue, out.chroma_offset, out.chroma_scale), most),
            np.minimum(to_codes(red, out.chroma_offset, out.chroma_scale), most),
        )
