"""Acts on style and finish."""

from __future__ import annotations

from morphe.core.grade.layer import Layer, Scope
from morphe.web.bench.acts import Asked, act
from morphe.web.bench.services import finish
from morphe.web.bench.services.looks import save_look, take_look
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import grade_of

__all__: list[str] = []


@act("look")
def wear(asked: Asked) -> None:
    take_look(asked.clip, asked["look"], offered=bool(asked["offered"]))


@act("save-look")
def save(asked: Asked) -> None:
    save_look(asked.clip, asked["name"], asked["words"])


def _finished(asked: Asked, layer: Layer, change: str) -> str:
    grade = grade_of(asked.clip).with_layer(finish.title_inside(layer))
    versions.keep(asked.clip, grade, change)
    return ""


def _layer(asked: Asked) -> Layer:
    return grade_of(asked.clip).layer(Scope.FINISH)


@act("finish-effect")
def put_effect(asked: Asked) -> str:
    return _finished(asked, *finish.with_effect(_layer(asked), asked["value"]))


@act("finish-shape")
def shape(asked: Asked) -> str:
    return _finished(asked, *finish.with_shape(_layer(asked), asked["value"]))


@act("finish-title")
def title(asked: Asked) -> str:
    return _finished(asked, *finish.with_title(_layer(asked), asked.words))


@act("finish-subject")
def follow_subject(asked: Asked) -> str:
    grade = grade_of(asked.clip)
    return _finished(asked, *finish.with_subject(asked.clip, grade, asked["value"], asked["layer"]))
