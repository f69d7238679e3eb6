"""What Morphe asks of the clips: how they were filmed, where picture, tags and plan leave it open."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from morphe.core.signal.profiles import PROFILES, Kind
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.questions.together import in_doubt
from morphe.web.outings.models import Outing

__all__ = ["Answer", "Question", "answers_of", "question_of"]

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


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """One way the clips may have been filmed."""

    key: str
    label: str
    percent: int  # how likely, 1..99: a picture proves nothing


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """Clips of one sort that are in doubt: `clip` stands for them in pictures, `more` questions follow."""

    clip: Clip
    frame: JudgingFrame
    count: int
    answers: tuple[Answer, ...]
    more: int

    @property
    def likeliest(self) -> str:
        """The answer that the picture speaks for clearly; "" where it leaves it open."""
        return self.answers[0].label if self.answers[0].percent >= CLEAR else ""


def question_of(outing: Outing) -> Question | None:
    """What to ask next: the question whose answer settles most clips."""
    sorts = in_doubt(outing)
    if not sorts:
        return None
    clips = max(sorts, key=len)
    shown = Clip.objects.select_related("camera").prefetch_related("frames")
    clip = shown.filter(pk=clips[0]).first()
    if clip is None or clip.poster is None:  # removed, or read anew, at this moment
        return None
    return Question(
        clip=clip, frame=clip.poster, count=len(clips), answers=answers_of(clip), more=len(sorts) - 1
    )


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
