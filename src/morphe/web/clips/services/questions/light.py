"""A light that may be of a colour, or may be meant so: shown both ways, taken or left with one tap."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from django.db import transaction
from django.db.models import Count

from morphe.core.advise.rung import State
from morphe.core.advise.wording import cast_words
from morphe.core.errors import MorpheError, UnknownName
from morphe.core.grade import recipe
from morphe.core.grade.layer import CLIP, Scope
from morphe.core.grade.steps import Balance
from morphe.web.clips.models import Clip, ClipQuerySet, Decision
from morphe.web.clips.services.grades.grade import grade_of, is_split
from morphe.web.clips.services.grades.shared import put_on, reach
from morphe.web.clips.services.grades.versions import keep, with_proposals
from morphe.web.clips.services.questions.question import Answer, Asked, in_words
from morphe.web.clips.services.reading.kept import thumbnail_under
from morphe.web.outings.models import Outing

__all__ = ["LightQuestion"]

LEFT, TAKEN = "as-filmed", "taken-out"
GONE = "This light is no longer in question; look at the clips again."


class LightQuestion:
    """One question for each light: as filmed, or with its colour taken out."""

    key, about = "light", "whether its light is meant"

    def asked(self, outing: Outing) -> Asked | None:
        counted = _in_question(outing).order_by().values("group").annotate(clips=Count("pk"))
        found = [row["group"] for row in counted.order_by("-clips", "group")]
        for rank, group in enumerate(found):
            clips = [c for c in _of_light(outing, group) if not _has_balance(c)]
            if clips and (asked := self._of(clips, len(found) - rank - 1)):
                return asked
        return None

    def _of(self, clips: Sequence[Clip], more: int) -> Asked | None:
        balances = [_proposal(clip) for clip in clips]
        numbers = np.array([[b.number("warmth"), b.number("tint")] for b in balances])
        nearest = int(np.argmin(np.abs(numbers - np.median(numbers, axis=0)).sum(axis=1)))
        clip, balance = clips[nearest], balances[nearest]
        if clip.group is None or clip.poster is None:  # grouped or read anew at this moment
            return None
        count, words = reach(clip, Scope.LIGHT), cast_words(balance.number("warmth"), balance.number("tint"))
        return Asked(
            key=self.key, clip=clip, count=count, more=more, mark=f"{clip.poster.pk}.{clip.version_id}",
            title=f"Is the colour of {clip.group} meant?",
            words=in_words(
                count, f"It may be {words}, but a subject of that colour would look the same.",
                more=more, what="light",
            ),
            answers=(
                Answer(key=LEFT, label="As filmed", aside="leave it"),
                Answer(key=TAKEN, label=str(_rung(clip)["action"])),
            ),
            by_hand=("balance", "Set it by hand"),
        )  # fmt: skip

    def picture(self, clip: Clip, answer: str) -> bytes:
        frame = clip.poster
        if frame is None or answer not in (LEFT, TAKEN):
            raise UnknownName("There is no such picture; reload the page.")
        grade = with_proposals(clip, over_own=False)
        if answer == TAKEN:
            grade = grade.with_step(_proposal(clip), Scope.LIGHT)
        return thumbnail_under(frame, grade)

    def take(self, clip: Clip, answer: str) -> str:
        found = _in_question(clip.outing).with_grades().filter(pk=clip.pk).first()
        if found is None or answer not in (LEFT, TAKEN) or (answer == TAKEN and _has_balance(found)):
            raise MorpheError(GONE)
        if answer == TAKEN:
            _take_out(found)
            return "taken out"
        _in_question(clip.outing).filter(group=found.group_id).update(light_is_meant=True)
        return "it is"


def _in_question(outing: Outing) -> ClipQuerySet:
    """Clips whose light is offered another balance, and of which nobody has said that it is meant."""
    return outing.clips.ready().filter(
        states__balance=str(State.OFFERED), light_is_meant=False, group__isnull=False
    )


def _of_light(outing: Outing, group: int) -> list[Clip]:
    shown = _in_question(outing).filter(group=group).with_grades()
    return list(shown.prefetch_related("frames"))


def _has_balance(clip: Clip) -> bool:
    """Whether somebody has set a balance already, for the clip or for its light."""
    grade = grade_of(clip)
    set_already = any(grade.step("balance", layer).at_work for layer in (CLIP, Scope.LIGHT, Scope.OUTING))
    return set_already or is_split(grade, Scope.LIGHT)


def _rung(clip: Clip) -> dict[str, Any]:
    return next(r for r in clip.rungs if r["step"] == Balance.key)


def _proposal(clip: Clip) -> Balance:
    step = recipe.step_from_json(_rung(clip)["proposal"])
    assert isinstance(step, Balance)  # a rung's proposal is of its own step
    return step


def _take_out(clip: Clip) -> None:
    """Take the colour of a clip's light out, for all clips of that light; taken back as a whole."""
    with transaction.atomic():
        grade, change = put_on(clip, Balance.key, Scope.LIGHT, _proposal(clip), proposed=True)
        decision = Decision.objects.create(
            outing=clip.outing,
            asked=[clip.pk],
            change=f"{clip.group}: {change}, for all its clips",
            done=True,
        )
        keep(clip, grade, change, decision=decision)
