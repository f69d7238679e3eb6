"""Saturation: colours stay inside the safe outline."""

from __future__ import annotations

import numpy as np

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.grade.steps import Saturation
from morphe.core.measure.readings import SAFE_HIGH, SAFE_LOW
from morphe.core.measure.zone import Reading, Zone
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = ["SATURATION"]

ZONE = Zone(low=0.0, high=1.0, unit="%")  # of the picture beyond the outline (EBU R 103)
LEAST, MOST = 4.0, 25.0  # percent of saturation taken back


def _read(seen: Seen) -> Reading:
    pixels = seen.pixels
    outside = float(((pixels < SAFE_LOW) | (pixels > SAFE_HIGH)).any(axis=1).mean() * 100)
    chroma = rgb_to_ycbcr(pixels)[:, 1:]
    radius = float(np.percentile(np.hypot(chroma[:, 0], chroma[:, 1]), 95))
    return Reading(value=outside, zone=ZONE, marks=(radius,))


def _judge(case: Case) -> Rung:
    reading = _read(case.seen)
    outside = reading.value or 0.0
    measured = f"{outside:.1f} % of the picture lies beyond the safe outline."
    if outside <= ZONE.high:
        return content(Saturation(), reading, measured, "Colours stay inside the outline.", unit="%")
    amount = -float(round(float(np.clip(3 + 2 * outside, LEAST, MOST))))
    return proposal(
        Saturation(amount=amount), reading, measured,
        "Colours beyond the outline lose their detail on many screens.", value=amount, unit="%",
        action=f"Lower saturation by {-amount:.0f} %", state=State.OFFERED,
    )  # fmt: skip


SATURATION = Rule(
    step=Saturation,
    instrument=Instrument(
        scope="vector", window=(0.0, 0.5), hint="Drag the ring in or out; the outline is the limit.",
        drags="amount", per_percent=8.0,
    ),
    judge=_judge,
    read=_read,
)  # fmt: skip
