"""Sharpening: the last thing of all, and little of it."""

from __future__ import annotations

from morphe.core.advise.rung import taste
from morphe.core.grade.steps import Sharpen
from morphe.core.measure.zone import Zone

__all__ = ["SHARPEN"]

SHARPEN = taste(
    Sharpen,
    Zone(low=0.0, high=20.0, unit="tenths"),
    measured="Cameras sharpen by themselves.",
    reason="If the camera was set soft, one to five tenths look natural; more shows as rims.",
    hint="Look at edges at full size.",
)
