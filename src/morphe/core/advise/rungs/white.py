"""White point: the brightest part nearly reaches white."""

from __future__ import annotations

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.advise.wording import number, want
from morphe.core.grade.steps import WhitePoint
from morphe.core.measure.zone import Reading

__all__ = ["WHITE"]

BRIGHTEST_PCT = 99.5
INTO = 0.4  # of the zone: so far into it the bright end is raised


def _read(seen: Seen) -> Reading:
    return seen.level(BRIGHTEST_PCT, seen.aims.white_zone)


def _judge(case: Case) -> Rung:
    reading = _read(case.seen)
    zone = reading.zone
    bright = reading.value or 0.0
    measured = f"The brightest half per cent sits at {number(bright)} %: {want(zone)}."
    if bright < zone.low:
        raise_by = WhitePoint.within(
            "raise_by", round(100 * (1 - bright / (zone.low + INTO * (zone.high - zone.low))), 1)
        )
        return proposal(
            WhitePoint(raise_by=raise_by), reading, measured,
            "With no light source in the frame the bright end may stay lower.", value=raise_by, unit="%",
            action=f"Raise white point by {raise_by:.1f} %", state=State.OFFERED,
        )  # fmt: skip
    return content(WhitePoint(), reading, measured, "The bright end reaches its zone.", unit="%")


WHITE = Rule(
    step=WhitePoint,
    instrument=Instrument(
        scope="luma", window=(70, 109), hint="Drag the brightest tones into the zone.", drags="raise_by",
        level=0.85, probe=2.0,
    ),
    judge=_judge,
    read=_read,
)  # fmt: skip
