"""Layers on the Bench, as they are shown: their steps, their reach, their headings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP, Layer, Scope
from morphe.core.grade.moments import held
from morphe.core.grade.param import Param
from morphe.core.grade.step import FrameStep
from morphe.core.grade.steps import ORDER
from morphe.core.match.match import MATCH
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import SHARED, is_split, own_id
from morphe.web.clips.services.grades.shared import reach

__all__ = [
    "Group",
    "ShownNumber",
    "ShownStep",
    "groups_of",
    "more_for",
    "reaches",
    "steps_of",
]

INSIDE = tuple(kind for kind in ORDER if not issubclass(kind, FrameStep))


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownNumber:
    """One number of a step on a layer."""

    name: str
    param: Param
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownStep:
    """One step of a layer with its numbers."""

    key: str
    label: str
    numbers: tuple[ShownNumber, ...]
    note: str = ""  # what it costs, and who leaves it out


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """The heading of a layer; a shared one lists its steps below, the others have rungs there."""

    layer: Layer
    label: str
    scope: Scope
    reach: int  # clips that a change changes
    is_split: bool
    strength: int
    summary: str
    steps: tuple[ShownStep, ...] = ()
    more: tuple[tuple[str, str], ...] = ()


def steps_of(layer: Layer) -> tuple[ShownStep, ...]:
    """The steps of a layer with their numbers, in the order of the work."""
    return tuple(
        ShownStep(key=step.key, label=step.label, numbers=tuple(
            ShownNumber(name=n, param=p, value=round(held(getattr(step, n), 0.0), 2))
            for n, p in step.params.items()
        ))
        for step in layer.steps
    )  # fmt: skip


def more_for(layer: Layer) -> tuple[tuple[str, str], ...]:
    """Keys and labels of the steps that can still be put on a layer."""
    used = {step.key for step in layer.steps}
    return tuple((kind.key, kind.label) for kind in INSIDE if kind.key not in used)


def reaches(clip: Clip, grade: Grade) -> dict[Scope, int]:
    """How many clips each shared layer would change, where that is more than this one."""
    found = {scope: reach(clip, scope) for scope in SHARED if not is_split(grade, scope)}
    return {scope: count for scope, count in found.items() if count > 1}


def groups_of(clip: Clip, grade: Grade, counts: Mapping[Scope, int]) -> dict[str, Group]:
    """Headings by the id that rungs name; shared layers only where something is set, or was split off."""
    groups: dict[str, Group] = {}
    for scope in SHARED:
        own = is_split(grade, scope)
        layer = grade.layer(own_id(scope)) if own else grade.layer(scope)
        if own or layer.steps:
            groups[scope] = _group(layer, scope.label, scope, counts.get(scope, 1), own=own)
    groups[CLIP] = _group(grade.layer(CLIP), Scope.CLIP.label, Scope.CLIP, 1)
    if grade.has_layer(MATCH):
        groups[MATCH] = _group(grade.layer(MATCH), "Match", Scope.CLIP, 1)
    style = grade.layer(Scope.STYLE)
    groups[Scope.STYLE] = _group(style, Scope.STYLE.label, Scope.STYLE, 1)
    groups[Scope.FINISH] = _group(grade.layer(Scope.FINISH), Scope.FINISH.label, Scope.FINISH, 1)
    return groups


def _group(layer: Layer, label: str, scope: Scope, count: int, *, own: bool = False) -> Group:
    lists = scope.is_shared or scope is Scope.STYLE  # the others have rungs
    return Group(
        layer=layer, label=label, scope=scope, reach=count, is_split=own,
        strength=round(100 * layer.strength),
        summary="; ".join(f"{s.label} {s.summary}" for s in layer.steps if s.at_work),
        steps=steps_of(layer) if lists else (), more=more_for(layer) if lists else (),
    )  # fmt: skip
