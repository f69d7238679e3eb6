"""The bright end: light above white is rolled in; lights that clipped stay bright after a lowering."""

from __future__ import annotations

import numpy as np

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.advise.wording import stops
from morphe.core.grade.steps import Exposure, HoldLights
from morphe.core.measure.zone import Reading, Zone
from morphe.core.signal.profiles import Kind
from morphe.core.signal.transfer import encode_bt709

__all__ = ["LIGHTS"]

ZONE = Zone(low=-6.0, high=0.08, unit="stops")  # a twelfth of a stop above white is no light
MATTERS_PCT = 0.2  # of the picture: less is a glint
HELD = 0.8  # share of the lowering by which clipped lights are brought back (set on made-up footage)


def _read(seen: Seen) -> Reading:
    peak = max(seen.bright_end, 1e-3)
    return Reading(
        value=float(np.log2(peak)), zone=ZONE, marks=(100 * float(encode_bt709(np.array(peak))),),
        marked_zone=(90.0, 100.0),
    )  # fmt: skip


def _judge(case: Case) -> Rung:
    reading = _read(case.seen)
    over = reading.value or 0.0
    above = float((case.seen.peaks > 1.0).mean() * 100)
    measured = (
        f"{above:.1f} % of the picture lies above white, up to {stops(over)}."
        if above > 0.05 and over > 0
        else "Nothing that matters lies above white."
    )
    exposure = case.grade.step(Exposure.key)
    lowered = -exposure.number("stops") if isinstance(exposure, Exposure) else 0.0
    if case.verdict.kind is Kind.STANDARD and lowered > 0 and over < 0:
        held = -round(min(lowered * HELD, 2.0), 2)
        return proposal(
            HoldLights(stops=held), reading, measured,
            "Lights that clipped in the camera stay bright instead of turning grey.", value=held,
            unit="stops", action="Keep clipped lights bright",
        )  # fmt: skip
    if over < ZONE.high or above < MATTERS_PCT:
        return content(HoldLights(), reading, measured, "Nothing needs rolling in.", unit="stops")
    rolled = round(HoldLights.within("stops", over), 2)
    return proposal(
        HoldLights(stops=rolled), reading, measured,
        "Clouds and lights above white are kept by a soft roll-off instead of being cut.", value=rolled,
        unit="stops", action=f"Roll in {stops(rolled)} of lights",
    )  # fmt: skip


LIGHTS = Rule(
    step=HoldLights,
    instrument=Instrument(
        scope="luma", window=(70, 109), hint="Drag down to hold more light below white.", drags="stops",
        level=0.97, probe=0.5,
    ),
    judge=_judge,
    read=_read,
)  # fmt: skip
