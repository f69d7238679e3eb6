"""Acts on rungs and on the grade as a whole."""

from __future__ import annotations

from morphe.core.advise.rungs import RUNGS
from morphe.core.advise.schools import in_school, school_of
from morphe.core.grade import recipe
from morphe.web.bench.acts import Asked, act
from morphe.web.bench.services.fixes import take_fix
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.aims import choose_hour
from morphe.web.clips.services.grades.grade import grade_of, merged
from morphe.web.clips.services.grades.habits import forget_habit
from morphe.web.clips.services.reading.judged import judge_anew

__all__ = ["keep"]


@act("keep")
def keep(asked: Asked) -> None:
    """Keep the grade that was set by hand, together with what another device kept meanwhile."""
    grade = merged(asked.clip, recipe.from_text(asked["grade"]), asked["under"])
    key = asked.words.get("kept", asked["open"])
    label = RUNGS[key].step.label if key in RUNGS else "Grade"
    versions.keep(asked.clip, grade, asked["change"] or f"{label} set by hand")


@act("accept")
def accept(asked: Asked) -> None:
    versions.accept(asked.clip, asked["open"])


@act("accept-all")
def accept_all(asked: Asked) -> None:
    versions.accept_all(asked.clip)


@act("usual")
def accept_usual(asked: Asked) -> None:
    versions.accept_usual(asked.clip, asked["open"])


@act("forget-habit")
def forget(asked: Asked) -> None:
    forget_habit(asked["open"])


@act("switch")
def switch(asked: Asked) -> None:
    versions.switch(asked.clip, asked["open"])


@act("reset")
def reset(asked: Asked) -> None:
    versions.reset(asked.clip, asked["open"])


@act("undo")
def undo(asked: Asked) -> None:
    versions.undo(asked.clip)


@act("redo")
def redo(asked: Asked) -> None:
    versions.redo(asked.clip)


@act("fix")
def fix(asked: Asked) -> None:
    take_fix(asked.clip, asked["fix"])


@act("school")
def choose_school(asked: Asked) -> None:
    """Keep the school of the outing, and put this clip's steps in its order: numbers stay what they are."""
    school, clip = school_of(asked["school"]), asked.clip
    clip.outing.school = school.key
    clip.outing.save(update_fields=["school"])
    versions.keep(clip, in_school(grade_of(clip), school), f"School: {school.label.lower()}")


@act("hour")
def mean_hour(asked: Asked) -> None:
    choose_hour(asked.clip, asked["hour"], asked["reach"] or "light")
    judge_anew(asked.clip)


@act("skin-forget")
def forget_skin(asked: Asked) -> None:
    asked.clip.skin_at = {}
    asked.clip.save(update_fields=["skin_at"])
    judge_anew(asked.clip)
