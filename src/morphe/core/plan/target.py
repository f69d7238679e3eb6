"""Where to aim the exposure: three schools, each with its risk."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.plan.kit import KitKind, School
from morphe.core.plan.latitude import scene_span, usable
from morphe.core.signal.profiles import Kind, Profile

__all__ = ["Target", "aim"]

BRIGHTEST = 4 / 3  # stops over the meter that log is given at most
DIM_FROM_EV, DIM_TO_EV = 10.0, 8.0  # low light sets in over these


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """Offset from the meter in stops (positive: brighter), with reason and risk."""

    school: School
    offset_stops: float
    reason: str
    risk: str


def aim(
    school: School,
    profile: Profile,
    *,
    kind: KitKind,
    bit_depth: int,
    contrast_stops: float,
    scene_ev: float,
    surplus_stops: float,
) -> Target:
    """Turn a school into a number for this profile, scene and light.

    `surplus_stops` is the light beyond what the wanted shutter takes at base ISO: only that much can be
    given to log as extra exposure without raising ISO.
    """
    if school is School.UNDER:
        return _under(profile, kind, scene_ev)
    if school is School.BRIGHT:
        return _bright(profile, bit_depth, contrast_stops, surplus_stops)
    return Target(
        school=school,
        offset_stops=0.0,
        reason="The meter at 0 puts a grey card where the profile expects it.",
        risk="One bright or dark subject misleads the meter; look at the brightest part you need.",
    )


def _under(profile: Profile, kind: KitKind, scene_ev: float) -> Target:
    if kind is KitKind.PHONE and profile.kind is Kind.LOG:
        offset, reason = -1.0, "Phone log raises ISO by itself, and clipped lights are gone: one stop under."
    else:
        # Low light sets in gradually, so that a little more light never changes the plan by a jump.
        dark = min(max((DIM_FROM_EV - scene_ev) / (DIM_FROM_EV - DIM_TO_EV), 0.0), 1.0)
        offset = -(1 + dark) / 3
        reason = "Clipped lights cannot come back, so the exposure is held a little under."
    return Target(
        school=School.UNDER,
        offset_stops=offset,
        reason=reason,
        risk="Shadows get fewer codes and more noise when they are raised.",
    )


def _bright(profile: Profile, bit_depth: int, contrast_stops: float, surplus_stops: float) -> Target:
    risk = "A highlight that was misjudged is gone; watch the brightest part."
    headroom = usable(profile.key, bit_depth).above - scene_span(contrast_stops).above
    offset = max(0.0, min(BRIGHTEST, headroom, surplus_stops))
    if profile.kind is not Kind.LOG:
        offset, reason = 0.0, "Only log gains from bright exposure; this profile is metered at 0."
    elif surplus_stops <= 0:
        reason = "ISO is above base already; more exposure would only add noise, so the meter stays at 0."
    elif headroom <= 0:
        reason = "The scene fills the profile's room for lights, so the meter stays at 0."
    else:
        reason = "Log at base ISO: extra exposure gives the shadows more codes and less noise."
    return Target(school=School.BRIGHT, offset_stops=offset, reason=reason, risk=risk)
