"""Vignette: never needed, sometimes welcome."""

from __future__ import annotations

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, content
from morphe.core.grade.steps import Vignette
from morphe.core.measure.zone import Reading, Zone

__all__ = ["VIGNETTE"]

NOTHING = Reading(value=None, zone=Zone(low=0.0, high=100.0, unit="%"))


def _judge(case: Case) -> Rung:
    return content(
        Vignette(), NOTHING, "Corners are as the lens gave them.",
        "A little darkness in the corners leads the eye inwards; many leave it out.", unit="%",
    )  # fmt: skip


VIGNETTE = Rule(
    step=Vignette,
    instrument=Instrument(scope="luma", window=(-7, 109), hint="Look at the picture's corners."),
    judge=_judge,
    layer="finish",
)
