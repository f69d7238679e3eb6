"""How clips were filmed: asked, where picture, tags and plan leave it open."""

from __future__ import annotations

from collections.abc import Iterable

from morphe.core.signal.profiles import PROFILES, Kind
from morphe.web.clips.models import Clip
from morphe.web.clips.services.questions.question import Answer, Asked, in_words, whose
from morphe.web.clips.services.questions.said import PROFILE
from morphe.web.clips.services.questions.together import in_doubt
from morphe.web.clips.services.questions.tried import tried
from morphe.web.clips.services.reading.judged import choose_profile
from morphe.web.outings.models import Outing

__all__ = ["ProfileQuestion", "answers_of"]

LEAST_ANSWERS, MOST_ANSWERS = 2, 4
POSSIBLE = 0.02  # a kind less likely than this is hardly ever offered
CLEAR = 90  # percent from which the picture is said to speak for the first answer
USUAL = {
    Kind.STANDARD: "std-709",
    Kind.FLAT: "flat",
    Kind.LOG: "log",
    Kind.HLG: "hlg",
    Kind.PQ: "pq",
}


class ProfileQuestion:
    """One question for each camera, folder and format."""

    key, about = PROFILE, "how it was filmed"

    def asked(self, outing: Outing) -> Asked | None:
        sorts = in_doubt(outing)
        if not sorts:
            return None
        clips = max(sorts, key=len)
        clip = Clip.objects.select_related("camera").prefetch_related("frames").filter(pk=clips[0]).first()
        if clip is None or clip.poster is None:  # removed, or read anew, at this moment
            return None
        count, more, answers = len(clips), len(sorts) - 1, answers_of(clip)
        likeliest = f"By the picture it is {answers[0].label}, but a picture proves no curve;"
        why = likeliest if (answers[0].percent or 0) >= CLEAR else "The picture leaves it open;"
        return Asked(
            key=self.key, clip=clip, count=count, answers=answers, mark=str(clip.poster.pk), more=more,
            title=f"How was {whose(clip, count)} {'filmed' if count == 1 else 'set'}?",
            words=in_words(count, why, "you know what you chose.", more=more),
            by_hand=("convert", "Something else"),
        )  # fmt: skip

    def picture(self, clip: Clip, answer: str) -> bytes:
        return tried(clip, answer)

    def take(self, clip: Clip, answer: str) -> str:
        choose_profile(clip, answer)
        return str(clip.profile.get("label") or "left open")


def answers_of(clip: Clip) -> tuple[Answer, ...]:
    """Kinds that come into question, likeliest first; the camera's own profile stands for its kind."""
    kit = clip.camera.described if clip.camera else None
    has = kit.profiles if kit else ()
    kinds = sorted(clip.profile.get("kinds", {}).items(), key=lambda item: -item[1])
    return tuple(
        Answer(key=_key(Kind(kind), has), label=Kind(kind).word, percent=min(99, max(1, round(100 * p))))
        for rank, (kind, p) in enumerate(kinds[:MOST_ANSWERS])
        if p >= POSSIBLE or rank < LEAST_ANSWERS
    )


def _key(kind: Kind, has: Iterable[str]) -> str:
    own = [key for key in has if key in PROFILES and PROFILES.get(key).kind is kind]
    return own[0] if len(own) == 1 else USUAL[kind]
