"""Light over time: a wander of automatic exposure or white balance is evened out before light is judged."""

from __future__ import annotations

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, content, proposal
from morphe.core.advise.wording import stops
from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.source import SOURCE
from morphe.core.measure.drift import BALANCE_STOPS, EXPOSURE_STOPS, STOPS_PER_MIRED
from morphe.core.measure.zone import Reading, Zone

__all__ = ["EVEN"]

ZONE = Zone(low=0, high=EXPOSURE_STOPS, unit="stops")
MIRED_ZONE = Zone(low=0, high=round(BALANCE_STOPS / STOPS_PER_MIRED), unit="mired")


def _judge(case: Case) -> Rung:
    drift = case.drift
    if drift is None:
        nothing = Reading(value=None, zone=ZONE)
        return content(EvenOut(), nothing, "The light has not been followed yet.",
                       "It is judged once the whole clip has been looked through.", unit="stops")  # fmt: skip
    by_exposure = drift.range_stops > EXPOSURE_STOPS or not drift.wanders
    reading = Reading(
        value=drift.range_stops if by_exposure else drift.range_mired,
        zone=ZONE if by_exposure else MIRED_ZONE,
    )
    measured = (
        f"Over the clip the light wanders by {stops(drift.range_stops)} and {drift.range_mired:.0f} mired."
    )
    if case.follows_depth:
        reason = "The depth changes: what takes the water back moves with it."
        return content(EvenOut(), reading, measured, reason, unit=reading.zone.unit)
    if not drift.wanders:
        return content(EvenOut(), reading, measured, "It holds steady.", unit=reading.zone.unit)
    how_far = (
        stops(drift.range_stops) if drift.range_stops > EXPOSURE_STOPS else f"{drift.range_mired:.0f} mired"
    )
    step = EvenOut(amount=100.0, ceiling=min(max(case.ceiling, 0.2), 100.0), track=drift.track)
    return proposal(
        step, reading, measured,
        "Exposure and balance can only be right for the whole clip once it holds still.",
        value=round(reading.value or 0.0, 2), unit=reading.zone.unit, action=f"Even out {how_far}",
    )  # fmt: skip


EVEN = Rule(
    step=EvenOut,
    instrument=Instrument(
        scope="time", window=(0, 1), hint="The light over the clip, and what is left of it."
    ),
    judge=_judge,
    layer=SOURCE,
)
