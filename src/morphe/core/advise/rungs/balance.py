"""White balance: what must be grey lies at the centre, as far as the picture tells what must be."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from morphe.core.advise.light.estimate import LightEstimate, estimate_light
from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.advise.wording import cast_words, number, percent, tint_words, want
from morphe.core.grade.steps import Balance
from morphe.core.measure.zone import Reading, Zone
from morphe.core.signal.profiles import HDR

__all__ = ["BALANCE"]

ZONE = Zone(low=0, high=1.5, unit="%")  # of the full chroma swing: a slight cast (the near-neutral rule)
# Stops of (R/G, B/G) from which a light is taken out: smaller ones are left to taste, as daylight varies.
LEAST = 0.12
UNKNOWN = 0.25  # stops: so wide a distribution tells nothing
WARM = 22.0  # mired, as the rung shows its zone: four just noticeable steps
LAMPS = 50.0  # mired warmer than the camera was balanced for: the light of lamps
LEAST_OF_LAMPS = 0.05  # share: less of it is not worth a step
SURE, LIKELY = 0.25, 0.1  # share of the distance that goes, from which it is proposed, and offered


def _read(seen: Seen) -> Reading:
    cast = seen.cast
    marks = () if cast.cb is None or cast.cr is None else (cast.cb / 100, cast.cr / 100)
    return Reading(value=cast.magnitude, zone=ZONE, marks=marks, marked_zone=(0.0, ZONE.high / 100))


def _judge(case: Case) -> Rung:
    if case.is_wet:
        return _left(
            _read(case.seen), _measured(_read(case.seen)),
            "What took the water back has set the balance of the near subject too.", False,
        )  # fmt: skip
    light = estimate_light(case.seen.light)
    gauge = _read(case.seen)
    measured = _measured(gauge)
    reading = replace(gauge, value=light.warmth, zone=Zone(low=-WARM, high=WARM, unit="mired"))
    is_far = not gauge.is_inside
    if case.verdict.kind in HDR:
        return _left(
            reading, measured, "HDR footage is left as it was balanced; tap something white.", is_far
        )
    if light.distance >= LEAST and light.sure >= LIKELY:
        if light.warmth >= LAMPS and case.lamps < LEAST_OF_LAMPS:
            reason = "This seems the light of lamps, which you chose to leave warm."
            return content(Balance(), reading, measured, reason, unit="mired")
        state = State.PROPOSED if light.sure >= SURE else State.OFFERED
        return _balanced(light, reading, measured, state, case.lamps)
    if light.before > UNKNOWN:
        reason = "What here must be grey cannot be told; tap something white or grey if you see it."
        return _left(reading, measured, reason, is_far)
    reason = (
        "The light is near neutral, but what is nearly grey here is not."
        if is_far
        else "What should be grey is grey, or as near as daylight varies."
    )
    return _left(reading, measured, reason, is_far)


def _measured(gauge: Reading) -> str:
    if gauge.value is None:
        return "Hardly anything here is near neutral."
    return f"Near-neutral tones lie {number(gauge.value, 1)} % from the centre: {want(ZONE)}."


def _left(reading: Reading, measured: str, reason: str, is_far: bool) -> Rung:
    if not is_far:
        return content(Balance(), reading, measured, reason, unit="mired")
    reason = f"{reason} If this light was meant, leave it."
    return content(Balance(), reading, measured, reason, unit="mired", state=State.OPEN)


def _balanced(light: LightEstimate, reading: Reading, measured: str, state: State, lamps: float) -> Rung:
    share = lamps if light.warmth >= LAMPS else 1.0
    step = Balance(
        warmth=Balance.within("warmth", round(share * light.warmth, 1)),
        tint=Balance.within("tint", round(1000 * light.tint, 1)),
    )
    warmth, tint = step.number("warmth"), step.number("tint")
    parts = [f"{'cool' if warmth > 0 else 'warm'} by {abs(warmth):.0f} mired"] if abs(warmth) >= 1 else []
    if words := tint_words(tint):
        parts.append(f"take out {words}")
    action = ", ".join(parts) or "leave as it is"
    cast = cast_words(light.warmth, 1000 * light.tint)
    reason = (
        f"The light seems {cast}, by the colours of the lights, of the greys and of the edges together."
        if state is State.PROPOSED
        else f"The light may be {cast}, but a subject of that colour would look the same."
    )
    if share < 1:
        reason += f" {percent(100 * (1 - share))} of the warmth of lamps is kept, as you chose."
    return proposal(
        step, reading, measured, reason, value=float(np.round(warmth, 1)), unit="mired",
        action=action[0].upper() + action[1:], state=state,
    )  # fmt: skip


BALANCE = Rule(
    step=Balance,
    instrument=Instrument(
        scope="vector", window=(0.0, 0.14), hint="Drag the neutrals to the centre.", drags="warmth"
    ),
    judge=_judge,
    read=_read,
)
