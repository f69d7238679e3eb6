"""The good parts of a clip: set by where they begin and end, kept with the clip, delivered alone."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.errors import OutputError
from morphe.core.handover.parts import Part, parts_from_json, with_begin, with_end
from morphe.web.clips.models import Clip

__all__ = ["ShownPart", "begin_here", "end_here", "parts_of", "shown_parts", "take_away"]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownPart:
    """A part with its place on a line a hundred long."""

    words: str
    left: float
    width: float


def parts_of(clip: Clip) -> tuple[Part, ...]:
    """What alone is delivered of a clip; nothing for all of it. Of a shot no more than it has."""
    return parts_from_json(clip.parts)


def shown_parts(clip: Clip) -> list[ShownPart]:
    scale = 100 / max(clip.length_s, 1e-3)
    placed = [(p.words, (p.begin_s - clip.begin_s) * scale, p.length_s * scale) for p in parts_of(clip)]
    return [ShownPart(words=w, left=round(left, 2), width=round(width, 2)) for w, left, width in placed]


def begin_here(clip: Clip, time_s: float) -> None:
    """A part begins at a moment."""
    _keep(clip, with_begin(parts_of(clip), max(time_s, clip.begin_s), clip.end_s))


def end_here(clip: Clip, time_s: float) -> None:
    """A part ends at a moment."""
    _keep(clip, with_end(parts_of(clip), min(time_s, clip.end_s), clip.begin_s))


def take_away(clip: Clip, number: int | None) -> None:
    """Take one part away; without any, the whole clip goes out."""
    parts = list(parts_of(clip))
    if number is None or number >= len(parts):
        raise OutputError("There is no such part; reload the page.")
    del parts[number]
    _keep(clip, tuple(parts))


def _keep(clip: Clip, parts: tuple[Part, ...]) -> None:
    clip.parts = [[round(p.begin_s, 3), round(p.end_s, 3)] for p in parts]
    clip.save(update_fields=["parts"])
