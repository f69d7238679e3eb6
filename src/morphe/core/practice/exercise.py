"""What is put before a person: pictures, scopes, a question, and where the right answer lies."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from morphe.core.errors import ColourError
from morphe.core.registry import Registry
from morphe.core.signal.arrays import Encoded, Mask

__all__ = ["PATHS", "SUBJECTS", "Area", "Exercise", "Subject", "subject"]

PATHS = ("Reading scopes", "Naming faults", "Matching")


@dataclass(frozen=True, slots=True, kw_only=True)
class Area:
    """A part of a waveform: from left to right as shares, from low to high in percent."""

    left: float
    right: float
    low: float
    high: float

    def holds(self, x: float, level: float, *, reach: tuple[float, float] = (0.0, 0.0)) -> bool:
        """Whether a place lies in it, or within a finger's breadth of it."""
        across, up = reach
        return self.left - across <= x <= self.right + across and self.low - up <= level <= self.high + up


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Exercise:
    """One question with one right answer.

    pictures : encoded (H, W, 3), with a caption each
    scopes   : which are shown, of the picture `scope_of`
    choices  : names to choose from; empty where a place is tapped: in the first scope, or in the picture
    as_pictures : whether the choices are the pictures themselves
    lit      : pixels (H, W) that answer, in picture `scope_of`; `area` says the same on the waveform, or,
               from edge to edge, on the scope of the channels too
    distance : how far what is to be told lies from what is right, in steps that an eye just tells
    """

    subject: str
    seed: int
    level: float
    question: str
    pictures: tuple[Encoded, ...]
    captions: tuple[str, ...]
    scopes: tuple[str, ...]
    because: str
    truth: Encoded
    distance: float
    scope_of: int = 0
    choices: tuple[str, ...] = ()
    as_pictures: bool = False
    right: int = -1
    taps: str = ""  # "waveform" or "picture"
    lit: Mask | None = None
    area: Area | None = None

    def takes(self, choice: int) -> bool:
        """Whether a choice is the right one.

        Raises
        ------
        ColourError
            If there is no such choice.
        """
        if not 0 <= choice < len(self.choices):
            raise ColourError("Choose one of the answers.")
        return choice == self.right


Make = Callable[[int, float], Exercise]


@dataclass(frozen=True, slots=True, kw_only=True)
class Subject:
    """Something to learn; `make` gives the exercise of a seed and a level 0..1, from plain to subtle."""

    key: str
    label: str
    about: str
    path: str
    make: Make


SUBJECTS: Registry[Subject] = Registry("subject of practice")


def subject(key: str, label: str, about: str, path: str) -> Callable[[Make], Make]:
    """File a maker of exercises."""

    def file(make: Make) -> Make:
        SUBJECTS.register(key)(Subject(key=key, label=label, about=about, path=path, make=make))
        return make

    return file
