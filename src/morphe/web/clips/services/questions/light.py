"""A light that may be of a colour, or may be meant so: shown both ways, taken or left with one tap."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from django.db import transaction
from django.db.models import Count

from morphe.core.advise.rung import State
from morphe.core.advise.wording import cast_words
from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.core.grade.layer import CLIP, Scope
from morphe.core.grade.steps import Balance
from morphe.web.clips.models import Clip, ClipQuerySet, Decision, JudgingFrame, LightGroup
from morphe.web.clips.services.grades.grade import grade_of, is_split
from morphe.web.clips.services.grades.shared import put_on, reach
from morphe.web.clips.services.grades.versions import keep, with_proposals
from morphe.web.clips.services.reading.kept import thumbnail_under
from morphe.web.outings.models import Outing

__all__ = ["WAYS", "OfferedLight", "leave_light", "light_picture", "offered_light", "take_light"]

WAYS = ("as-filmed", "taken-out")
GONE = "This light is no longer in question; look at the clips again."


@dataclass(frozen=True, slots=True, kw_only=True)
class OfferedLight:
    """A light in question: `clip` stands for its clips in pictures, `count` are changed, `more` follow."""

    group: LightGroup
    clip: Clip
    frame: JudgingFrame
    balance: Balance
    count: int
    more: int

    @property
    def words(self) -> str:
        """What the light may be."""
        return cast_words(self.balance.number("warmth"), self.balance.number("tint"))

    @property
    def action(self) -> str:
        rung = next(r for r in self.clip.rungs if r["step"] == "balance")
        return str(rung["action"])


def _in_question(outing: Outing) -> ClipQuerySet:
    """Clips whose light is offered another balance, and of which nobody has said that it is meant."""
    return outing.clips.ready().filter(
        states__balance=str(State.OFFERED), light_is_meant=False, group__isnull=False
    )


def offered_light(outing: Outing) -> OfferedLight | None:
    """What light to show both ways next: the one of most clips."""
    counted = _in_question(outing).order_by().values("group").annotate(clips=Count("pk"))
    found = [row["group"] for row in counted.order_by("-clips", "group")]
    for rank, group in enumerate(found):
        clips = [c for c in _of_light(outing, group) if not _has_balance(c)]
        if clips and (offered := _offered(clips, len(found) - rank - 1)):
            return offered
    return None


def _of_light(outing: Outing, group: int) -> list[Clip]:
    shown = _in_question(outing).filter(group=group).with_grades()
    return list(shown.prefetch_related("frames"))


def _has_balance(clip: Clip) -> bool:
    """Whether somebody has set a balance already, for the clip or for its light."""
    grade = grade_of(clip)
    set_already = any(grade.step("balance", layer).at_work for layer in (CLIP, Scope.LIGHT, Scope.OUTING))
    return set_already or is_split(grade, Scope.LIGHT)


def _offered(clips: Sequence[Clip], more: int) -> OfferedLight | None:
    balances = [_proposal(clip) for clip in clips]
    numbers = np.array([[b.number("warmth"), b.number("tint")] for b in balances])
    nearest = int(np.argmin(np.abs(numbers - np.median(numbers, axis=0)).sum(axis=1)))
    clip = clips[nearest]
    if clip.group is None or clip.poster is None:  # grouped or read anew at this moment
        return None
    return OfferedLight(
        group=clip.group, clip=clip, frame=clip.poster, balance=balances[nearest],
        count=reach(clip, Scope.LIGHT), more=more,
    )  # fmt: skip


def _proposal(clip: Clip) -> Balance:
    rung = next(r for r in clip.rungs if r["step"] == "balance")
    step = recipe.step_from_json(rung["proposal"])
    assert isinstance(step, Balance)  # a rung's proposal is of its own step
    return step


def take_light(outing: Outing, clip_id: int) -> Decision:
    """Take the colour of a clip's light out, for all clips of that light; taken back as a whole.

    Raises
    ------
    MorpheError
        If it is no longer in question.
    """
    clip = _in_question(outing).with_grades().filter(pk=clip_id).first()
    if clip is None or _has_balance(clip):
        raise MorpheError(GONE)
    with transaction.atomic():
        grade, change = put_on(clip, "balance", Scope.LIGHT, _proposal(clip), proposed=True)
        decision = Decision.objects.create(
            outing=outing, asked=[clip.pk], change=f"{clip.group}: {change}, for all its clips", done=True
        )
        keep(clip, grade, change, decision=decision)
    return decision


def leave_light(outing: Outing, clip_id: int) -> None:
    """Leave the clips of a light as they were balanced: they are not asked about again."""
    clip = _in_question(outing).filter(pk=clip_id).first()
    if clip is None:
        raise MorpheError(GONE)
    _in_question(outing).filter(group=clip.group_id).update(light_is_meant=True)


def light_picture(clip: Clip, way: str) -> bytes:
    """The clip's poster as a JPEG with what is proposed, its light left as filmed or taken out."""
    frame = clip.poster
    if frame is None:
        return b""
    grade = with_proposals(clip, over_own=False)
    if way == WAYS[1]:
        grade = grade.with_step(_proposal(clip), Scope.LIGHT)
    return thumbnail_under(frame, grade)
