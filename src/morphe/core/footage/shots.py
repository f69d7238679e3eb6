"""Shots: stretches of a file between cuts, and what in them shows nothing that could be judged."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

import numpy as np

from morphe.core.errors import MediaError
from morphe.core.signal.arrays import Float, Mask

__all__ = ["SHORTEST_S", "Cut", "Shot", "Shots", "Span"]

SHORTEST_S = 0.15  # of a shot
Span = tuple[float, float]  # seconds of the file: from, and up to


@dataclass(frozen=True, slots=True, kw_only=True, order=True)
class Cut:
    """Where a shot begins; `span` is what belongs to neither side: a dissolve, a fade through black."""

    time_s: float
    kind: str = "cut"  # or "dissolve", "fade", "hand"
    span: Span | None = None

    def as_json(self) -> dict[str, Any]:
        return {"time_s": self.time_s, "kind": self.kind, "span": self.span and list(self.span)}

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Cut:
        span = data.get("span")
        return cls(
            time_s=float(data["time_s"]), kind=str(data["kind"]),
            span=(float(span[0]), float(span[1])) if span else None,
        )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Shot:
    """A stretch of a file, in seconds of it; `blind` are parts that serve no reading."""

    begin_s: float
    end_s: float
    blind: tuple[Span, ...] = ()

    def holds(self, time_s: float) -> bool:
        return self.begin_s <= time_s < self.end_s

    @property
    def usable(self) -> tuple[Span, ...]:
        """What can be read by, in order; all of it where nothing is left."""
        left, at = [], self.begin_s
        for begin, end in sorted(self.blind):
            if begin > at:
                left.append((at, min(begin, self.end_s)))
            at = max(at, end)
        if at < self.end_s:
            left.append((at, self.end_s))
        found = tuple((a, b) for a, b in left if b - a > 1e-3 and a < self.end_s)
        return found or ((self.begin_s, self.end_s),)

    def serves(self, times_s: Float) -> Mask:
        """Which of some moments (n,) lie where it can be read by."""
        times = np.asarray(times_s)[:, None]
        spans = np.array(self.usable)
        return np.asarray(((times >= spans[:, 0] - 1e-6) & (times < spans[:, 1] - 1e-6)).any(axis=1))

    def spread(self, count: int, margin_s: float, frame_s: float) -> list[float]:
        """So many moments, evenly over what can be read by, a margin away from both its ends."""
        spans = self.usable
        total = sum(b - a for a, b in spans)
        margin = margin_s if total > 5 * margin_s else 0.0
        wanted = np.linspace(margin, max(total - margin - frame_s, margin), count)
        edges = np.cumsum([0.0, *(b - a for a, b in spans)])
        found = []
        for at in wanted:
            n = min(bisect_right(edges, at) - 1, len(spans) - 1)
            found.append(float(spans[n][0] + at - edges[n]))
        return found

    def as_json(self) -> dict[str, Any]:
        return {"begin_s": self.begin_s, "end_s": self.end_s, "blind": [list(span) for span in self.blind]}

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Shot:
        blind = tuple((float(a), float(b)) for a, b in data.get("blind", ()))
        return cls(begin_s=float(data["begin_s"]), end_s=float(data["end_s"]), blind=blind)


@dataclass(frozen=True, slots=True, kw_only=True)
class Shots:
    """All shots of a file: the cuts between them, and what is blind: fades, what is covered, flashes."""

    duration_s: float
    cuts: tuple[Cut, ...] = ()
    blind: tuple[Span, ...] = ()

    @property
    def count(self) -> int:
        return len(self.cuts) + 1

    @property
    def whole(self) -> Shot:
        """The file as one stretch."""
        return Shot(begin_s=0.0, end_s=self.duration_s, blind=self._blind())

    @property
    def each(self) -> tuple[Shot, ...]:
        """The shots, in order."""
        edges = [0.0, *(cut.time_s for cut in self.cuts), self.duration_s]
        return tuple(
            Shot(begin_s=a, end_s=b, blind=tuple(s for s in self._blind() if s[0] < b and s[1] > a))
            for a, b in pairwise(edges)
        )

    def at(self, time_s: float) -> Shot:
        """The shot that is shown at a moment."""
        return self.each[bisect_right([cut.time_s for cut in self.cuts], time_s)]

    def with_cut(self, time_s: float) -> Shots:
        """Cut at a moment by hand.

        Raises
        ------
        MediaError
            If a shot would be shorter than can be worked on.
        """
        return self._with([*self.cuts, Cut(time_s=time_s, kind="hand")])

    def without_cut(self, number: int) -> Shots:
        """Without the cut of that number."""
        return self._with([cut for n, cut in enumerate(self.cuts) if n != number])

    def moved(self, number: int, time_s: float) -> Shots:
        """The cut of that number at another moment; what was a dissolve is one no more."""
        return self.without_cut(number).with_cut(time_s)

    def _with(self, cuts: Iterable[Cut]) -> Shots:
        ordered = tuple(sorted(cuts))
        edges = [0.0, *(cut.time_s for cut in ordered), self.duration_s]
        if any(b - a < SHORTEST_S for a, b in pairwise(edges)):
            raise MediaError(f"A shot lasts at least {SHORTEST_S:g} s; choose another moment.")
        return replace(self, cuts=ordered)

    def _blind(self) -> tuple[Span, ...]:
        return tuple(sorted([*self.blind, *(cut.span for cut in self.cuts if cut.span)]))

    def as_json(self) -> dict[str, Any]:
        return {
            "duration_s": self.duration_s, "cuts": [cut.as_json() for cut in self.cuts],
            "blind": [list(span) for span in self.blind],
        }  # fmt: skip

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Shots:
        cuts: Sequence[Mapping[str, Any]] = data.get("cuts", ())
        return cls(
            duration_s=float(data["duration_s"]), cuts=tuple(Cut.from_json(cut) for cut in cuts),
            blind=tuple((float(a), float(b)) for a, b in data.get("blind", ())),
        )  # fmt: skip
