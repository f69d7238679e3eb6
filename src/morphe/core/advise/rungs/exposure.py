"""Exposure: the bright end of a metered picture lies near white; what clipped stays clipped."""

from __future__ import annotations

import numpy as np

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.advise.wording import stops
from morphe.core.grade.convert import FAMILY_OF
from morphe.core.grade.steps import Exposure
from morphe.core.measure.zone import Reading, Zone
from morphe.core.signal.profiles import HDR, Kind
from morphe.core.signal.transfer import encode_bt709

__all__ = ["EXPOSURE"]

# Set on made-up footage: a bright end within half a stop of white needs no gain; night and snow are spared
# so.
LOW_BRIGHT_END = 0.72  # linear; 85 % in code
ZONE = Zone(low=round(float(np.log2(LOW_BRIGHT_END)), 2), high=0.0, unit="stops")
BRIGHT_TARGET = 0.90  # linear: room for what glints
MOVE = 0.4  # stops; smaller errors of exposure are left to taste
LOWERED = 0.85  # share of a lowering that is taken: too dark is worse than a little too bright
MOVE_CONVERTED = 0.3  # footage that is converted anyway has nothing to lose
RAISE, LOWER, RAISE_CONVERTED, LOWER_CONVERTED = 4.0, -1.5, 2.0, -1.0  # stops: no further by itself


def _read(seen: Seen) -> Reading:
    peak = seen.bright_end
    low, high = (100 * float(encode_bt709(np.array(2.0**stop))) for stop in (ZONE.low, ZONE.high))
    return Reading(
        value=float(np.log2(peak)), zone=ZONE, marks=(100 * float(encode_bt709(np.array(peak))),),
        marked_zone=(low, high),
    )  # fmt: skip


def _judge(case: Case) -> Rung:
    reading = _read(case.seen)
    value = reading.value or 0.0
    side = "above" if value > 0 else "below"
    measured = f"The bright end lies {stops(value)} {side} white."
    if case.verdict.kind in HDR:
        reason = "HDR arrives anchored at reference white; exposure stays as filmed."
        return content(Exposure(), reading, measured, reason, unit="stops")
    if case.is_wet:
        reason = "What took the water back has set the light too."
        return content(Exposure(), reading, measured, reason, unit="stops")
    change = _stops(case)
    if abs(change) < (MOVE if case.verdict.kind is Kind.STANDARD else MOVE_CONVERTED):
        return content(Exposure(), reading, measured, _why_content(value), unit="stops")
    change = round(change, 2)
    reason = (
        "Brings the bright end to a tenth of a stop and a half below white."
        if change > 0
        else "The picture lies brighter than a metered one; what clipped stays clipped."
    )
    return proposal(
        Exposure(stops=change), reading, measured, reason, value=change, unit="stops",
        action=f"{'Raise' if change > 0 else 'Lower'} exposure by {stops(change)}",
    )  # fmt: skip


def _why_content(value: float) -> str:
    if value > ZONE.high:
        return "Light above white is rolled in further down; the middle is where a metered picture has it."
    if value < ZONE.low:
        return "It lies low, but not so far that more light would surely be meant."
    return "The light is where a metered picture has it."


def _stops(case: Case) -> float:
    """The exposure that goes with the profile, for converted footage blended with the bright end's anchor."""
    verdict = case.verdict
    prior = verdict.stops or 0.0
    anchor = float(np.log2(BRIGHT_TARGET / case.seen.bright_end))
    if verdict.convert.profile in FAMILY_OF:
        return 0.0  # its curve was judged together with the exposure
    if verdict.kind is not Kind.STANDARD:
        return 0.5 * (prior + float(np.clip(anchor, LOWER_CONVERTED, RAISE_CONVERTED)))
    return float(np.clip(prior if prior > 0 else LOWERED * prior, LOWER, RAISE))


EXPOSURE = Rule(
    step=Exposure,
    instrument=Instrument(
        scope="luma", window=(40, 109), hint="Drag the bright end into its zone.", drags="stops", level=0.75,
        probe=0.1,
    ),
    judge=_judge,
    read=_read,
)  # fmt: skip
