"""The history of a clip's grade: keep, undo, redo, accept, switch, pass on."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from django.db import transaction

from morphe.core.advise.rungs import RUNGS
from morphe.core.errors import RecipeError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.web.clips.models import Clip, GradeVersion
from morphe.web.clips.signals import decided
from morphe.web.shell.notes import note

__all__ = [
    "accept",
    "accept_all",
    "apply_recipe",
    "grade_of",
    "keep",
    "redo",
    "reset",
    "switch",
    "undo",
]


def grade_of(clip: Clip) -> Grade:
    """The clip's grade of now."""
    return recipe.from_json(clip.version.grade) if clip.version else Grade()


def keep(clip: Clip, grade: Grade, change: str) -> GradeVersion:
    """Add a version and make it the clip's; the same grade again adds nothing."""
    data = recipe.to_json(grade)
    if clip.version and clip.version.grade == data:
        return clip.version
    with transaction.atomic():
        version = GradeVersion.objects.create(clip=clip, parent=clip.version, grade=data, change=change[:200])
        Clip.objects.filter(pk=clip.pk).update(version=version)
        clip.version = version
        note(clip, "decided", f"{change}.", grade=data)
    decided.send(Clip, clip=clip)
    return version


def undo(clip: Clip) -> bool:
    """Go back to the version this one was made from; False at the beginning."""
    if clip.version is None or clip.version.parent_id is None:
        return False
    clip.version = clip.version.parent
    Clip.objects.filter(pk=clip.pk).update(version=clip.version)
    return True


def redo(clip: Clip) -> bool:
    """Go on to the latest version made from this one; False at the end."""
    following = clip.version.children.last() if clip.version else None
    if following is None:
        return False
    clip.version = following
    Clip.objects.filter(pk=clip.pk).update(version=following)
    return True


def _rung(clip: Clip, key: str) -> dict[str, Any]:
    for rung in clip.rungs:
        if rung["step"] == key:
            return rung
    raise RecipeError(f"There is no rung {key!r}.")


def _known(key: str) -> str:
    if key not in RUNGS:
        raise RecipeError(f"There is no rung {key!r}.")
    return key


def accept(clip: Clip, key: str) -> GradeVersion:
    """Take a rung's proposal."""
    rung = _rung(clip, key)
    step = recipe.step_from_json(rung["proposal"])
    layer_id = RUNGS[key].layer
    return keep(
        clip, grade_of(clip).with_step(step, layer_id), rung["action"] or f"{rung['label']} as proposed"
    )


def accept_all(clip: Clip) -> GradeVersion:
    """Take every proposal: the same grade that the command line's `correct` gives."""
    return keep(clip, recipe.from_json(clip.proposal), "Accepted all proposals")


def switch(clip: Clip, key: str) -> GradeVersion:
    """Switch a rung off, or on again."""
    grade = grade_of(clip)
    layer_id = RUNGS[_known(key)].layer
    step = grade.step(key, layer_id)
    turned = replace(step, on=not step.on)
    return keep(clip, grade.with_step(turned, layer_id), f"{step.label} {'on' if turned.on else 'off'}")


def reset(clip: Clip, key: str) -> GradeVersion:
    """Take a rung back to where it changes nothing."""
    rule = RUNGS[_known(key)]
    return keep(clip, grade_of(clip).without_step(key, rule.layer), f"{rule.step.label} reset")


def _fitted_to(clip: Clip, grade: Grade) -> Grade:
    """A recipe without what belongs to another clip's time: the clip keeps its own evening out of light."""
    return grade.with_step(grade_of(clip).even_out)


def apply_recipe(clips: Iterable[Clip], grade: Grade, source: str) -> int:
    """Use a recipe on other clips; the number of clips that took it."""
    count = 0
    for clip in clips:
        keep(clip, _fitted_to(clip, grade), f"Used the recipe of {source}")
        count += 1
    return count
