"""Mid level: near or just under the middle; it also tells the hour, so it is only offered."""

from __future__ import annotations

import numpy as np

from morphe.core.advise.aims import Hour
from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.advise.wording import number
from morphe.core.grade.steps import MidLevel
from morphe.core.measure.zone import Reading, Zone

__all__ = ["MID"]

HALF_WAY, ALL_THE_WAY, MOST = (
    0.5,
    1.1,
    12.0,
)  # of the way to the zone, and percent: further would turn the hour


def _read(seen: Seen) -> Reading:
    return seen.level(50, seen.aims.hour.mid)


def _judge(case: Case) -> Rung:
    reading, hour = _read(case.seen), case.seen.aims.hour
    zone, middle = reading.zone, reading.value or 0.0
    measured = f"Half of the picture lies below {number(middle)} %: {_wanted(hour, zone)}."
    if reading.is_inside:
        return content(MidLevel(), reading, measured, "The middle is at ease.", unit="%")
    share = HALF_WAY if hour is Hour.FILMED else ALL_THE_WAY  # the hour was said: it is meant
    lift = round(float(np.clip(-share * zone.outside(middle), -MOST, MOST)), 1)
    reason = (
        "The middle also tells the hour: a dusk or a snow field may want to stay where it is."
        if hour is Hour.FILMED
        else f"You chose it {hour.label.lower()}."
    )
    return proposal(
        MidLevel(lift=lift), reading, measured, reason, value=lift, unit="%",
        action=f"{'Lift' if lift > 0 else 'Lower'} mid level by {abs(lift):.1f} %",
        state=State.OFFERED if hour is Hour.FILMED else State.PROPOSED,
    )  # fmt: skip


def _wanted(hour: Hour, zone: Zone) -> str:
    return f"{'usual is' if hour is Hour.FILMED else 'want'} {zone.low:.0f}–{zone.high:.0f}"


MID = Rule(
    step=MidLevel,
    instrument=Instrument(
        scope="luma", window=(15, 75), hint="Drag the middle up for day, down for dusk.", drags="lift",
        level=0.45, probe=2.0,
    ),
    judge=_judge,
    read=_read,
)  # fmt: skip
