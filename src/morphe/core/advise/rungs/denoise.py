"""Noise: taken out before anything else, since every later step would make it stronger."""

from __future__ import annotations

import numpy as np

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.wording import number, want
from morphe.core.grade.denoise import MOST_NOISE, Denoise
from morphe.core.grade.source import SOURCE
from morphe.core.measure.zone import Reading, Zone

__all__ = ["DENOISE"]

ZONE = Zone(low=0.0, high=1.5, unit="codes")  # of 8 bits: more shows once shadows are lifted
GENTLE = (45.0, 75.0, 45.0)  # percent of light, of colour, over time
MUCH, STRONGER = 4.0, (65.0, 90.0, 60.0)  # codes from which more is taken out


def _judge(case: Case) -> Rung:
    noise = case.noise
    reading = Reading(value=None if noise is None else noise.codes, zone=ZONE)
    if noise is None:
        return content(Denoise(), reading, "Noise was not measured.", "Read the clip again.", unit="codes")
    measured = f"Noise moves luma by {number(noise.codes, 1)} codes: {want(ZONE)}."
    found = round(float(np.clip(noise.codes, 0, MOST_NOISE)), 1)
    if reading.is_inside:
        return content(
            Denoise(noise=found, height=noise.height), reading, measured,
            "There is little; what there is hides banding.", unit="codes",
        )  # fmt: skip
    luma, colour, over_time = STRONGER if noise.codes > MUCH else GENTLE
    step = Denoise(luma=luma, colour=colour, over_time=over_time, noise=found, height=noise.height)
    return proposal(
        step, reading, measured,
        "It comes first: exposure, contrast and saturation would all raise it. It makes rendering slower.",
        value=luma, unit="%", action=f"Take out {luma:.0f} % of it, {colour:.0f} % in colour",
        state=State.OFFERED,
    )  # fmt: skip


DENOISE = Rule(
    step=Denoise,
    instrument=Instrument(
        scope="luma", window=(-7, 109), hint="At full size: as it was at the left, cleaned at the right."
    ),
    judge=_judge,
    layer=SOURCE,
)  # fmt: skip
