"""Casts by tone: shadows and lights are as neutral as the middle."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.advise.wording import number, want
from morphe.core.grade.steps import Casts
from morphe.core.grade.steps.casts import CAST_AXES
from morphe.core.measure.readings import NEUTRAL_CHROMA, luma_of, oklab_of
from morphe.core.measure.zone import Reading, Zone
from morphe.core.signal.arrays import Float, Mask
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = ["CASTS"]

ZONE = Zone(low=0.0, high=1.5, unit="%")  # of the full chroma swing, from the middle's own colour
TONES = {"dark": (0.05, 0.30), "middle": (0.30, 0.65), "bright": (0.65, 0.95)}
NAMES = {"dark": "Shadows", "bright": "Lights"}
ENOUGH = 0.01  # of the pixels that must be near neutral in a tone
SHARE = 0.8  # of a cast that is taken out: the rest may belong to the place


def _casts(seen: Seen) -> dict[str, Float]:
    """(Cb, Cr) in percent of the shadows and the lights beside the middle, where both can be measured."""
    luma, lab = luma_of(seen.pixels), oklab_of(seen.pixels)
    neutral = np.hypot(lab[:, 1], lab[:, 2]) < NEUTRAL_CHROMA
    found = {name: _median(seen, neutral & (luma >= low) & (luma < high)) for name, (low, high) in
             TONES.items()}  # fmt: skip
    middle = found.pop("middle")
    if middle is None:
        return {}
    return {name: cast - middle for name, cast in found.items() if cast is not None}


def _median(seen: Seen, mask: Mask) -> Float | None:
    if mask.mean() < ENOUGH:
        return None
    return np.asarray(100 * np.median(rgb_to_ycbcr(seen.pixels[mask])[:, 1:], axis=0))


def _read(seen: Seen) -> Reading:
    casts = _casts(seen)
    if not casts:
        return Reading(value=None, zone=ZONE)
    worst = max(casts.values(), key=lambda c: float(np.hypot(*c)))
    return Reading(
        value=float(np.hypot(*worst)), zone=ZONE, marks=(float(worst[0]) / 100, float(worst[1]) / 100),
        marked_zone=(0.0, ZONE.high / 100),
    )  # fmt: skip


def _judge(case: Case) -> Rung:
    reading, casts = _read(case.seen), _casts(case.seen)
    if reading.value is None:
        return content(Casts(), reading, "Too little here is near neutral.", "There is nothing to go by.",
                       unit="%")  # fmt: skip
    far = {name: cast for name, cast in casts.items() if np.hypot(*cast) > ZONE.high}
    said = " and ".join(f"{NAMES[n]} lie {number(float(np.hypot(*c)), 1)} %" for n, c in far.items())
    if not far:
        return content(
            Casts(), reading, f"Shadows and lights are within {number(reading.value, 1)} % of the middle.",
            "No tone has a colour of its own.", unit="%",
        )  # fmt: skip
    step = Casts()
    for name, cast in far.items():
        warmth, green = -SHARE * np.linalg.solve(CAST_AXES.T, cast)
        found = {"warmth": float(warmth), "green": float(green)}
        numbers: dict[str, Any] = {f"{name}_{n}": Casts.within(f"{name}_{n}", round(v, 1)) for n, v in
                                   found.items()}  # fmt: skip
        step = replace(step, **numbers)
    where = " and ".join(NAMES[n].lower() for n in far)
    return proposal(
        step, reading, f"{said} from the middle's colour: {want(ZONE)}.",
        "Open sky lights the shadows, a low sun the lights: take it out only where it disturbs.",
        value=reading.value, unit="%", action=f"Neutralise the {where}", state=State.OFFERED,
    )  # fmt: skip


CASTS = Rule(
    step=Casts,
    instrument=Instrument(
        scope="vector", window=(0.0, 0.14), hint="Where the tone lies that is furthest from the middle."
    ),
    judge=_judge,
    read=_read,
)
