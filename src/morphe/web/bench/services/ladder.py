"""The ladder as the page shows it: every rung with its state, sentence, proposal and numbers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from morphe.core.grade import recipe
from morphe.core.grade.steps import Step
from morphe.web.bench.services.instruments import INSTRUMENTS, Instrument
from morphe.web.bench.services.versions import grade_of
from morphe.web.clips.models import Clip

__all__ = ["Ladder", "ShownRung", "ladder_of"]

# State of a rung: key -> (word, icon)
WORDS = {
    "taken": ("Taken", "check-circle-fill"),
    "yours": ("Yours", "person-check-fill"),
    "off": ("Off", "slash-circle"),
    "proposed": ("Proposed", "arrow-right-circle"),
    "offered": ("Optional", "circle-half"),
    "good": ("In its zone", "check-circle"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownControl:
    name: str
    label: str
    low: float
    high: float
    nudge: float
    unit: str
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownRung:
    """One rung ready for the template."""

    number: int
    key: str
    label: str
    state: str
    word: str
    icon: str
    measured: str
    reason: str
    action: str
    summary: str
    open: bool
    on: bool
    at_work: bool
    instrument: Instrument
    controls: tuple[ShownControl, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Ladder:
    """All rungs, and what can be done with them as a whole."""

    rungs: tuple[ShownRung, ...]
    grade: dict[str, Any]
    open_key: str
    can_undo: bool
    can_redo: bool
    all_taken: bool
    proposals: int
    change: str


def _state(step: Step, rung: dict[str, Any], proposal: Step) -> str:
    if not step.on:
        return "off"
    if step.at_work:
        return "taken" if step == proposal else "yours"
    return {"good": "good", "lost": "good"}.get(rung["state"], str(rung["state"]))


def _summary(step: Step) -> str:
    """The step's numbers in a few characters."""
    if not step.at_work:
        return ""
    if step.key == "convert":
        return str(getattr(step, "profile", ""))
    names = [n for n in type(step).limits if n != "pivot"]
    return ", ".join(f"{getattr(step, n):+g} {type(step).units.get(n, '')}".strip() for n in names)


def ladder_of(clip: Clip, *, open_key: str = "") -> Ladder:
    """Put the ladder together; the first rung with something to decide is open unless one is named."""
    grade = grade_of(clip)
    shown = []
    keys = [r["step"] for r in clip.rungs]
    states = {}
    for rung in clip.rungs:
        step = grade.step(rung["step"])
        states[rung["step"]] = _state(step, rung, recipe.step_from_json(rung["proposal"]))
    if open_key not in keys:
        waiting = [k for k in keys if states[k] == "proposed"]
        open_key = waiting[0] if waiting else "exposure"
    for number, rung in enumerate(clip.rungs, 1):
        key = rung["step"]
        step, state = grade.step(key), states[key]
        word, icon = WORDS[state]
        instrument = INSTRUMENTS[key]
        shown.append(
            ShownRung(
                number=number,
                key=key,
                label=rung["label"],
                state=state,
                word=word,
                icon=icon,
                measured=rung["measured"],
                reason=rung["reason"],
                action=rung["action"] if state in ("proposed", "offered") else "",
                summary=_summary(step),
                open=key == open_key,
                on=step.on,
                at_work=not step.is_neutral,
                instrument=instrument,
                controls=tuple(
                    ShownControl(
                        name=c.name, label=c.label, low=c.low, high=c.high, nudge=c.nudge, unit=c.unit,
                        value=getattr(step, c.name),
                    )
                    for c in instrument.controls
                ),
            )
        )  # fmt: skip
    version = clip.version
    return Ladder(
        rungs=tuple(shown),
        grade=recipe.to_json(grade),
        open_key=open_key,
        can_undo=bool(version and version.parent_id),
        can_redo=bool(version and version.children.exists()),
        all_taken=recipe.to_json(grade) == clip.proposal,
        proposals=sum(1 for s in states.values() if s == "proposed"),
        change=version.change if version else "",
    )
