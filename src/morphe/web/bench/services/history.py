"""The history of a clip's grades: named, set side by side, gone back to."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.errors import RecipeError
from morphe.core.grade.grade import Grade
from morphe.core.grade.step import Step
from morphe.core.handover.preview import jpeg
from morphe.core.pipeline.screen import graded_still
from morphe.web.clips.models import Clip, GradeVersion
from morphe.web.clips.services import versions
from morphe.web.clips.services.grades import stored, with_shared
from morphe.web.clips.services.storage import load_picture

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
    """One step that two versions set otherwise, in words."""

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
    """What two grades set otherwise."""
    steps = [{(layer, s.key): s for layer, s in grade.steps()} for grade in (one, other)]
    places = dict.fromkeys([*steps[0], *steps[1]])
    found = []
    for layer_id, key in places:
        first, second = (s.get((layer_id, key)) for s in steps)
        if _said(first) != _said(second):
            known = first or second
            label = known.label if known is not None else key
            found.append(Difference(label=label, one=_said(first), other=_said(second)))
    return found


def _said(step: Step | None) -> str:
    return "as filmed" if step is None or not step.at_work else step.summary or "at work"


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
