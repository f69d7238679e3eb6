"""The good parts of a clip: what alone is delivered, one after another with straight cuts."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from morphe.core.errors import OutputError
from morphe.core.footage.info import SignalInfo

__all__ = ["Cut", "Part", "cuts_of", "parts_from_json", "with_begin", "with_end"]

SHORTEST_S = 0.2
MOST = 40


@dataclass(frozen=True, slots=True, kw_only=True, order=True)
class Part:
    """From `begin_s` up to `end_s`, in seconds of the clip."""

    begin_s: float
    end_s: float

    @property
    def length_s(self) -> float:
        return self.end_s - self.begin_s

    @property
    def words(self) -> str:
        return f"{self.begin_s:.1f}–{self.end_s:.1f} s"


@dataclass(frozen=True, slots=True, kw_only=True)
class Cut:
    """A stretch of a clip on its way into a file: seconds of the clip, from its first frame.

    shift_s : from the times that the clip's file counts in to those of the file that is written
    """

    begin_s: float = -math.inf
    end_s: float = math.inf
    shift_s: float = 0.0

    def holds(self, time_s: float, tolerance_s: float = 0.0) -> bool:
        return self.begin_s - tolerance_s <= time_s < self.end_s - tolerance_s

    def moved(self, item: Any) -> Any:
        """A frame or packet at its time in the file."""
        by = round(self.shift_s / item.time_base) if self.shift_s else 0
        item.pts = None if item.pts is None else item.pts + by
        if item.dts is not None and hasattr(item, "is_keyframe"):  # frames keep theirs
            item.dts += by
        return item

    def ends_in(self, info: SignalInfo) -> tuple[float, float]:
        """Where it begins and ends in the file that is written, in seconds."""
        offset = self.shift_s + info.start_s
        return max(self.begin_s, 0.0) + offset, min(self.end_s, info.duration_s) + offset


def cuts_of(parts: Sequence[Part], info: SignalInfo, at_s: float = 0.0) -> tuple[Cut, ...]:
    """Parts on the grid of the clip's frames, one behind another from `at_s` on; without any, the whole clip.

    Raises
    ------
    OutputError
        If a part is none, or they overlap.
    """
    if not parts:
        return (Cut(shift_s=at_s - info.start_s),)
    cuts = []
    fps = float(info.fps)
    for part in _checked(parts, info):
        begin, end = (round(time * fps) / fps for time in (part.begin_s, min(part.end_s, info.duration_s)))
        cuts.append(Cut(begin_s=begin, end_s=end, shift_s=at_s - begin - info.start_s))
        at_s += end - begin
    return tuple(cuts)


def _checked(parts: Sequence[Part], info: SignalInfo) -> list[Part]:
    ordered = sorted(parts)
    if len(ordered) > MOST:
        raise OutputError(f"A clip has at most {MOST} parts; join some of them.")
    if any(p.begin_s < 0 or p.length_s < SHORTEST_S or p.begin_s >= info.duration_s for p in ordered):
        raise OutputError(f"A part lies within the clip and lasts at least {SHORTEST_S} s.")
    if any(two.begin_s < one.end_s for one, two in pairwise(ordered)):
        raise OutputError("Two parts overlap; end one before the next begins.")
    return ordered


def parts_from_json(data: Iterable[Sequence[float]]) -> tuple[Part, ...]:
    """Parts from pairs of seconds."""
    return tuple(Part(begin_s=float(begin), end_s=float(end)) for begin, end in data)


def with_begin(parts: Sequence[Part], time_s: float, duration_s: float) -> tuple[Part, ...]:
    """The part at a moment begins there; where there is none, one does, up to the next or the clip's end."""
    here = next((p for p in parts if p.begin_s <= time_s < p.end_s), None)
    later = [p.begin_s for p in parts if p.begin_s > time_s]
    new = Part(begin_s=time_s, end_s=here.end_s if here else min([*later, duration_s]))
    return _usable([*(p for p in parts if p != here), new])


def with_end(parts: Sequence[Part], time_s: float, start_s: float = 0.0) -> tuple[Part, ...]:
    """The part at a moment, or the one before it, ends there; where there is none, one from the start."""
    before = [p for p in parts if p.begin_s < time_s]
    here = max(before) if before else None
    new = Part(begin_s=here.begin_s if here else start_s, end_s=time_s)
    return _usable([*(p for p in parts if p != here), new])


def _usable(parts: list[Part]) -> tuple[Part, ...]:
    if any(p.length_s < SHORTEST_S for p in parts):
        raise OutputError(f"A part lasts at least {SHORTEST_S} s; choose another moment.")
    return tuple(sorted(parts))
