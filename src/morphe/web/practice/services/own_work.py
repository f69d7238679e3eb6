"""What the person's own decisions tell: where they keep differing from what was proposed."""

from __future__ import annotations

import math
from dataclasses import dataclass
from statistics import fmean, pstdev

from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.param import Param
from morphe.core.grade.steps import STEPS
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.practice.services.topics import TOPICS, Topic

__all__ = ["Leaning", "leanings"]

CLIPS, LEAST = 60, 3  # that are looked at; that make a habit


@dataclass(frozen=True, slots=True, kw_only=True)
class _Watched:
    """A number of a step; from `least` on a habit is told, and what is practised for it."""

    step: str
    number: str
    least: float
    topic: str

    @property
    def param(self) -> Param:
        return STEPS.get(self.step).params[self.number]


WATCHED = (
    _Watched(step="exposure", number="stops", least=0.12, topic="eyes-exposure"),
    _Watched(step="balance", number="warmth", least=4.0, topic="mend-colour"),
    _Watched(step="balance", number="tint", least=1.5, topic="eyes-tint"),
    _Watched(step="contrast", number="amount", least=5.0, topic="name-light"),
    _Watched(step="saturation", number="amount", least=5.0, topic="eyes-saturation"),
    _Watched(step="skin", number="turn", least=1.5, topic="name-colour"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Leaning:
    """A habit of the person's, and what to practise for it."""

    sentence: str
    topic: Topic


def leanings() -> list[Leaning]:
    """Where decisions on the latest clips differ from what was proposed, always to the same side."""
    clips = Clip.objects.ready().with_grades().exclude(outing__is_practice=True).order_by("-pk")[:CLIPS]
    pairs = []
    for clip in clips:
        if clip.is_corrected:
            try:
                pairs.append((recipe.from_json(clip.proposal), grade_of(clip)))
            except MorpheError:
                continue
    return [found for one in WATCHED if (found := _leaning(one, pairs)) is not None]


def _leaning(one: _Watched, pairs: list[tuple[Grade, Grade]]) -> Leaning | None:
    away = []
    for proposed, mine in pairs:
        wanted, got = _number(proposed, one), _number(mine, one)
        if wanted or got:
            away.append(got - wanted)
    if len(away) < LEAST:
        return None
    by, scatter = fmean(away), pstdev(away) / math.sqrt(len(away))
    if abs(by) < one.least or abs(by) < 2 * scatter:
        return None
    param, label = one.param, STEPS.get(one.step).label.lower()
    way = (param.up if by > 0 else param.down) or ("more" if by > 0 else "less")
    return Leaning(
        sentence=f"{label.capitalize()}: on {len(away)} clips you went {abs(by):.2g} {param.unit} {way} "
        "beyond what was proposed, in the mean.",
        topic=TOPICS[one.topic],
    )


def _number(grade: Grade, one: _Watched) -> float:
    """A number of the first step of that kind at work; 0 where there is none."""
    for _, step in grade.steps():
        if step.key == one.step and step.at_work and one.number in step.params:
            return float(step.number(one.number)) - one.param.neutral
    return 0.0
