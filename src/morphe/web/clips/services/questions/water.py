"""Whether clips were filmed under water: asked where the picture does not tell."""

from __future__ import annotations

from dataclasses import replace

from morphe.core.errors import UnknownName
from morphe.web.clips.models import Clip
from morphe.web.clips.services.questions.dive import say_wet
from morphe.web.clips.services.questions.question import Answer, Asked, in_words, whose
from morphe.web.clips.services.questions.said import WATER
from morphe.web.clips.services.questions.tried import tried
from morphe.web.clips.services.questions.water_hints import water_hints_of
from morphe.web.outings.models import Outing

__all__ = ["WaterQuestion"]

ANSWERS = (Answer(key="wet", label="Under water"), Answer(key="dry", label="In air"))
SAID = {"wet": "it is", "dry": "it is not", "auto": "left open"}


class WaterQuestion:
    """One question for each camera and folder."""

    key, about = WATER, "whether it is under water"

    def asked(self, outing: Outing) -> Asked | None:
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
        likely = f"By the picture it is {round(100 * clip.water_found['wet'])} % likely;"
        return Asked(
            key=self.key, clip=clip, count=len(clips), answers=ANSWERS, mark=str(clip.poster.pk),
            title=f"Was {whose(clip, len(clips))} filmed under water?",
            words=in_words(len(clips), likely, "haze and blue light look alike."),
        )  # fmt: skip

    def picture(self, clip: Clip, answer: str) -> bytes:
        if answer not in {one.key for one in ANSWERS}:
            raise UnknownName("There is no such picture; reload the page.")
        return tried(clip, clip.profile_choice, replace(water_hints_of(clip), wet=answer == "wet"))

    def take(self, clip: Clip, answer: str) -> str:
        say_wet(clip, answer)
        return SAID[answer]
