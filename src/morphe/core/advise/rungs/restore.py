"""Water: what it took is given back to the near subject, as far as the file still holds it."""

from __future__ import annotations

from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State
from morphe.core.advise.wording import stops
from morphe.core.grade.restore import Restore
from morphe.core.grade.source import SOURCE

__all__ = ["RESTORE"]

MOST = 100.0


def _judge(case: Case) -> Rung:
    water = case.water
    if water is None:
        raise ValueError("Only a wet clip has this rung.")
    step, behind = water.restore, water.recoverable.behind
    words = water.recoverable.words
    measured = f"Red lies {stops(behind)} behind green." if behind > 0.05 else "Red keeps up with green here."
    return Rung(
        step=step, state=State.PROPOSED, reading=round(behind, 2), wanted=(-0.3, 0.3),
        value=round(step.strength, 1), unit="stops", measured=measured,
        reason=f"{words[0].upper()}{words[1:]}.", action="Take the water back",
    )  # fmt: skip


RESTORE = Rule(
    step=Restore,
    instrument=Instrument(scope="histogram", window=(-7, 109), hint="Watch the channels under the picture."),
    judge=_judge,
    layer=SOURCE,
)
