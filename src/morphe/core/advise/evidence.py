"""What advice is made from: a clip's judging frames at a working size, its facts, and its light over time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

from morphe.core.footage.info import SignalInfo
from morphe.core.measure.faces import Box
from morphe.core.measure.surround import NOTHING, Surround
from morphe.core.signal.arrays import Encoded

if TYPE_CHECKING:
    from morphe.core.measure.drift import OverTime

__all__ = ["WORKING_WIDTH", "Evidence", "evidence_of_pictures", "reduced"]

WORKING_WIDTH = 256


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Evidence:
    """Frames (H, W, 3) encoded as the camera wrote them, with their moments, and the clip's facts."""

    info: SignalInfo
    frames: tuple[Encoded, ...]
    times_s: tuple[float, ...] = ()
    over_time: OverTime | None = None
    faces: tuple[tuple[Box, ...], ...] | None = None  # by frame; None where they were not looked for
    surround: Surround = NOTHING  # of the frames as filmed; those here have picture in its place

    @property
    def pixels(self) -> Encoded:
        """All frames' pixels (n, 3)."""
        return np.concatenate([f.reshape(-1, 3) for f in self.frames])


def evidence_of_pictures(
    info: SignalInfo,
    pictures: Sequence[Encoded],
    times_s: Sequence[float] = (),
    over_time: OverTime | None = None,
    faces: tuple[tuple[Box, ...], ...] | None = None,
    surround: Surround = NOTHING,
) -> Evidence:
    """Reduce the encoded pictures (H, W, 3) of a clip to the working size."""
    frames = tuple(reduced(p) for p in pictures)
    return Evidence(
        info=info, frames=frames, times_s=tuple(times_s), over_time=over_time, faces=faces, surround=surround
    )


def reduced(encoded: Encoded) -> Encoded:
    height, width = encoded.shape[:2]
    if width <= WORKING_WIDTH:
        return encoded
    size = (WORKING_WIDTH, max(1, round(height * WORKING_WIDTH / width)))
    return cv2.resize(encoded, size, interpolation=cv2.INTER_AREA).astype(np.float32, copy=False)
