"""The reference: a grade evaluated directly, step by step. Every faster way is compared with it."""

from __future__ import annotations

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.step import Frame, FrameStep
from morphe.core.pipeline.passes import FramePass, compile_grade
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.ycbcr import rgb_to_ycbcr, ycbcr_to_rgb

__all__ = ["evaluate", "frame_step_applied"]


def evaluate(grade: Grade, encoded: Encoded, *, time_s: float = 0.0) -> Encoded:
    """Apply a grade to encoded R'G'B' (..., 3) float32, at a moment of the clip.

    The result is BT.709-encoded and not clipped; without a step at work it is the input itself. Pixels
    without a place (anything but (H, W, 3)) can be graded by colour alone.

    Raises
    ------
    ColourError
        If the grade needs a pixel's place and the picture has none.
    """
    pipeline = compile_grade(grade.at(time_s))
    out = encoded
    if pipeline.denoise.at_work and encoded.ndim == 3:  # pixels without a place have no neighbours
        out = frame_step_applied(pipeline.denoise, out, 1.0)
    for one in pipeline.passes:
        if isinstance(one, FramePass):
            out = frame_step_applied(one.step, _framed(out), one.strength)
        else:
            out = one.apply(out)
    return out


def _framed(encoded: Encoded) -> Encoded:
    if encoded.ndim != 3:
        raise ColourError("Regions and effects need a whole picture.")
    return encoded


def frame_step_applied(step: FrameStep, encoded: Encoded, strength: float) -> Encoded:
    """A frame step on a picture (H, W, 3) of full colour resolution."""
    signal = rgb_to_ycbcr(encoded)
    frame = Frame(luma=np.ascontiguousarray(signal[..., 0]), chroma=np.ascontiguousarray(signal[..., 1:]))
    done = step.apply(frame, seed=0)
    changed = np.concatenate([done.luma[..., None], done.chroma], axis=-1)
    if strength < 1:
        changed = signal + np.float32(strength) * (changed - signal)
    return ycbcr_to_rgb(changed)
