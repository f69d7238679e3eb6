"""Saturation: colours stay inside the safe outline."""

from __future__ import annotations

from typing import Any

import numpy as np

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.grade.steps import Saturation
from morphe.core.measure.readings import SAFE_HIGH, SAFE_LOW
from morphe.core.measure.zone import Reading, Zone
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = ["SATURATION"]

ZONE = Zone(low=0.0, high=1.0, unit="%")  # of the picture beyond the outline (EBU R 103)
LEAST, MOST = 4.0, 25.0  # percent of saturation taken back
VIVID, FAINT = 0.62, 0.10  # radius of nineteen in twenty as a share of the outline: half-way is well
LIFT = 25.0  # percent, for muted colours
DARK_PCT, BRIGHT_PCT = 2.0, 98.0  # of the pixels: the ends
TINGED = 3.0  # percent of the chroma swing in black, or in white, that is too much there
ENDS = (0.10, 0.90)  # of luma: where an end must lie to be black or white at all
CLEANED = 80.0  # percent of the colour in an end that is taken out


def _read(seen: Seen) -> Reading:
    pixels = seen.pixels
    outside = float(((pixels < SAFE_LOW) | (pixels > SAFE_HIGH)).any(axis=1).mean() * 100)
    return Reading(value=outside, zone=ZONE, marks=(_radius(seen),))


def _radius(seen: Seen) -> float:
    """Chroma that nineteen of twenty pixels stay below."""
    chroma = rgb_to_ycbcr(seen.pixels)[:, 1:]
    return float(np.percentile(np.hypot(chroma[:, 0], chroma[:, 1]), 95))


def _tinged(seen: Seen) -> dict[str, float]:
    """Chroma in percent of the black end and the white end, where there is one and it has a colour."""
    dark, bright = np.percentile(seen.luma, [DARK_PCT, BRIGHT_PCT])
    found = {}
    for name, is_there, mask in (
        ("dark", dark < ENDS[0], seen.luma <= dark), ("bright", bright > ENDS[1], seen.luma >= bright),
    ):  # fmt: skip
        chroma = np.median(rgb_to_ycbcr(seen.pixels[mask])[:, 1:], axis=0)
        tinge = 100 * float(np.hypot(*chroma))
        if is_there and tinge > TINGED:
            found[name] = tinge
    return found


def _judge(case: Case) -> Rung:
    reading, radius, tinged = _read(case.seen), _radius(case.seen), _tinged(case.seen)
    outside = reading.value or 0.0
    measured = f"{outside:.1f} % of the picture lies beyond the safe outline."
    numbers: dict[str, Any] = {name: CLEANED for name in tinged}
    said = [f"{ENDS_SAID[name]} carries {tinge:.1f} % of colour" for name, tinge in tinged.items()]
    if outside > ZONE.high:
        numbers["amount"] = -float(round(float(np.clip(3 + 2 * outside, LEAST, MOST))))
    elif radius > VIVID / 2:
        numbers["amount"] = -float(round(float(np.clip(100 * (1 - VIVID / (2 * radius)), LEAST, MOST))))
        said.append("colours reach far out: half-way to the outline looks natural")
    elif radius < FAINT / 2 and not case.is_wet:
        numbers["muted"] = LIFT
        said.append("colours are faint")
    if said:
        measured += f" {said[0][0].upper()}{'; '.join(said)[1:]}."
    if not numbers:
        return content(Saturation(), reading, measured, "Colours stay inside the outline.", unit="%")
    step = Saturation(**numbers)
    return proposal(
        step, reading, measured, _reason(numbers), value=float(numbers.get("amount", 0.0)), unit="%",
        action=_action(numbers), state=State.OFFERED,
    )  # fmt: skip


ENDS_SAID = {"dark": "black", "bright": "white"}


def _reason(numbers: dict[str, Any]) -> str:
    if "amount" in numbers:
        return "Colours beyond the outline lose their detail on many screens."
    if "muted" in numbers:
        return "Weak colours are lifted, strong ones and skin are spared; a grey day may stay grey."
    return "Black and white look clean without colour of their own; a sunset's white may keep it."


def _action(numbers: dict[str, Any]) -> str:
    parts = []
    if "amount" in numbers:
        parts.append(f"lower saturation by {-numbers['amount']:.0f} %")
    if "muted" in numbers:
        parts.append(f"lift muted colours by {numbers['muted']:.0f} %")
    if ends := [word for name, word in ENDS_SAID.items() if name in numbers]:
        parts.append(f"take colour out of {' and '.join(ends)}")
    said = ", ".join(parts)
    return f"{said[0].upper()}{said[1:]}"


SATURATION = Rule(
    step=Saturation,
    instrument=Instrument(
        scope="vector", window=(0.0, 0.5), hint="Drag the ring in or out; the outline is the limit.",
        drags="amount", per_percent=8.0,
    ),
    judge=_judge,
    read=_read,
)  # fmt: skip
