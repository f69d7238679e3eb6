"""What a person was asked about clips and answered: noted, so that it can be told what is asked most."""

from __future__ import annotations

from morphe.web.clips.models import Clip
from morphe.web.shell.notes import note

__all__ = ["FILMED", "LIGHT", "WATER", "note_answer"]

FILMED, WATER, LIGHT = "how it was filmed", "whether it is under water", "whether its light is meant"


def note_answer(clip: Clip, question: str, answer: str) -> None:
    """Note the answer to a question that was put."""
    note(clip, "answered", f"Asked {question}: {answer}.", question=question, answer=answer)
