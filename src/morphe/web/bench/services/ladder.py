"""The ladder as the page shows it: every rung with its state, sentence, proposal and numbers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from morphe.core.advise.rungs import RUNGS
from morphe.core.grade import recipe
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.moments import held
from morphe.core.grade.param import Param
from morphe.core.grade.step import Step
from morphe.core.signal.profiles import PROFILES
from morphe.web.bench.services.instruments import INSTRUMENTS, Tool
from morphe.web.clips.models import Clip
from morphe.web.clips.services.versions import grade_of

__all__ = ["Ladder", "ShownRung", "ladder_of"]

# State of a rung: key -> (word, icon)
WORDS = {
    "taken": ("Taken", "check-circle-fill"),
    "yours": ("Yours", "person-check-fill"),
    "off": ("Off", "slash-circle"),
    "proposed": ("Proposed", "arrow-right-circle"),
    "offered": ("Optional", "circle-half"),
    "open": ("Look here", "eye"),
    "good": ("In its zone", "check-circle"),
    "free": ("If you like", "circle"),
}
FREE = ("vignette", "sharpen")  # nothing is wrong without them


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownControl:
    name: str
    param: Param
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
    tool: Tool
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
    if rung["state"] == "good" and step.key in FREE:
        return "free"
    return {"lost": "open"}.get(rung["state"], str(rung["state"]))


def _summary(step: Step) -> str:
    """What the step does, in a few words, as people say it."""
    if isinstance(step, Convert):
        if not step.at_work:
            return ""
        return PROFILES.get(step.profile).label if step.profile in PROFILES else step.name or "fitted"
    return step.summary


def ladder_of(clip: Clip, *, open_key: str = "") -> Ladder:
    """Put the ladder together; the first rung with something to decide is open unless one is named."""
    grade = grade_of(clip)
    judged = {rung["step"]: rung for rung in clip.rungs}
    keys = [key for key in RUNGS if key in judged]
    states = {key: _state_of(grade, key, judged[key]) for key in keys}
    if open_key not in keys:
        waiting = [k for k in keys if states[k] == "proposed"]
        open_key = waiting[0] if waiting else "exposure"
    shown = tuple(
        _shown(grade, number, key, judged[key], states[key], is_open=key == open_key)
        for number, key in enumerate(keys, 1)
    )
    version = clip.version
    return Ladder(
        rungs=shown,
        grade=recipe.to_json(grade),
        open_key=open_key,
        can_undo=bool(version and version.parent_id),
        can_redo=bool(version and version.children.exists()),
        all_taken=recipe.to_json(grade) == clip.proposal,
        proposals=sum(1 for s in states.values() if s == "proposed"),
        change=version.change if version else "",
    )


def _state_of(grade: Grade, key: str, rung: dict[str, Any]) -> str:
    return _state(grade.step(key, RUNGS[key].layer), rung, recipe.step_from_json(rung["proposal"]))


def _shown(
    grade: Grade, number: int, key: str, rung: dict[str, Any], state: str, *, is_open: bool
) -> ShownRung:
    step, tool = grade.step(key, RUNGS[key].layer), INSTRUMENTS[key]
    word, icon = WORDS[state]
    return ShownRung(
        number=number, key=key, label=rung["label"], state=state, word=word, icon=icon,
        measured=rung["measured"], reason=rung["reason"],
        action=rung["action"] if state in ("proposed", "offered") else "",
        summary=_summary(step), open=is_open, on=step.on, at_work=not step.is_neutral, tool=tool,
        controls=tuple(
            ShownControl(name=c.name, param=c.param, value=round(held(getattr(step, c.name), 0.0), 2))
            for c in tool.controls
        ),
    )  # fmt: skip
