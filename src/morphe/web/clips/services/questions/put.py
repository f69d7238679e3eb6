"""Which questions are put, in which order, and where their answers go."""

from __future__ import annotations

from morphe.core.errors import UnknownName
from morphe.web.clips.models import Clip
from morphe.web.clips.services.questions.light import LightQuestion
from morphe.web.clips.services.questions.profile import ProfileQuestion
from morphe.web.clips.services.questions.question import Asked, Question
from morphe.web.clips.services.questions.water import WaterQuestion
from morphe.web.outings.models import Outing
from morphe.web.shell.notes import note

__all__ = ["QUESTIONS", "answer", "picture_of", "questions_put"]

RANKS: tuple[tuple[Question, ...], ...] = (
    (WaterQuestion(), ProfileQuestion()),
    (LightQuestion(),),  # light can be told once it is known how a clip was filmed
)
QUESTIONS = {question.key: question for rank in RANKS for question in rank}


def questions_put(outing: Outing) -> list[Asked]:
    """What is asked now: of the first rank that has something to ask."""
    for rank in RANKS:
        if found := [asked for question in rank if (asked := question.asked(outing))]:
            return found
    return []


def answer(clip: Clip, key: str, answered: str) -> None:
    """Take an answer and note it, so that it can be told what is asked most.

    Raises
    ------
    MorpheError
        If there is no such question, or no such answer.
    """
    question = _question(key)
    words = question.take(clip, answered)
    note(
        clip, "answered", f"Asked {question.about}: {words}.", question=question.about, answer=words,
    )  # fmt: skip


def picture_of(clip: Clip, key: str, answered: str) -> bytes:
    """A clip under an answer that nobody has given yet, as a JPEG; raises as `answer` does."""
    return _question(key).picture(clip, answered)


def _question(key: str) -> Question:
    if key not in QUESTIONS:
        raise UnknownName("There is no such question; reload the page.")
    return QUESTIONS[key]
