"""Kinds of long work: what is done, with which urgency. Apps register theirs when they are ready."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from morphe.core.registry import Registry

if TYPE_CHECKING:
    from morphe.web.jobs.services.run import Run

__all__ = ["BEFORE_THE_CAGE", "KINDS", "Kind"]


def _nothing(subject: int, sentence: str) -> None:
    """Most kinds have nothing to keep of a failure but the job's own sentence."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind:
    """How one kind of work is done.

    `work` does it; `failed` keeps what there is to say to a person; `sentence` is said where the reason is
    ours; `owed` names subjects that should have been worked on: the watch asks for those that have no job;
    `patience` says how many times longer than usual it may give no sign of life.
    """

    key: str
    work: Callable[[Run], None]
    priority: int = 0
    sentence: str = "This could not be done; try again."
    failed: Callable[[int, str], None] = _nothing
    owed: Callable[[], Iterable[int]] = tuple
    patience: float = 1.0

    def because(self, reason: str) -> str:
        """Its sentence with a reason in place of the advice."""
        return f"{self.sentence.split(';')[0].rstrip('.')}: {reason}"


KINDS: Registry[Kind] = Registry("kind of work")
BEFORE_THE_CAGE: list[Callable[[], None]] = []  # what a child opens that it may not open any more later
