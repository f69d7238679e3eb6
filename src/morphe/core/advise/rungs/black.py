"""Black point: the darkest part lies just above black."""

from __future__ import annotations

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.advise.wording import number, want
from morphe.core.grade.steps import BlackPoint
from morphe.core.measure.zone import Reading

__all__ = ["BLACK"]

DARKEST_PCT = 0.5  # of the pixels: fewer are specks
CUT = -1.5  # percent: only what lies this far below black holds detail that would be cut


def _read(seen: Seen) -> Reading:
    return seen.level(DARKEST_PCT, seen.aims.black_zone)


def _judge(case: Case) -> Rung:
    reading = _read(case.seen)
    zone = reading.zone
    target = (zone.low + zone.high) / 2
    dark = reading.value or 0.0
    measured = f"The darkest half per cent sits at {number(dark, 1)} %: {want(zone)}."
    if dark > zone.high:
        lower = BlackPoint.within("lower", round((dark - target) / (1 - target / 100), 1))
        return proposal(
            BlackPoint(lower=lower), reading, measured,
            "Haze and soft light have no black of their own: lower it if the picture should bite.",
            value=lower, unit="%", action=f"Lower black point by {lower:.1f} %", state=State.OFFERED,
        )  # fmt: skip
    if dark < CUT:
        lift = BlackPoint.within("lower", round(dark, 1))
        return proposal(
            BlackPoint(lower=lift), reading, measured, "Shadow detail lies below black and would be cut.",
            value=lift, unit="%", action=f"Lift black point by {-lift:.1f} %",
        )  # fmt: skip
    return content(BlackPoint(), reading, measured, "Black is black.", unit="%")


BLACK = Rule(
    step=BlackPoint,
    instrument=Instrument(
        scope="luma", window=(-7, 15), hint="Drag the darkest tones into the zone.", drags="lower",
        level=0.05, probe=2.0,
    ),
    judge=_judge,
    read=_read,
)  # fmt: skip
