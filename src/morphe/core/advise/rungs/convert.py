"""Profile: footage is made normal by its own curve before all else."""

from __future__ import annotations

from morphe.core.advise.profile.verdict import CURVE_JUDGED, ProfileVerdict
from morphe.core.advise.rung import Case, Instrument, Rule, Rung, State
from morphe.core.advise.wording import sentence
from morphe.core.grade.convert import Convert
from morphe.core.grade.source import SOURCE

__all__ = ["CONVERT"]


def _judge(case: Case) -> Rung:
    verdict = case.verdict
    is_ordinary = verdict.convert.is_neutral
    return Rung(
        step=verdict.convert,
        state=State.GOOD if is_ordinary else State.PROPOSED,
        reading=str(verdict.kind),
        wanted="standard",
        value=verdict.name,
        unit="profile",
        measured=sentence(verdict.evidence[0]),
        reason=_reason(verdict),
        action="" if is_ordinary else f"Convert from {verdict.label}",
    )


def _reason(verdict: ProfileVerdict) -> str:
    if verdict.convert.is_neutral:
        return "It is ordinary video already."
    sure = f"{verdict.confidence:.0%} sure" if verdict.confidence < 1 else "as you said"
    said = f"Footage in {verdict.kind.word} is made normal by its own curve before all else ({sure})."
    judged = [sentence(e) for e in verdict.evidence if e.startswith(CURVE_JUDGED)]
    return " ".join([said, *judged])


CONVERT = Rule(
    step=Convert,
    instrument=Instrument(scope="histogram", window=(-7, 109), hint="Where the camera put its tones."),
    judge=_judge,
    layer=SOURCE,
)
