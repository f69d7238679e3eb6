"""Colour families: single hues beyond the outline, or standing out alone, are brought in."""

from __future__ import annotations

import numpy as np

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.advise.wording import number
from morphe.core.grade.steps import Families
from morphe.core.grade.steps.families import Edit
from morphe.core.measure.palette import Member, palette_of
from morphe.core.measure.zone import Reading, Zone

__all__ = ["FAMILIES_RUNG", "calmed"]

ZONE = Zone(low=0.0, high=2.0, unit="%")  # of a family's own members beyond the outline
LOUD = 0.17  # Oklab chroma of nine in ten: above, a family shouts
ALONE, SMALL = 2.2, 0.10  # times the chroma of all the rest; share of the picture of what stands out alone
CALM_GREEN, GREEN_LOUD = -20.0, 0.13
LEAST, MOST = -8.0, -60.0  # percent of strength


def calmed(member: Member, strength: float) -> Edit:
    """An edit that calms a family."""
    family = member.family
    return Edit(family.at, family.below, family.above, strength=strength)


def _wanted(palette: tuple[Member, ...]) -> dict[str, tuple[Edit, str]]:
    """Edits that bring single families in, with the reason, by key."""
    found: dict[str, tuple[Edit, str]] = {}
    for member in palette:
        others = [other for other in palette if other is not member]
        around = (
            float(np.average([o.chroma for o in others], weights=[o.share for o in others])) if others else 0
        )
        if 100 * member.beyond > ZONE.high:
            found[member.family.key] = (calmed(member, _down(member, 0.8 * LOUD)), "beyond the outline")
        elif member.family.key == "greens" and member.strong > GREEN_LOUD:
            found["greens"] = (calmed(member, CALM_GREEN), "louder than leaves are")
        elif member.strong > LOUD and others and member.chroma > ALONE * around and member.share < SMALL:
            found[member.family.key] = (calmed(member, _down(member, LOUD)), "standing out alone")
    return found


def _down(member: Member, to: float) -> float:
    """Percent of strength that brings a family's strong members to a chroma."""
    return float(round(np.clip(100 * (to / max(member.strong, 1e-6) - 1), MOST, LEAST)))


def _read(seen: Seen) -> Reading:
    worst = max((100 * member.beyond for member in palette_of(seen.pixels)), default=0.0)
    return Reading(value=worst, zone=ZONE)


def _judge(case: Case) -> Rung:
    palette = palette_of(case.seen.pixels)
    reading = Reading(value=max((100 * m.beyond for m in palette), default=0.0), zone=ZONE)
    names = [m.family.label for m in palette[:3]]
    wanted = _wanted(palette)
    if not palette:
        return content(Families(), reading, "Nothing here has a colour of its own.", "Greys need no care.",
                       unit="%")  # fmt: skip
    held = f"Mostly {', '.join(names).lower()}."
    if not wanted:
        return content(Families(), reading, held, "No single colour stands out.", unit="%")
    labels = {m.family.key: m.family.label.lower() for m in palette}
    said = "; ".join(f"{labels[key]} {why}" for key, (_, why) in wanted.items())
    step = Families(edits=tuple(edit for edit, _ in wanted.values()))
    parts = [f"{labels[key]} by {number(-edit.strength)} %" for key, (edit, _) in wanted.items()]
    return proposal(
        step, reading, f"{held} {said[0].upper()}{said[1:]}.",
        "A single colour is brought in; its neighbours stay as they are.",
        value=float(len(wanted)), unit="colours", action=f"Calm {', '.join(parts)}", state=State.OFFERED,
    )  # fmt: skip


FAMILIES_RUNG = Rule(
    step=Families,
    instrument=Instrument(
        scope="vector", window=(0.0, 0.5), hint="Choose a colour of this frame, or pick one in the picture."
    ),
    judge=_judge,
    read=_read,
)  # fmt: skip
