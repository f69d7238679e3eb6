"""Skin: its hue lies on the line that skin of every complexion lies near."""

from __future__ import annotations

import numpy as np

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State, content, proposal
from morphe.core.advise.seen import Seen
from morphe.core.advise.wording import number
from morphe.core.grade.steps import SkinTurn
from morphe.core.measure.skin import LUMA_GUIDE, SKIN_ZONE_DEG, Skin
from morphe.core.measure.zone import Reading, Zone
from morphe.core.signal.skin_colour import SKIN_LINE

__all__ = ["SKIN"]

ZONE = Zone(low=-SKIN_ZONE_DEG, high=SKIN_ZONE_DEG, unit="°")
AT_EASE = 2.5  # degrees: so near the line nothing is worth doing
LIKELY = 9.0  # degrees: further off, what was found may be no skin, and the person decides
MOST = 16.0  # degrees: further off it is the light on everything, not skin alone


def _read(seen: Seen) -> Reading:
    return _reading(seen.skin)


def _reading(skin: Skin | None) -> Reading:
    if skin is None:
        return Reading(value=None, zone=ZONE)
    at = np.radians(skin.angle_deg)
    marks = (float(skin.chroma * np.cos(at)), float(skin.chroma * np.sin(at)))
    return Reading(value=skin.off_deg, zone=ZONE, marks=marks, marked_zone=(ZONE.low, ZONE.high))


def _judge(case: Case) -> Rung:
    skin = case.seen.skin
    reading = _reading(skin)
    if skin is None:
        return content(
            SkinTurn(), reading, "No face was found.",
            "If there is skin, tap it: its hue is then watched through every later step.", unit="°",
        )  # fmt: skip
    side = "yellow" if skin.off_deg > 0 else "red"
    light = f"light on it {number(skin.luma)} %, guide {number(LUMA_GUIDE[0])}–{number(LUMA_GUIDE[1])}"
    measured = f"Skin lies {number(abs(skin.off_deg), 1)}° to the {side} of its line; {light}."
    if abs(skin.off_deg) <= AT_EASE:
        return content(SkinTurn(), reading, measured, "Skin looks like skin.", unit="°")
    if abs(skin.off_deg) > MOST:
        reason = "So far off it is the light, not the skin: balance first, by tapping something white."
        return content(SkinTurn(), reading, measured, reason, unit="°", state=State.OPEN)
    turn = SkinTurn.within("turn", round(-skin.off_deg, 1))
    towards = "red" if turn < 0 else "yellow"
    return proposal(
        SkinTurn(turn=turn, centre=round(SKIN_LINE + skin.off_deg, 1)), reading, measured,
        "Hue alone is turned, of what looks like skin; how light it is stays as it was lit.", value=turn,
        unit="°", action=f"Turn skin {number(abs(turn), 1)}° towards {towards}",
        state=State.OFFERED if reading.is_inside or abs(skin.off_deg) > LIKELY else State.PROPOSED,
    )  # fmt: skip


SKIN = Rule(
    step=SkinTurn,
    instrument=Instrument(
        scope="skin", window=(0.0, 0.32), hint="The line is where skin of every complexion lies near."
    ),
    judge=_judge,
    read=_read,
)
