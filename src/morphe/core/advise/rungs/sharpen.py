"""Sharpening: the last thing of all, and little of it."""

from __future__ import annotations

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, content
from morphe.core.grade.steps import Sharpen
from morphe.core.measure.zone import Reading, Zone

__all__ = ["SHARPEN"]

NOTHING = Reading(value=None, zone=Zone(low=0.0, high=20.0, unit="tenths"))


def _judge(case: Case) -> Rung:
    return content(
        Sharpen(), NOTHING, "Cameras sharpen by themselves.",
        "If the camera was set soft, one to five tenths look natural; more shows as rims.", unit="tenths",
    )  # fmt: skip


SHARPEN = Rule(
    step=Sharpen,
    instrument=Instrument(scope="luma", window=(-7, 109), hint="Look at edges at full size."),
    judge=_judge,
    layer="finish",
)
