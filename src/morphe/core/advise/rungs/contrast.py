"""Contrast: tones use a fair part of the range; soft light may stay soft."""

from __future__ import annotations

import numpy as np

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.advise.wording import number
from morphe.core.grade.steps import Contrast
from morphe.core.measure.zone import Reading, Zone

__all__ = ["CONTRAST"]

ZONE = Zone(low=40.0, high=90.0, unit="%")  # from the darkest to the brightest twentieth
PER_PERCENT, LEAST, MOST = 0.6, 4.0, 25.0  # percent of contrast: small moves


def _read(seen: Seen) -> Reading:
    low, high = seen.percentiles(5, 95)
    return Reading(
        value=high - low, zone=ZONE, marks=(low, high), marked_zone=(low + ZONE.low, low + ZONE.high)
    )


def _judge(case: Case) -> Rung:
    reading = _read(case.seen)
    spread = reading.value or 0.0
    measured = f"Tones spread over {number(spread)} % of the range: usual is 40–90."
    if spread >= ZONE.low:
        return content(Contrast(), reading, measured, "The range is used.", unit="%")
    amount = float(round(float(np.clip(PER_PERCENT * (ZONE.low - spread), LEAST, MOST))))
    return proposal(
        Contrast(amount=amount), reading, measured,
        "Soft light is soft: add contrast only if the day felt crisper. It also adds saturation.",
        value=amount, unit="%", action=f"Add {amount:.0f} % contrast", state=State.OFFERED,
    )  # fmt: skip


CONTRAST = Rule(
    step=Contrast,
    instrument=Instrument(
        scope="histogram", window=(-7, 109), hint="Drag the bright mark outwards.", drags="amount", mark=1,
        per_percent=2.0,
    ),
    judge=_judge,
    read=_read,
)  # fmt: skip
