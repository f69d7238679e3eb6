"""What skin looks like as a signal: its line in the plane of Cb and Cr, and how much a colour is like it."""

from __future__ import annotations

import numpy as np

from morphe.core.signal.arrays import Float, Plane
from morphe.core.signal.hues import smoothstep

__all__ = ["SKIN_LINE", "skin_share"]

SKIN_LINE = 123.0  # degrees anticlockwise from +Cb: skin of every complexion lies near it
FULL, NONE = 0.45, 1.0  # of the reach: so near a colour is skin, so far it is not
FAINT, WEAK, STRONG, GARISH = 0.02, 0.045, 0.22, 0.30  # of chroma: skin is neither grey nor paint
FULLY_LIT, LEAST_LIT = 0.35, 0.4  # of luma; the share of its chroma that deep or dimly lit skin keeps
DARK, BRIGHT = (0.04, 0.12), (0.93, 0.99)  # of luma


def skin_share(ycc: Float, centre: float, reach: float) -> Plane:
    """How much colours (..., 3) of Y'CbCr look like skin whose hue lies at `centre`, 0..1."""
    luma, chroma = ycc[..., 0], np.hypot(ycc[..., 1], ycc[..., 2])
    hue = np.degrees(np.arctan2(ycc[..., 2], ycc[..., 1]))
    away = np.abs((hue - centre + 180) % 360 - 180)
    near = 1 - smoothstep(FULL * reach, NONE * reach, away)
    vivid = smoothstep(FAINT, WEAK, chroma / np.clip(luma / FULLY_LIT, LEAST_LIT, 1)) * (
        1 - smoothstep(STRONG, GARISH, chroma)
    )
    return np.asarray(near * vivid * smoothstep(*DARK, luma) * (1 - smoothstep(*BRIGHT, luma)), np.float32)
