"""The history of grades, of a clip and of the layers it shares; rungs accepted and switched."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.db import transaction

from morphe.core.advise.rungs import RUNGS
from morphe.core.errors import RecipeError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.merge import merge
from morphe.web.clips.models import Clip, Decision, GradeVersion
from morphe.web.clips.services.grades.grade import (
    SHARED,
    Holder,
    grade_of,
    holder_of,
    is_split,
    own_part,
    stored,
    under,
)
from morphe.web.clips.services.grades.habits import usual_of, usually
from morphe.web.clips.services.grades.shared import changed_for_all, made_holder
from morphe.web.clips.signals import decided
from morphe.web.jobs.services.ask import ask
from morphe.web.shell.notes import note
from morphe.web.shell.who import DEVICE

__all__ = [
    "accept",
    "accept_all",
    "accept_usual",
    "go_to",
    "keep",
    "next_redo",
    "next_undo",
    "redo",
    "reset",
    "switch",
    "undo",
    "with_proposals",
]


def keep(clip: Clip, grade: Grade, change: str, *, decision: Decision | None = None) -> None:
    """Make a grade the clip's. What differs on a shared layer changes all clips under it.

    What was kept since the clip was read, by whichever process, stays: the grade comes on top of it.
    """
    base = grade_of(clip)
    if recipe.to_json(grade) == recipe.to_json(base):
        return
    with transaction.atomic():
        now = _as_of_now(clip)
        grade = merge(base, grade, now)
        beside = None
        for scope in SHARED:
            layer = grade.layer(scope)
            if layer != now.layer(scope) and not is_split(grade, scope):
                beside = _keep_shared(clip, layer, change, decision)
        own = recipe.to_json(own_part(grade))
        if clip.version is None or clip.version.grade != own:
            _add(clip, own, change, decision, beside)
        note(clip, "decided", f"{change}.", grade=recipe.to_json(grade))
        ask("stand", clip.outing_id)
    decided.send(Clip, clip=clip)


def _as_of_now(clip: Clip) -> Grade:
    """The grade of now, of which the clip knows from then on; in a transaction, nobody writes beside it."""
    fresh = Clip.everything.with_grades().get(pk=clip.pk)
    if under(fresh) != under(clip):
        clip.version, clip.outing, clip.group = fresh.version, fresh.outing, fresh.present_group
    return grade_of(clip)


def _keep_shared(clip: Clip, layer: Layer, change: str, decision: Decision | None) -> GradeVersion:
    holder = made_holder(clip, layer.scope)
    data = recipe.to_json(Grade(layers=(layer,)))
    version = _add(holder, data, f"{holder.label}: {change[:1].lower()}{change[1:]}", decision)
    changed_for_all(holder)
    return version


def _add(
    holder: Holder, data: dict[str, Any], change: str, decision: Decision | None,
    beside: GradeVersion | None = None,
) -> GradeVersion:  # fmt: skip
    side = {"clip": holder} if isinstance(holder, Clip) else {"layer": holder}
    version = GradeVersion.objects.create(
        **side, parent=holder.version, grade=data, change=change[:200], decision=decision,
        beside=beside, by=DEVICE.get(),
    )  # fmt: skip
    go_to(holder, version)
    return version


def go_to(holder: Holder, version: GradeVersion | None) -> None:
    """Make another version the one of now."""
    holder.version = version
    type(holder).objects.filter(pk=holder.pk).update(version=version)


# --- undo and redo ------------------------------------------------------------------------------------


def _holders(clip: Clip) -> list[Holder]:
    own = stored(clip.version)
    shared = [holder_of(clip, scope) for scope in SHARED if not is_split(own, scope)]
    return [clip, *(holder for holder in shared if holder is not None)]


def next_undo(clip: Clip) -> tuple[Holder, GradeVersion] | None:
    """What undo would take back: the latest that was done to the clip, or to a layer that it shares."""
    done = [(h, h.version) for h in _holders(clip) if h.version is not None and h.version.parent_id]
    return max(done, key=lambda pair: pair[1].pk, default=None)


def next_redo(clip: Clip) -> tuple[Holder, GradeVersion] | None:
    """What redo would do again: the earliest that was taken back, if nothing was done since."""
    holders = _holders(clip)
    latest = max((h.version.pk for h in holders if h.version and h.version.parent_id), default=0)
    following = [(h, h.version.children.last()) for h in holders if h.version]
    waiting = [(h, v) for h, v in following if v is not None and v.pk > latest]
    return min(waiting, key=lambda pair: pair[1].pk, default=None)


def undo(clip: Clip) -> bool:
    """Take back what was done last; False at the beginning."""
    with transaction.atomic():
        _as_of_now(clip)
        found = next_undo(clip)
        for holder, version in _one_change(clip, found) if found else ():
            if holder.version_id == version.pk:
                _turn(clip, holder, version.parent)
    return found is not None


def redo(clip: Clip) -> bool:
    """Do again what was taken back last; False at the end."""
    with transaction.atomic():
        _as_of_now(clip)
        found = next_redo(clip)
        for holder, version in _one_change(clip, found) if found else ():
            if holder.version_id == version.parent_id:
                _turn(clip, holder, version)
    return found is not None


def _one_change(clip: Clip, found: tuple[Holder, GradeVersion]) -> list[tuple[Holder, GradeVersion]]:
    """A version with those that the same change made of a clip and of a layer it shares."""
    known: dict[Holder, Holder] = {holder: holder for holder in _holders(clip)}  # looked at afterwards
    changed = [found]
    for other in (found[1].beside, *found[1].besides.all()):
        holder = (other.clip or other.layer) if other is not None else None
        if other is not None and holder is not None:
            changed.append((known.get(holder, holder), other))
    return changed


def _turn(clip: Clip, holder: Holder, version: GradeVersion | None) -> None:
    go_to(holder, version)
    if not isinstance(holder, Clip):
        changed_for_all(holder)
    ask("stand", clip.outing_id)


# --- rungs --------------------------------------------------------------------------------------------


def _rung(clip: Clip, key: str) -> dict[str, Any]:
    for rung in clip.rungs:
        if rung["step"] == key:
            return rung
    raise RecipeError(f"There is no rung {key!r}.")


def _known(key: str) -> str:
    if key not in RUNGS:
        raise RecipeError(f"There is no rung {key!r}.")
    return key


def accept(clip: Clip, key: str) -> None:
    """Take a rung's proposal."""
    rung = _rung(clip, key)
    step = recipe.step_from_json(rung["proposal"])
    change = rung["action"] or f"{rung['label']} as proposed"
    keep(clip, grade_of(clip).with_step(step, RUNGS[key].layer), change)


def accept_usual(clip: Clip, key: str) -> None:
    """Take that share of a rung's proposal which the person mostly keeps."""
    rung, habit = _rung(clip, key), usual_of(clip.rungs).get(key)
    if habit is None:
        raise RecipeError("There is no habit to go by here; take the proposal, or set it by hand.")
    step = usually(recipe.step_from_json(rung["proposal"]), habit.percent)
    keep(
        clip, grade_of(clip).with_step(step, RUNGS[key].layer), f"{rung['label']}: {habit.percent} % as usual"
    )


def with_proposals(clip: Clip, *, over_own: bool = True) -> Grade:
    """The clip's grade with every proposal taken; `over_own` replaces what a person set on those rungs."""
    grade = grade_of(clip)
    for rung in clip.rungs:
        layer = RUNGS[rung["step"]].layer
        if rung["applied"] and (over_own or not grade.step(rung["step"], layer).at_work):
            grade = grade.with_step(recipe.step_from_json(rung["proposal"]), layer)
    return grade


def accept_all(clip: Clip) -> None:
    """Take every proposal; on an untouched clip the same grade that the command line's `correct` gives."""
    keep(clip, with_proposals(clip), "Accepted all proposals")


def switch(clip: Clip, key: str) -> None:
    """Switch a rung off, or on again."""
    grade = grade_of(clip)
    layer_id = RUNGS[_known(key)].layer
    step = grade.step(key, layer_id)
    turned = replace(step, on=not step.on)
    keep(clip, grade.with_step(turned, layer_id), f"{step.label} {'on' if turned.on else 'off'}")


def reset(clip: Clip, key: str) -> None:
    """Take a rung back to where it changes nothing."""
    rule = RUNGS[_known(key)]
    keep(clip, grade_of(clip).without_step(key, rule.layer), f"{rule.step.label} reset")
