"""The ladder as the page shows it: every rung with its state, sentence, proposal and numbers."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from morphe.core.advise.rungs import RUNGS
from morphe.core.advise.schools import School, school_of
from morphe.core.advise.whole.last_fixes import Fix
from morphe.core.grade import recipe
from morphe.core.grade.convert import FAMILY_OF, Convert
from morphe.core.grade.denoise import Denoise
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP, Scope
from morphe.core.grade.moments import held
from morphe.core.grade.restore import Restore
from morphe.core.grade.step import Step
from morphe.core.match.match import MATCH
from morphe.web.bench.services.fixes import fixes_of
from morphe.web.bench.services.instruments import INSTRUMENTS, Control, Tool
from morphe.web.bench.services.layers import Group, ShownNumber, groups_of, reaches
from morphe.web.clips.models import Clip, GradeVersion
from morphe.web.clips.services.grades.grade import SHARED, Holder, grade_of, under
from morphe.web.clips.services.grades.habits import Usual, usual_of
from morphe.web.clips.services.grades.versions import next_redo, next_undo

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
    "left": ("Left to the curve", "dash-circle"),
}
# What can be said of a place that is tapped, by rung.
TAPS = {
    "balance": ("neutral",), "black": ("black",), "white": ("white",), "families": ("colour", "green"),
    "skin": ("skin",),
}  # fmt: skip
NEAR = 0.011  # a trim is kept to hundredths
JUDGED = ("bend", "chroma")  # of a curve judged from the clip, by hand
FREE = ("curves", "vignette", "sharpen")  # nothing is wrong without them


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
    taps: tuple[str, ...]  # meanings of a tap that this rung can use
    controls: tuple[ShownNumber, ...]
    trimmed: str  # by how much beyond the proposal, so that the clip sits with its light
    above: tuple[Group, ...]  # headings that stand before it
    shares: tuple[tuple[str, str, int], ...]  # layers it can be put on: scope, label, clips changed
    usual: Usual | None  # what the person mostly keeps of such a proposal

    @property
    def dial(self) -> ShownNumber | None:
        """The number that dragging the loupe's mark moves."""
        drags = self.tool.rule.instrument.drags
        return next((control for control in self.controls if control.name == drags), None)

    @property
    def is_open_intent(self) -> bool:
        """Whether only the person can say what was meant: the hour, or the warmth."""
        return self.state == "offered" and self.key in ("mid", "balance")


@dataclass(frozen=True, slots=True, kw_only=True)
class Ladder:
    """All rungs, and what can be done with them as a whole."""

    rungs: tuple[ShownRung, ...]
    grade: dict[str, Any]
    open_key: str
    under: str
    undo: str  # what it would take back, in words; empty at the beginning
    redo: str
    all_taken: bool
    proposals: int
    school: School
    fixes: tuple[Fix, ...]  # what is outside once everything is done


def _state(step: Step, rung: dict[str, Any], proposal: Step, trim: float) -> str:
    if not step.on:
        return "off"
    if step.at_work:
        return "taken" if step == proposal or _is_trimmed(step, proposal, trim) else "yours"
    if rung["state"] == "good" and step.key in FREE:
        return "free"
    return {"lost": "open"}.get(rung["state"], str(rung["state"]))


TRIMMED = {"exposure": "stops", "balance": "warmth"}  # the number of a step that a trim moves


def _is_trimmed(step: Step, proposal: Step, trim: float) -> bool:
    """Whether a step is a proposal (or nothing) beside a trim that made the clip sit with its light."""
    name = TRIMMED.get(step.key)
    if name is None or not trim or step.moving or proposal.moving:
        return False
    rest = [n for n in step.params if n != name]
    wanted = proposal.number(name) + trim
    return abs(step.number(name) - wanted) < NEAR and all(step.number(n) == proposal.number(n) for n in rest)


def ladder_of(clip: Clip, *, open_key: str = "") -> Ladder:
    """Put the ladder together; the first rung with something to decide is open unless one is named."""
    judged = {rung["step"]: rung for rung in clip.rungs}
    grade = _with_measured_noise(grade_of(clip), judged)
    school = school_of(clip.outing.school)
    keys = _in_order([key for key in RUNGS if key in judged], school)
    states = {key: _state_of(clip, grade, key, judged[key]) for key in keys}
    if open_key not in keys:
        waiting = [k for k in keys if states[k] == "proposed"]
        open_key = waiting[0] if waiting else "exposure"
    counts = reaches(clip, grade)
    headings, habits = groups_of(clip, grade, counts), usual_of(clip.rungs)
    shown = []
    for number, key in enumerate(keys, 1):
        above = _above(headings, RUNGS[key].layer)
        shares = tuple((str(scope), scope.label.lower(), n) for scope, n in counts.items())
        shown.append(_shown(
            grade, number, key, judged[key], states[key], is_open=key == open_key, above=above, clip=clip,
            shares=shares if RUNGS[key].layer == CLIP else (), usual=habits.get(key), school=school,
        ))  # fmt: skip
    return Ladder(
        rungs=tuple(shown),
        grade=recipe.to_json(grade),
        open_key=open_key,
        under=under(clip),
        undo=_said(next_undo(clip)),
        redo=_said(next_redo(clip)),
        all_taken=all(states[key] != "proposed" and not _differs(states[key], judged[key]) for key in keys),
        proposals=sum(1 for s in states.values() if s == "proposed"),
        school=school,
        fixes=fixes_of(clip, grade),
    )


def _in_order(keys: list[str], school: School) -> list[str]:
    """Rungs of the clip in the order of a school, among those before and after that keep their place."""
    own = sorted((k for k in keys if RUNGS[k].layer == CLIP), key=school.order.index)
    return [own.pop(0) if RUNGS[key].layer == CLIP else key for key in keys]


def _with_measured_noise(grade: Grade, judged: dict[str, Any]) -> Grade:
    """A grade whose step for noise at rest knows what was measured, so that its shares mean something."""
    if Denoise.key not in judged or grade.source.denoise != Denoise():
        return grade
    found = recipe.step_from_json(judged[Denoise.key]["proposal"])
    nothing: dict[str, Any] = dict.fromkeys(("luma", "colour", "over_time"), 0.0)
    return grade.with_step(replace(found, **nothing))


def _differs(state: str, rung: dict[str, Any]) -> bool:
    """Whether a person set a rung otherwise than was proposed."""
    return bool(rung["applied"]) and state in ("yours", "off")


def _said(found: tuple[Holder, GradeVersion] | None) -> str:
    return found[1].change if found else ""


def _above(headings: dict[str, Group], layer: str) -> tuple[Group, ...]:
    """Headings that stand before the first rung of a layer; each is given once."""
    if layer == CLIP:
        return tuple(headings.pop(name) for name in (*SHARED, CLIP) if name in headings)
    names = (MATCH, Scope.STYLE, layer) if layer == Scope.FINISH else (layer,)
    return tuple(headings.pop(name) for name in names if name in headings)


def _state_of(clip: Clip, grade: Grade, key: str, rung: dict[str, Any]) -> str:
    proposal = recipe.step_from_json(rung["proposal"])
    return _state(grade.step(key, RUNGS[key].layer), rung, proposal, float(clip.trim.get(key, 0.0)))


def _trim_words(step: Step, trim: float) -> str:
    """The trim of a step that sits with its light, as a person says it."""
    return f"Trimmed by {step.params[TRIMMED[step.key]].say(trim)} to sit with its light." if trim else ""


def _controls(step: Step, tool: Tool) -> tuple[Control, ...]:
    """The numbers of a rung; of a profile only a curve judged from the clip has some."""
    if isinstance(step, Convert):
        return tuple(Control(name=n, param=step.params[n]) for n in JUDGED if step.profile in FAMILY_OF)
    if isinstance(step, Restore) and not step.track and not step.tones:
        return ()  # nothing is taken yet that numbers could change
    return tool.controls


def _shown(
    grade: Grade, number: int, key: str, rung: dict[str, Any], state: str, *, is_open: bool,
    above: tuple[Group, ...], shares: tuple[tuple[str, str, int], ...], clip: Clip, usual: Usual | None,
    school: School,
) -> ShownRung:  # fmt: skip
    step, tool = grade.step(key, RUNGS[key].layer), INSTRUMENTS[key]
    if key in school.folded and not step.at_work:
        state = "left"
    word, icon = WORDS[state]
    return ShownRung(
        number=number, key=key, label=rung["label"], state=state, word=word, icon=icon,
        measured=rung["measured"], reason=rung["reason"],
        action=rung["action"] if state in ("proposed", "offered") else "",
        above=above, shares=shares if step.at_work or state == "proposed" else (),
        trimmed=_trim_words(step, clip.trim.get(key, 0.0)) if state == "taken" else "",
        summary=step.summary, open=is_open, on=step.on, at_work=not step.is_neutral, tool=tool,
        taps=TAPS.get(key, ()), usual=usual if state in ("proposed", "offered") else None,
        controls=tuple(
            ShownNumber(name=c.name, param=c.param, value=round(held(getattr(step, c.name), 0.0), 2))
            for c in _controls(step, tool)
        ),
    )  # fmt: skip
