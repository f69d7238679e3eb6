"""Mid level: near or just under the middle; it also tells the hour, so it is only offered."""

from __future__ import annotations

import numpy as np

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.advise.wording import number
from morphe.core.grade.steps import MidLevel
from morphe.core.measure.zone import Reading, Zone

__all__ = ["MID"]

ZONE = Zone(low=30.0, high=50.0, unit="%")  # a correctly exposed scene has it at 41 to 45
HALF_WAY, MOST = 0.5, 12.0  # of the way to the zone, and percent: further would turn the hour


def _read(seen: Seen) -> Reading:
    return seen.level(50, ZONE)


def _judge(case: Case) -> Rung:
    reading = _read(case.seen)
    measured = f"Half of the picture lies below {number(reading.value or 0.0)} %: usual is 30–50."
    if reading.is_inside:
        return content(MidLevel(), reading, measured, "The middle is at ease.", unit="%")
    away = ZONE.outside(reading.value or 0.0)
    lift = round(float(np.clip(-HALF_WAY * away, -MOST, MOST)), 1)
    return proposal(
        MidLevel(lift=lift), reading, measured,
        "The middle also tells the hour: a dusk or a snow field may want to stay where it is.", value=lift,
        unit="%", action=f"{'Lift' if lift > 0 else 'Lower'} mid level by {abs(lift):.1f} %",
        state=State.OFFERED,
    )  # fmt: skip


MID = Rule(
    step=MidLevel,
    instrument=Instrument(
        scope="luma", window=(15, 75), hint="Drag the middle up for day, down for dusk.", drags="lift",
        level=0.45, probe=2.0,
    ),
    judge=_judge,
    read=_read,
)  # fmt: skip
