"""What a check came to, and the way back from it."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from enum import StrEnum
from typing import Any

__all__ = ["State", "Verdict", "Way"]


class State(StrEnum):
    """How a check ended."""

    GOOD = "good"
    CAUTION = "caution"
    BAD = "bad"


class Way(StrEnum):
    """Where what is wrong can be mended."""

    NONE = ""
    BENCH = "bench"  # in its grade
    PARTS = "parts"  # in what of it goes out
    AGAIN = "again"  # by handing it over anew
    PRESET = "preset"  # by another preset


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """One check: what it is about, how it ended, a sentence, and the way back."""

    key: str
    label: str
    state: State
    sentence: str
    way: Way = Way.NONE

    def as_json(self) -> dict[str, Any]:
        return asdict(self)
