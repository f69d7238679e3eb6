"""Decisions of then: seen again, set side by side, taken back into use."""

from __future__ import annotations

from morphe.core.errors import RecipeError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.screen import graded_still
from morphe.core.screen.pictures import jpeg
from morphe.web.bench.services.history import Difference, grade_differences
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.versions import keep
from morphe.web.clips.services.reading.storage import load_picture
from morphe.web.logbook.models import LogEntry

__all__ = ["compared", "entry_picture", "use_again"]


def _of(entry: LogEntry) -> tuple[Clip, Grade]:
    if entry.clip is None or "grade" not in entry.numbers:
        raise RecipeError("This entry has no grade that can be shown; its clip may be gone.")
    clip = Clip.everything.with_grades().prefetch_related("frames").get(pk=entry.clip.pk)
    return clip, recipe.from_json(entry.numbers["grade"])


def compared(one: LogEntry, other: LogEntry) -> list[Difference]:
    """What two decisions set otherwise."""
    return grade_differences(_of(one)[1], _of(other)[1])


def entry_picture(entry: LogEntry) -> bytes:
    """The clip's middle judging frame as it was graded then."""
    clip, grade = _of(entry)
    if clip.poster is None:
        raise RecipeError("This clip has no judging frames; read it again.")
    return jpeg(graded_still(load_picture(clip.poster.picture.path), grade, clip.poster.time_s))


def use_again(entry: LogEntry) -> str:
    """Make a decision of then the clip's grade again, as a new version; what was done, in a sentence."""
    clip, grade = _of(entry)
    keep(clip, grade, f"Back to “{entry.sentence.rstrip('.')[:80]}”")
    return f"{clip.title} is graded as it was then; undo takes that back."
