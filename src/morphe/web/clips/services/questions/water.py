"""What Morphe asks of clips that may have been filmed under water: once for each camera and folder."""

from __future__ import annotations

from dataclasses import dataclass, replace

from morphe.core.errors import UnknownName
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.questions.tried import tried
from morphe.web.clips.services.questions.water_hints import water_hints_of
from morphe.web.outings.models import Outing

__all__ = ["ANSWERS", "WetQuestion", "picture_if", "wet_question_of"]

ANSWERS = (("wet", "Under water"), ("dry", "In air"))


@dataclass(frozen=True, slots=True, kw_only=True)
class WetQuestion:
    """Clips of one camera and folder that may be wet: `clip` stands for them, `percent` is how likely."""

    clip: Clip
    frame: JudgingFrame
    count: int
    percent: int
    answers: tuple[tuple[str, str], ...] = ANSWERS


def wet_question_of(outing: Outing) -> WetQuestion | None:
    """What to ask next: the question whose answer settles most clips."""
    asked = outing.clips.open_to_judgement().filter(water_found__asked=True)
    sorts: dict[tuple[object, ...], list[int]] = {}
    for number, camera_id, folder in asked.values_list("pk", "camera_id", "folder"):
        sort = (camera_id, folder) if camera_id or folder else (number,)
        sorts.setdefault(sort, []).append(number)
    if not sorts:
        return None
    clips = max(sorts.values(), key=len)
    clip = Clip.objects.select_related("camera").prefetch_related("frames").filter(pk=clips[0]).first()
    if clip is None or clip.poster is None:  # removed, or read anew, at this moment
        return None
    percent = round(100 * clip.water_found["wet"])
    return WetQuestion(clip=clip, frame=clip.poster, count=len(clips), percent=percent)


def picture_if(clip: Clip, answer: str) -> bytes:
    """The clip's poster as a JPEG, corrected as if it had been filmed under water, or in air.

    Raises
    ------
    UnknownName
        If there is no such answer, or no picture of the clip any more.
    """
    if answer not in dict(ANSWERS):
        raise UnknownName("There is no such picture; reload the page.")
    hints = replace(water_hints_of(clip), wet=answer == "wet")
    return tried(clip, clip.profile_choice, hints)
