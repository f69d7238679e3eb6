"""Water: what it took is given back to the near subject, as far as the file still holds it."""

from __future__ import annotations

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State
from morphe.core.advise.water_verdict import WaterVerdict
from morphe.core.advise.wording import stops
from morphe.core.grade.restore import Restore
from morphe.core.grade.source import SOURCE

__all__ = ["RESTORE"]

MOST = 100.0


def _judge(case: Case) -> Rung:
    water = case.water
    if water is None:
        raise ValueError("Only a clip that may be wet has this rung.")
    step = water.restore
    behind = water.recoverable.behind
    measured = f"Red lies {stops(behind)} behind green." if behind > 0.05 else "Red keeps up with green here."
    reason = _reason(water)
    return Rung(
        step=step, state=State.PROPOSED if water.is_taken else State.OFFERED, reading=round(behind, 2),
        wanted=(-0.3, 0.3), value=round(step.strength, 1), unit="stops", measured=measured, reason=reason,
        action="Take the water back" if water.is_taken else "Take water back, if it was filmed there",
    )  # fmt: skip


def _reason(water: WaterVerdict) -> str:
    words = water.recoverable.words
    said = f"{words[0].upper()}{words[1:]}."
    if not water.is_taken:
        return f"It may have been filmed under water ({water.wet:.0%}). {said}"
    return said


RESTORE = Rule(
    step=Restore,
    instrument=Instrument(scope="histogram", window=(-7, 109), hint="Watch the channels under the picture."),
    judge=_judge,
    layer=SOURCE,
)
