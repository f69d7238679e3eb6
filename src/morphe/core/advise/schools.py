"""Schools of correcting: each an order of the work and a method, in a sentence."""

from __future__ import annotations

from dataclasses import dataclass, replace

from morphe.core.errors import UnknownName
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP
from morphe.core.grade.steps import SCHOOLS

__all__ = ["SCHOOLS_KNOWN", "School", "in_school", "school_of"]


@dataclass(frozen=True, slots=True, kw_only=True)
class School:
    """A school by its key in SCHOOLS.

    folded : rungs that its method does without; they stay there, folded
    silent : whether proposals wait until they are asked for, and scopes are folded
    """

    key: str
    label: str
    sentence: str
    folded: tuple[str, ...] = ()
    silent: bool = False

    @property
    def order(self) -> tuple[str, ...]:
        return SCHOOLS[self.key]


SCHOOLS_KNOWN = {
    school.key: school
    for school in (
        School(
            key="usual", label="Convert first",
            sentence="Light is set right first, then tones, then colour: each step sees what it needs.",
        ),
        School(
            key="white first", label="White first",
            sentence="Balance comes before exposure: a cast is out of the way when tones are judged.",
        ),
        School(
            key="colour first", label="Saturation before balance",
            sentence="Colour is turned up early, so that a cast shows plainly while it is taken out.",
        ),
        School(
            key="by hand", label="By hand curve",
            sentence="One curve does the work of black point, white point, middle and contrast.",
            folded=("black", "white", "mid", "contrast"),
        ),
        School(
            key="by eye", label="By eye",
            sentence="Scopes are folded and proposals wait until you ask: the picture decides.",
            silent=True,
        ),
    )
}  # fmt: skip


def school_of(key: str) -> School:
    """A school by its key.

    Raises
    ------
    UnknownName
        If there is none.
    """
    if key not in SCHOOLS_KNOWN:
        known = ", ".join(SCHOOLS_KNOWN)
        raise UnknownName(f"There is no school {key[:20]!r}; known are: {known}.")
    return SCHOOLS_KNOWN[key]


def in_school(grade: Grade, school: School) -> Grade:
    """The same steps with the same numbers in the order of a school; shared layers keep theirs."""
    layers = tuple(layer.in_order(school.order) if layer.id == CLIP else layer for layer in grade.layers)
    return replace(grade, layers=layers)
