"""Vignette: never needed, sometimes welcome."""

from __future__ import annotations

from morphe.core.advise.rung import taste
from morphe.core.grade.steps import Vignette
from morphe.core.measure.zone import Zone

__all__ = ["VIGNETTE"]

VIGNETTE = taste(
    Vignette,
    Zone(low=0.0, high=100.0, unit="%"),
    measured="Corners are as the lens gave them.",
    reason="A little darkness in the corners leads the eye inwards; many leave it out.",
    hint="Look at the picture's corners.",
)
