"""The reference: a grade evaluated directly, step by step. Every faster way is compared with it."""

from __future__ import annotations

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.step import Frame
from morphe.core.pipeline.hdr_space import HdrSpace
from morphe.core.pipeline.passes import FramePass, compile_grade
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.ycbcr import rgb_to_ycbcr, ycbcr_to_rgb

__all__ = ["evaluate", "frame_step_applied"]


def evaluate(
    grade: Grade, encoded: Encoded, *, time_s: float = 0.0, space: HdrSpace | None = None
) -> Encoded:
    """Apply a grade to encoded R'G'B' (..., 3) float32, at a moment of the clip.

    The result is BT.709-encoded and not clipped; without a step at work it is the input itself. In a `space`
    it is what that says, and the grade holds what is carried there alone. Pixels without a place (anything
    but (H, W, 3)) can be graded by colour alone.

    Raises
    ------
    ColourError
        If the grade needs a pixel's place and the picture has none.
    """
    pipeline = compile_grade(grade.at(time_s), space)
    out = encoded
    if pipeline.denoise.at_work and encoded.ndim == 3:  # pixels without a place have no neighbours
        out = frame_step_applied(FramePass(step=pipeline.denoise), out)
    for one in pipeline.passes:
        out = frame_step_applied(one, _framed(out)) if isinstance(one, FramePass) else one.apply(out)
    return out


def _framed(encoded: Encoded) -> Encoded:
    if encoded.ndim != 3:
        raise ColourError("Regions and effects need a whole picture.")
    return encoded


def frame_step_applied(one: FramePass, encoded: Encoded) -> Encoded:
    """A frame step on a picture (H, W, 3) of full colour resolution."""
    signal = rgb_to_ycbcr(encoded) / np.float32(one.white)
    frame = Frame(luma=np.ascontiguousarray(signal[..., 0]), chroma=np.ascontiguousarray(signal[..., 1:]))
    done = one.step.apply(frame, seed=0)
    changed = np.concatenate([done.luma[..., None], done.chroma], axis=-1)
    if one.strength < 1:
        changed = signal + np.float32(one.strength) * (changed - signal)
    return ycbcr_to_rgb(changed * np.float32(one.white))
