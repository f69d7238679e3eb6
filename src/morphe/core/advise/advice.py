"""From readings to proposals: what each step measures, wants and proposes, in the order of the work.

Each rung sees the picture through the rungs before it. A rung may propose, offer (a matter of taste,
left out of "accept all") or be content; it always says why.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np

from morphe.core.advise.evidence import Evidence, bright_end
from morphe.core.advise.filmed_as import FilmedAs, Hints
from morphe.core.advise.light_estimate import estimate_light
from morphe.core.advise.profile_guess import ProfileVerdict, guess_profile
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import (
    Balance,
    BlackPoint,
    Contrast,
    Exposure,
    HoldLights,
    MidLevel,
    Saturation,
    Step,
    WhitePoint,
)
from morphe.core.measure.readings import Readings, luma_of, measure
from morphe.core.signal.arrays import Encoded, Linear
from morphe.core.signal.profiles import PROFILES, Kind

__all__ = ["Advice", "Rung", "State", "advise"]


class State(StrEnum):
    """What a rung has to say."""

    GOOD = "good"  # inside its zone: nothing to do
    PROPOSED = "proposed"  # outside its zone, and this is what would mend it
    OFFERED = "offered"  # could be taken, a matter of taste
    LOST = "lost"  # outside its zone, and no correction brings it back


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """One step's reading, wanted zone, verdict and proposal."""

    step: Step
    state: State
    reading: float | str | None
    wanted: tuple[float, float] | str | None
    value: float | str | None
    unit: str
    measured: str  # the sentence about the picture
    reason: str  # why this is proposed, or why nothing is
    action: str = ""  # the proposal as a button says it

    @property
    def key(self) -> str:
        return self.step.key

    @property
    def applied(self) -> bool:
        """Whether "accept all" takes it."""
        return self.state is State.PROPOSED

    def as_json(self) -> dict[str, object]:
        return {
            "step": self.key,
            "reading": round(self.reading, 3) if isinstance(self.reading, float) else self.reading,
            "wanted": list(self.wanted) if isinstance(self.wanted, tuple) else self.wanted,
            "value": round(self.value, 3) if isinstance(self.value, float) else self.value,
            "unit": self.unit,
            "reason": self.reason,
            "applied": self.applied,
        }


@dataclass(frozen=True, slots=True, kw_only=True)
class Advice:
    """All rungs of a clip with the profile they rest on."""

    profile: ProfileVerdict
    rungs: tuple[Rung, ...]
    lost: tuple[str, ...] = field(default=())

    @property
    def grade(self) -> Grade:
        """The grade that "accept all" gives."""
        return Grade.of(*(r.step for r in self.rungs if r.applied))

    def rung(self, key: str) -> Rung:
        return next(r for r in self.rungs if r.key == key)


def advise(
    evidence: Evidence,
    *,
    profile: str | FilmedAs = "auto",
    hints: Hints | None = None,
    wide: bool = False,
) -> Advice:
    """Go through the steps in order and say what each one wants.

    Parameters
    ----------
    evidence : the clip's judging frames
    profile : the person's word on the profile, or "auto"
    hints : what makes some profiles likelier than others
    wide : whether converted light stays in wide primaries until delivery
    """
    verdict = guess_profile(evidence, chosen=profile, hints=hints)
    if wide and not verdict.convert.is_neutral:
        verdict = replace(verdict, convert=replace(verdict.convert, wide=True))
    rungs: list[Rung] = [_convert(verdict)]
    grade = Grade.of(*(r.step for r in rungs if r.applied))
    for rule in (_exposure, _balance, _lights, _black, _white, _mid, _contrast, _saturation):
        rung = rule(evidence, grade, verdict)
        rungs.append(rung)
        if rung.applied:
            grade = grade.with_step(rung.step)
    return Advice(profile=verdict, rungs=tuple(rungs), lost=_lost(evidence, verdict))


def _pixels(evidence: Evidence, grade: Grade) -> Encoded:
    return np.concatenate([f.reshape(-1, 3) for f in evidence.through(grade)])


def _readings(evidence: Evidence, grade: Grade) -> Readings:
    return measure(evidence.through(grade))


# --- profile ---------------------------------------------------------------------------------------


def _convert(verdict: ProfileVerdict) -> Rung:
    measured = f"{verdict.evidence[0][0].upper()}{verdict.evidence[0][1:]}."
    common = {"reading": str(verdict.kind), "wanted": "standard", "unit": "profile", "measured": measured}
    if verdict.convert.is_neutral:
        return Rung(
            step=verdict.convert,
            state=State.GOOD,
            value=verdict.name,
            reason="It is ordinary video already.",
            **common,  # type: ignore[arg-type]
        )
    sure = f"{verdict.confidence:.0%} sure" if verdict.confidence < 1 else "as you said"
    return Rung(
        step=verdict.convert,
        state=State.PROPOSED,
        value=verdict.name,
        reason=f"Footage in {verdict.kind.word} is made normal by its own curve before all else ({sure}).",
        action=f"Convert from {verdict.label}",
        **common,  # type: ignore[arg-type]
    )


# --- exposure --------------------------------------------------------------------------------------

LOW_BRIGHT_END = 0.72  # linear; 85 % in code: a bright end above this needs no gain
BRIGHT_TARGET = 0.90
MOVE = 0.55  # stops; smaller errors of exposure are left to taste
MOVE_CONVERTED = 0.3  # footage that is converted anyway has nothing to lose


def _exposure(evidence: Evidence, grade: Grade, verdict: ProfileVerdict) -> Rung:
    light = np.concatenate([f.reshape(-1, 3) for f in evidence.light_through(grade)])
    peak = bright_end(light.max(axis=1))
    encoded_peak = float(PROFILES.get("std-709").encode(np.array(peak))) * 100
    measured = f"The bright end sits at {encoded_peak:.0f} %."
    common = {"reading": encoded_peak, "wanted": (72.0, 100.0), "unit": "stops", "measured": measured}

    def content(reason: str) -> Rung:
        return Rung(step=Exposure(), state=State.GOOD, value=0.0, reason=reason, **common)  # type: ignore[arg-type]

    if verdict.kind in (Kind.HLG, Kind.PQ):
        return content("HDR arrives anchored at reference white; exposure stays as filmed.")
    stops = _stops(light, peak, verdict)
    if abs(stops) < (MOVE if verdict.kind is Kind.STANDARD else MOVE_CONVERTED):
        return content("The light is where a metered picture has it.")
    direction = "Raise" if stops > 0 else "Lower"
    reason = (
        f"Brings the bright end towards {100 * BRIGHT_TARGET:.0f} % of white."
        if stops > 0
        else "The picture lies brighter than a metered one; what clipped stays clipped."
    )
    return Rung(
        step=Exposure(stops=round(stops, 2)),
        state=State.PROPOSED,
        value=round(stops, 2),
        reason=reason,
        action=f"{direction} exposure by {abs(stops):.1f} stops",
        **common,  # type: ignore[arg-type]
    )


def _stops(light: Linear, peak: float, verdict: ProfileVerdict) -> float:
    """Blend the exposure that goes with the profile with the anchor at the bright end."""
    prior = verdict.stops or 0.0
    anchor = float(np.log2(BRIGHT_TARGET / peak))
    if verdict.kind is not Kind.STANDARD:
        return 0.5 * (prior + float(np.clip(anchor, -1.0, 2.0)))
    if peak < LOW_BRIGHT_END:
        return float(np.clip(prior if prior < MOVE else 0.5 * (prior + anchor), 0.0, 3.0))
    return min(prior, 0.0)


# --- white balance ---------------------------------------------------------------------------------

NEUTRAL = (22.0, 5.0)  # mired and tint that are left to taste
NEUTRAL_CONVERTED = (14.0, 3.5)


def _balance(evidence: Evidence, grade: Grade, verdict: ProfileVerdict) -> Rung:
    light = estimate_light(evidence.light_through(grade))
    warmth, tint = light.warmth * light.confidence, 1000 * light.tint * light.confidence
    cast = _readings(evidence, grade).cast
    side = "warm" if light.warmth > 0 else "cool"
    leaning = f"{abs(light.warmth):.0f} mired {side}"
    measured = f"Near-neutral tones lean {leaning}, tint {1000 * light.tint:+.0f}."
    reading = cast.magnitude
    common = {"reading": reading, "wanted": (0.0, 1.5), "unit": "mired", "measured": measured}

    def content(reason: str) -> Rung:
        return Rung(step=Balance(), state=State.GOOD, value=0.0, reason=reason, **common)  # type: ignore[arg-type]

    if verdict.kind in (Kind.HLG, Kind.PQ):
        return content("HDR footage is left as it was balanced; tap something white to change it.")
    if light.confidence < 0.25:
        return content(
            "There is too little here that must be grey; tap something white or grey if you see it."
        )
    mired, green = NEUTRAL if verdict.kind is Kind.STANDARD else NEUTRAL_CONVERTED
    if abs(light.warmth) < mired and abs(1000 * light.tint) < green:
        return content("What should be grey is grey, or as near as daylight varies.")
    step = Balance(
        warmth=Balance.within("warmth", round(warmth, 1)), tint=Balance.within("tint", round(tint, 1))
    )
    parts = [f"{'Cool' if step.warmth > 0 else 'Warm'} by {abs(step.warmth):.0f} mired"]
    if abs(step.tint) >= 1:
        parts.append(f"{'less' if step.tint > 0 else 'more'} green by {abs(step.tint):.0f}")
    return Rung(
        step=step,
        state=State.PROPOSED,
        value=step.warmth,
        reason=f"{light.share:.0%} of the picture would be neutral then, and the estimators agree.",
        action=", ".join(parts),
        **common,  # type: ignore[arg-type]
    )


# --- bright end ------------------------------------------------------------------------------------

HELD = 0.8  # share of the lowering by which clipped lights are brought back


def _lights(evidence: Evidence, grade: Grade, verdict: ProfileVerdict) -> Rung:
    light = np.concatenate([f.reshape(-1, 3) for f in evidence.light_through(grade)])
    peak = bright_end(light.max(axis=1))
    above = float((light.max(axis=1) > 1.0).mean() * 100)
    over = float(np.log2(max(peak, 1e-3)))
    measured = (
        f"{above:.1f} % of the picture lies above white, up to {over:.1f} stops."
        if above > 0.05 and over > 0
        else "Nothing that matters lies above white."
    )
    common = {"reading": max(over, 0.0), "wanted": (0.0, 0.05), "unit": "stops", "measured": measured}
    lowered = -getattr(grade.step("exposure"), "stops", 0.0)
    if verdict.kind is Kind.STANDARD and lowered > 0 and over < 0:
        stops = -round(min(lowered * HELD, 2.0), 2)
        return Rung(
            step=HoldLights(stops=stops),
            state=State.PROPOSED,
            value=stops,
            reason="Lights that clipped in the camera stay bright instead of turning grey.",
            action="Keep clipped lights bright",
            **common,  # type: ignore[arg-type]
        )
    if over < 0.08 or above < 0.2:
        return Rung(
            step=HoldLights(),
            state=State.GOOD,
            value=0.0,
            reason="Nothing needs rolling in.",
            **common,  # type: ignore[arg-type]
        )
    stops = round(min(over, 6.0), 2)
    return Rung(
        step=HoldLights(stops=stops),
        state=State.PROPOSED,
        value=stops,
        reason="Clouds and lights above white are kept by a soft roll-off instead of being cut.",
        action=f"Roll in {stops:.1f} stops of lights",
        **common,  # type: ignore[arg-type]
    )


# --- black, white, mid -----------------------------------------------------------------------------


def _black(evidence: Evidence, grade: Grade, verdict: ProfileVerdict) -> Rung:
    luma = luma_of(_pixels(evidence, grade))
    dark = float(np.percentile(luma, 0.5) * 100)
    measured = f"The darkest half per cent sits at {dark:.1f} %: want 0–5."
    common = {"reading": dark, "wanted": (0.0, 5.0), "unit": "%", "measured": measured}
    if dark > 5.0:
        lower = BlackPoint.within("lower", round((dark - 2.5) / (1 - 0.025), 1))
        return Rung(
            step=BlackPoint(lower=lower),
            state=State.OFFERED,
            value=lower,
            reason="Haze and soft light have no black of their own: lower it if the picture should bite.",
            action=f"Lower black point by {lower:.1f} %",
            **common,  # type: ignore[arg-type]
        )
    if dark < -1.5:
        lift = BlackPoint.within("lower", round(dark, 1))
        return Rung(
            step=BlackPoint(lower=lift),
            state=State.PROPOSED,
            value=lift,
            reason="Shadow detail lies below black and would be cut.",
            action=f"Lift black point by {-lift:.1f} %",
            **common,  # type: ignore[arg-type]
        )
    return Rung(
        step=BlackPoint(),
        state=State.GOOD,
        value=0.0,
        reason="Black is black.",
        **common,  # type: ignore[arg-type]
    )


def _white(evidence: Evidence, grade: Grade, verdict: ProfileVerdict) -> Rung:
    luma = luma_of(_pixels(evidence, grade))
    bright = float(np.percentile(luma, 99.5) * 100)
    measured = f"The brightest half per cent sits at {bright:.0f} %: want 80–100."
    common = {"reading": bright, "wanted": (80.0, 100.0), "unit": "%", "measured": measured}
    if bright < 80.0:
        raise_by = WhitePoint.within("raise_by", round(100 * (1 - bright / 88.0), 1))
        return Rung(
            step=WhitePoint(raise_by=raise_by),
            state=State.OFFERED,
            value=raise_by,
            reason="With no light source in the frame the bright end may stay lower.",
            action=f"Raise white point by {raise_by:.1f} %",
            **common,  # type: ignore[arg-type]
        )
    return Rung(
        step=WhitePoint(),
        state=State.GOOD,
        value=0.0,
        reason="The bright end reaches its zone.",
        **common,  # type: ignore[arg-type]
    )


def _mid(evidence: Evidence, grade: Grade, verdict: ProfileVerdict) -> Rung:
    middle = float(np.median(luma_of(_pixels(evidence, grade))) * 100)
    measured = f"Half of the picture lies below {middle:.0f} %: usual is 30–50."
    common = {"reading": middle, "wanted": (30.0, 50.0), "unit": "%", "measured": measured}
    if 30.0 <= middle <= 50.0:
        return Rung(
            step=MidLevel(),
            state=State.GOOD,
            value=0.0,
            reason="The middle is at ease.",
            **common,  # type: ignore[arg-type]
        )
    lift = round(float(np.clip(0.5 * ((30.0 if middle < 30 else 50.0) - middle), -12, 12)), 1)
    return Rung(
        step=MidLevel(lift=lift),
        state=State.OFFERED,
        value=lift,
        reason="The middle also tells the hour: a dusk or a snow field may want to stay where it is.",
        action=f"{'Lift' if lift > 0 else 'Lower'} mid level by {abs(lift):.1f} %",
        **common,  # type: ignore[arg-type]
    )


# --- contrast and saturation -----------------------------------------------------------------------


def _contrast(evidence: Evidence, grade: Grade, verdict: ProfileVerdict) -> Rung:
    low, high = np.percentile(luma_of(_pixels(evidence, grade)), [5, 95]) * 100
    spread = float(high - low)
    measured = f"Tones spread over {spread:.0f} % of the range: usual is 40–90."
    common = {"reading": spread, "wanted": (40.0, 90.0), "unit": "%", "measured": measured}
    if spread >= 40:
        return Rung(
            step=Contrast(),
            state=State.GOOD,
            value=0.0,
            reason="The range is used.",
            **common,  # type: ignore[arg-type]
        )
    amount = round(float(np.clip(0.6 * (40 - spread), 4, 25)))
    return Rung(
        step=Contrast(amount=amount),
        state=State.OFFERED,
        value=float(amount),
        reason="Soft light is soft: add contrast only if the day felt crisper. It also adds saturation.",
        action=f"Add {amount:.0f} % contrast",
        **common,  # type: ignore[arg-type]
    )


def _saturation(evidence: Evidence, grade: Grade, verdict: ProfileVerdict) -> Rung:
    seen = _readings(evidence, grade).saturation
    measured = f"{seen.outside_pct:.1f} % of the picture lies beyond the safe outline."
    common = {"reading": seen.outside_pct, "wanted": (0.0, 1.0), "unit": "%", "measured": measured}
    if seen.outside_pct > 1.0:
        amount = -round(float(np.clip(3 + 2 * seen.outside_pct, 4, 25)))
        return Rung(
            step=Saturation(amount=amount),
            state=State.OFFERED,
            value=float(amount),
            reason="Colours beyond the outline lose their detail on many screens.",
            action=f"Lower saturation by {-amount} %",
            **common,  # type: ignore[arg-type]
        )
    return Rung(
        step=Saturation(),
        state=State.GOOD,
        value=0.0,
        reason="Colours stay inside the outline.",
        **common,  # type: ignore[arg-type]
    )


# --- what cannot come back -------------------------------------------------------------------------


def _lost(evidence: Evidence, verdict: ProfileVerdict) -> tuple[str, ...]:
    pixels = evidence.pixels
    top = PROFILES.get(verdict.name).clip if verdict.name in PROFILES else 1.0
    ceiling = float(PROFILES.get(verdict.name).encode(np.array(top))) if verdict.name in PROFILES else 1.0
    said = []
    white = float((pixels.min(axis=1) >= max(ceiling - 0.005, 0.9)).mean() * 100)
    any_channel = float((pixels.max(axis=1) >= max(ceiling - 0.005, 0.9)).mean() * 100)
    if white > 0.3:
        said.append(f"{white:.1f} % of the picture clipped to white in the camera; its detail is gone.")
    if any_channel - white > 1.0:
        said.append(f"In {any_channel - white:.1f} % one or two channels clipped: colour there is not true.")
    crushed = float((pixels.max(axis=1) <= 0.001).mean() * 100)
    if crushed > 1.0:
        said.append(f"{crushed:.1f} % of the picture is black without detail.")
    return tuple(said)
