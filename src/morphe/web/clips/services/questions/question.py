"""A question about clips: put once for all that its answer settles, with a picture of each answer."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from morphe.web.clips.models import Clip
from morphe.web.outings.models import Outing

__all__ = ["Answer", "Asked", "Question", "in_words", "whose"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """One answer that can be tapped; how likely it is, in percent, or another word, is said more quietly."""

    key: str
    label: str
    percent: int | None = None  # 1..99: a picture proves nothing
    aside: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A question as it is put now: `clip` stands in pictures for all that are meant.

    `mark` changes whenever pictures do; `by_hand` names a rung of the Bench and the way there.
    """

    key: str
    clip: Clip
    count: int
    title: str
    words: str
    answers: tuple[Answer, ...]
    mark: str
    more: int = 0
    by_hand: tuple[str, str] | None = None


class Question(Protocol):
    """What a kind of question knows. All raise `MorpheError` with a sentence for what cannot be."""

    key: str
    about: str  # as the Logbook names it

    def asked(self, outing: Outing) -> Asked | None:
        """What to ask next: the question whose answer settles most clips."""

    def picture(self, clip: Clip, answer: str) -> bytes:
        """The clip as it would look under an answer, as a JPEG."""

    def take(self, clip: Clip, answer: str) -> str:
        """Take an answer, for all clips that it is meant for; what was answered, in words."""


def whose(clip: Clip, count: int) -> str:
    """Of whose clips is asked: of one clip, or of a camera's in a folder."""
    if count == 1:
        return clip.title
    return f"{clip.camera or 'the camera'}{f' in {clip.folder}' if clip.folder else ''}"


def in_words(count: int, *sentences: str, more: int = 0, what: str = "question") -> str:
    """What is said beside a question: of how many clips, why, and how much follows."""
    clips = f"{count} clips." if count > 1 else ""
    after = f"{more} more {what}{'' if more == 1 else 's'} after this." if more else ""
    return " ".join(words for words in (clips, *sentences, after) if words)
