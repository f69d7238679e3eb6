"""What advice is made from: a clip's judging frames at a working size, seen through a grade so far."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from morphe.core.footage.info import SignalInfo
from morphe.core.footage.judging import JudgingFrame
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.arrays import Encoded, Float, Linear
from morphe.core.signal.profiles import PROFILES

__all__ = ["Evidence", "bright_end", "evidence_of", "evidence_of_pictures"]

WORKING_WIDTH = 256


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Evidence:
    """Frames (H, W, 3) encoded as the camera wrote them, and the clip's facts."""

    info: SignalInfo
    frames: tuple[Encoded, ...]

    @property
    def pixels(self) -> Encoded:
        """All frames' pixels (n, 3)."""
        return np.concatenate([f.reshape(-1, 3) for f in self.frames])

    def through(self, grade: Grade) -> tuple[Encoded, ...]:
        """The frames after a grade."""
        return tuple(evaluate(grade, f) for f in self.frames)

    def light_through(self, grade: Grade) -> tuple[Linear, ...]:
        """The frames after a grade, as scene-linear light."""
        decode = PROFILES.get("std-709").decode
        return tuple(decode(f).astype(np.float32) for f in self.through(grade))


def evidence_of(info: SignalInfo, frames: Sequence[JudgingFrame]) -> Evidence:
    """Reduce judging frames to the working size."""
    return evidence_of_pictures(info, [f.encoded for f in frames])


def evidence_of_pictures(info: SignalInfo, pictures: Sequence[Encoded]) -> Evidence:
    """Reduce the encoded pictures (H, W, 3) of a clip to the working size."""
    return Evidence(info=info, frames=tuple(_reduced(p) for p in pictures))


def _reduced(encoded: Encoded) -> Encoded:
    height, width = encoded.shape[:2]
    if width <= WORKING_WIDTH:
        return encoded
    size = (WORKING_WIDTH, max(1, round(height * WORKING_WIDTH / width)))
    return cv2.resize(encoded, size, interpolation=cv2.INTER_AREA).astype(np.float32, copy=False)


def bright_end(values: Float) -> float:
    """Robust bright end of positive values: geometric mean of their 99.6th and 99.95th percentile."""
    low, high = np.percentile(values, [99.6, 99.95])
    return float(np.sqrt(max(low, 1e-4) * max(high, 1e-4)))
