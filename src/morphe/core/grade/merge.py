"""Two sets of changes to one grade brought together: what only one side changed is as that side left it."""

from __future__ import annotations

from dataclasses import fields, replace
from typing import TypeVar

from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, new_region_id
from morphe.core.grade.source import Source
from morphe.core.grade.step import Step
from morphe.core.grade.steps import SCHOOLS

__all__ = ["merge"]


def merge(base: Grade, mine: Grade, theirs: Grade) -> Grade:
    """The grade with what `mine` and `theirs` changed of `base`; where both changed a step, `mine` stands."""
    if theirs == base or mine == theirs:
        return mine
    if mine == base:
        return theirs
    mine = _numbered_anew(mine, base, theirs)
    source = Source()
    for one, was, other in zip(mine.source, base.source, theirs.source, strict=True):
        source = source.with_step(_chosen(one, was, other) or one)
    ids = list(dict.fromkeys(layer.id for grade in (mine, theirs) for layer in grade.layers))
    layers = (_layer(*(_found(grade, layer_id) for grade in (mine, base, theirs))) for layer_id in ids)
    return Grade(source=source, layers=tuple(layer for layer in layers if layer is not None))


T = TypeVar("T")


def _numbered_anew(mine: Grade, base: Grade, theirs: Grade) -> Grade:
    """`mine`, parts of the picture that it added under the id of another new one as parts of their own."""
    layers: list[Layer] = []
    for layer in mine.layers:
        same = _found(theirs, layer.id)
        if layer.region and same and same != layer and not base.has_layer(layer.id):
            taken = mine.ids | theirs.ids | {other.id for other in layers}
            layer = replace(layer, id=new_region_id(taken))
        layers.append(layer)
    return replace(mine, layers=tuple(layers))


def _chosen(mine: T, base: T, theirs: T) -> T:
    return theirs if mine == base else mine


def _found(grade: Grade, layer_id: str) -> Layer | None:
    return grade.layer(layer_id) if grade.has_layer(layer_id) else None


def _layer(mine: Layer | None, base: Layer | None, theirs: Layer | None) -> Layer | None:
    """A layer of both; one that a side took away is gone, unless the other side changed it."""
    if mine is None or theirs is None or base is None:
        return _chosen(mine, base, theirs) if base is not None or theirs is None else mine or theirs
    keys = list(dict.fromkeys(step.key for layer in (mine, theirs) for step in layer.steps))
    steps = (_chosen(*(_step(layer, key) for layer in (mine, base, theirs))) for key in keys)
    parts = {
        name: _chosen(*(getattr(layer, name) for layer in (mine, base, theirs)))
        for name in (each.name for each in fields(Layer))
        if name not in ("id", "scope", "steps")
    }
    return replace(mine, **parts, steps=_ordered([step for step in steps if step is not None], mine))


def _step(layer: Layer, key: str) -> Step | None:
    return next((step for step in layer.steps if step.key == key), None)


def _ordered(steps: list[Step], mine: Layer) -> tuple[Step, ...]:
    """Steps as `mine` has them; those it lacks in their place of the usual order."""
    known = [step.key for step in mine.steps]
    kept = [step for key in known for step in steps if step.key == key]
    layer = replace(mine, steps=tuple(kept))
    for step in steps:
        if step.key not in known:
            layer = layer.with_step(step) if _is_usual(kept) else replace(layer, steps=(*layer.steps, step))
    return layer.steps


def _is_usual(steps: list[Step]) -> bool:
    order = [SCHOOLS["usual"].index(step.key) for step in steps]
    return order == sorted(order)
