"""Curves: for those who bend tones by hand."""

from __future__ import annotations

from morphe.core.advise.rung import taste
from morphe.core.grade.steps import Curves
from morphe.core.measure.zone import Zone

__all__ = ["CURVES"]

CURVES = taste(
    Curves,
    Zone(low=0.0, high=100.0, unit="%"),
    measured="Black point, white point, mid level and contrast have done this work already.",
    reason="Bend by hand what they do not: a curve never falls, so nothing turns over.",
    hint="Drag a point; tap the line for a new one, drag it out to remove it.",
    layer="clip",
)
