"""The history of a clip's grades: named, set side by side, gone back to."""

from __future__ import annotations

from dataclasses import dataclass, replace

from morphe.core.errors import RecipeError
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.step import Step
from morphe.core.pipeline.screen import graded_still
from morphe.core.screen.pictures import jpeg
from morphe.web.clips.models import Clip, GradeVersion
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import stored, with_shared
from morphe.web.clips.services.reading.storage import load_picture

__all__ = [
    "Difference",
    "differences",
    "go_back",
    "grade_differences",
    "name_version",
    "version_jpeg",
    "versions_of",
]

MOST = 60  # versions that are listed, the latest ones


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """One step or layer that two versions set otherwise, in words."""

    label: str
    one: str
    other: str


def versions_of(clip: Clip) -> list[GradeVersion]:
    """The versions of a clip's own part of its grade, the latest first."""
    return list(clip.versions.order_by("-pk")[:MOST])


def _version(clip: Clip, version_id: int | None) -> GradeVersion:
    found = clip.versions.filter(pk=version_id).first() if version_id else None
    if found is None:
        raise RecipeError("There is no such version of this clip; reload the page.")
    return found


def _grade(clip: Clip, version: GradeVersion) -> Grade:
    """What a version looks like under the layers that the clip shares now."""
    return with_shared(clip, stored(version))


def version_jpeg(clip: Clip, version_id: int) -> bytes:
    """The middle judging frame under a version."""
    frame = clip.poster
    if frame is None:
        raise RecipeError("This clip has no judging frames; read it again.")
    grade = _grade(clip, _version(clip, version_id))
    return jpeg(graded_still(load_picture(frame.picture.path), grade, frame.time_s))


def differences(clip: Clip, one: GradeVersion, other: GradeVersion) -> list[Difference]:
    """What two versions set otherwise."""
    return grade_differences(_grade(clip, one), _grade(clip, other))


def grade_differences(one: Grade, other: Grade) -> list[Difference]:
    """What two grades set otherwise: their steps, then how layers that both have lie over the picture."""
    steps = [{(layer, s.key): s for layer, s in grade.steps() if s.at_work} for grade in (one, other)]
    layers = [{layer.id: replace(layer, steps=()) for layer in grade.layers} for grade in (one, other)]
    pairs: list[tuple[Step | Layer | None, Step | Layer | None]] = [
        *((steps[0].get(place), steps[1].get(place)) for place in dict.fromkeys([*steps[0], *steps[1]])),
        *((layer, layers[1][key]) for key, layer in layers[0].items() if key in layers[1]),
    ]
    return [_difference(first, second) for first, second in pairs if first != second]


def _difference(first: Step | Layer | None, second: Step | Layer | None) -> Difference:
    said, also = _said(first), _said(second)
    label = next(part.label for part in (first, second) if part is not None)
    return Difference(label=label, one=said, other=f"{also}, with other numbers" if also == said else also)


def _said(part: Step | Layer | None) -> str:
    if isinstance(part, Layer):
        return f"at {part.strength:.0%}" if part.on else "off"
    return part.summary if part is not None else "as filmed"


def name_version(clip: Clip, version_id: int | None, name: str) -> None:
    """Give a version a name, or take it away."""
    version = _version(clip, version_id)
    version.name = " ".join(name.split())[:60]
    version.save(update_fields=["name"])


def go_back(clip: Clip, version_id: int | None) -> None:
    """Make an older version the one of now, as a new version: nothing is lost."""
    version = _version(clip, version_id)
    said = version.name or version.change
    versions.keep(clip, _grade(clip, version), f"Back to “{said[:80]}”")
