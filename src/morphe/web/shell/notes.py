"""What is worth keeping of what was done: apps note it, the logbook listens."""

from __future__ import annotations

from typing import Any

from django.dispatch import Signal

__all__ = ["note", "noted"]

noted = Signal()  # sender: the class of what was worked on; `about`, `kind`, `sentence`, `numbers`


def note(about: Any, kind: str, sentence: str, **numbers: Any) -> None:
    """Note one thing that was done to a row, with its numbers."""
    noted.send(type(about), about=about, kind=kind, sentence=sentence, numbers=numbers)
