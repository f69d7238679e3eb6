"""A grey card or plain wall in the picture: its level, its noise, and how much of it is clipped."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

from morphe.core.errors import ColourError
from morphe.core.measure.noise import noise_of
from morphe.core.measure.readings import luma_of
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.fit_curve import CardReading

__all__ = ["Region", "read_card"]

Region = tuple[float, float, float, float]  # left, top, right, bottom as shares 0..1
LEAST_PX = 8
TOP = (254 - 16) / 219  # the highest code of 8 bits, as a fraction of the narrow range
SOFT_PX = 7
UNEVEN = 0.06  # spread of a patch, as a share of the range, from which it is no plain card


def read_card(frames: Sequence[Encoded], region: Region, stops: float) -> CardReading:
    """Read the card in a few frames (H, W, 3) of one take.

    Raises
    ------
    ColourError
        If the region is too small, or what it shows is no plain surface.
    """
    patches = [_cut(frame, region) for frame in frames]
    lumas = np.stack([luma_of(p) for p in patches])
    level = float(np.median(lumas))
    clipped = float(np.mean([p.max(axis=-1) >= TOP for p in patches]))
    soft = cv2.blur(lumas.mean(axis=0), (SOFT_PX, SOFT_PX))  # noise is no unevenness
    spread = float(np.subtract(*np.percentile(soft, [95, 5])))
    if spread > UNEVEN:
        raise ColourError(
            f"At {stops:+g} stops the region holds more than a plain surface; draw it inside the card."
        )
    return CardReading(stops=stops, level=level, noise=max(noise_of(lumas[0]), 1e-4), clipped=clipped)


def _cut(frame: Encoded, region: Region) -> Encoded:
    height, width = frame.shape[:2]
    left, top, right, bottom = region
    if not (0 <= left < right <= 1 and 0 <= top < bottom <= 1):
        raise ColourError("The region lies outside the picture; draw it again.")
    cut = frame[round(top * height) : round(bottom * height), round(left * width) : round(right * width)]
    if min(cut.shape[:2]) < LEAST_PX:
        raise ColourError(f"The region is smaller than {LEAST_PX} pixels; draw it larger.")
    return cut
