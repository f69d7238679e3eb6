"""Acts on layers: switched, named, steps put on them and taken off, shared and split off."""

from __future__ import annotations

from dataclasses import replace

from morphe.core.errors import ColourError
from morphe.core.grade import recipe
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.steps import STEPS
from morphe.web.bench.acts import Asked, act
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import SHARED, grade_of
from morphe.web.clips.services.grades.shared import back_under, put_on, split_off

__all__: list[str] = []


def _asked_for(asked: Asked) -> Layer:
    return grade_of(asked.clip).layer(asked["layer"])


def _region(asked: Asked) -> Layer:
    layer = _asked_for(asked)
    if layer.region is None:
        raise ColourError("There is no such region; reload the page.")
    return layer


def _keep(asked: Asked, layer: Layer, change: str) -> str:
    versions.keep(asked.clip, grade_of(asked.clip).with_layer(layer), change)
    return layer.id


@act("layer-switch")
def switch(asked: Asked) -> str:
    layer = _asked_for(asked)
    return _keep(asked, replace(layer, on=not layer.on), f"{layer.label} {'off' if layer.on else 'on'}")


@act("layer-name")
def name(asked: Asked) -> str:
    named = " ".join(asked["value"].split())[:60]
    return _keep(asked, replace(_region(asked), name=named), f"Region named {named or 'Region'}")


@act("layer-put")
def put(asked: Asked) -> str:
    layer, kind = _asked_for(asked), STEPS.get(asked["value"])
    return _keep(asked, layer.with_step(kind()), f"{layer.label}: {kind.label} put inside")


@act("layer-take")
def take(asked: Asked) -> str:
    layer, kind = _asked_for(asked), STEPS.get(asked["value"])
    return _keep(asked, layer.without_step(kind.key), f"{layer.label}: {kind.label} taken out")


@act("layer-remove")
def remove(asked: Asked) -> str:
    layer = _region(asked)
    change = f"{layer.label} taken away"
    versions.keep(asked.clip, grade_of(asked.clip).without_layer(layer.id), change)
    return ""


def _scope(asked: Asked) -> Scope:
    if asked["scope"] not in SHARED:
        raise ColourError("A correction reaches the light or the whole outing; reload the page.")
    return Scope(asked["scope"])


@act("layer-share")
def share(asked: Asked) -> str:
    """Put what is proposed for a rung on the light or the whole outing."""
    scope, key = _scope(asked), asked["open"]
    judged = next((rung for rung in asked.clip.rungs if rung["step"] == key), None)
    if judged is None or key not in STEPS:
        raise ColourError("Only a correction of colour can be put on a light or the outing.")
    versions.keep(asked.clip, *put_on(asked.clip, key, scope, recipe.step_from_json(judged["proposal"])))
    return ""


@act("layer-split")
def split(asked: Asked) -> str:
    versions.keep(asked.clip, *split_off(asked.clip, _scope(asked)))
    return ""


@act("layer-back")
def back(asked: Asked) -> str:
    versions.keep(asked.clip, *back_under(asked.clip, _scope(asked)))
    return ""
