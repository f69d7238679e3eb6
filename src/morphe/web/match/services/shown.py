"""What the place Match shows: references, clips with how near they come, and the pair that is open."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar
from urllib.parse import urlencode

from morphe.core.match.distance import word_of
from morphe.core.match.match import Match
from morphe.web.clips.models import Clip, JudgingFrame, LightGroup
from morphe.web.match.models import Matching, PinnedFrame
from morphe.web.outings.models import Outing
from morphe.web.plan.models import PairLesson
from morphe.web.shell.numbers import numbers

__all__ = ["Board", "board_of"]

ODD = 4.0  # of distance that stays: such a clip shows something else
MOST_PINS, MOST_CLIPS = 24, 60
FULL = 12.0  # of distance: a bar as long as it gets
T = TypeVar("T", Clip, PinnedFrame)


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A clip in the strip: how near it comes."""

    clip: Clip
    matching: Matching | None

    @property
    def said(self) -> str:
        if self.matching is None:
            return ""
        if self.matching.is_busy:
            return "at work"
        found = self.matching.match
        return f"{found.before:.1f} → {found.after:.1f}" if found else "not matched"

    @property
    def is_odd(self) -> bool:
        found = self.matching.match if self.matching else None
        return found is not None and found.after > ODD


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """A stage as two lengths, in percent of the longest."""

    key: str
    label: str
    does: str
    before: float
    after: float
    share: int  # percent that is taken

    @property
    def before_wide(self) -> float:
        return min(100 * self.before / FULL, 100)

    @property
    def after_wide(self) -> float:
        return min(100 * self.after / FULL, 100)


@dataclass(frozen=True, slots=True, kw_only=True)
class Board:
    """The page."""

    pins: list[PinnedFrame]
    rows: list[Row]
    lights: list[LightGroup]
    pin: PinnedFrame | None
    clip: Clip | None
    frame: JudgingFrame | None
    matching: Matching | None
    match: Match | None
    bars: tuple[Bar, ...]
    lesson: PairLesson | None  # of the clip's camera against the reference's

    @property
    def shares(self) -> str:
        """What is taken of the stages, as the query of a picture."""
        return urlencode({f"share-{bar.key}": bar.share for bar in self.bars})

    @property
    def word(self) -> str:
        return word_of(self.match.after) if self.match else ""

    @property
    def is_busy(self) -> bool:
        return any(row.matching and row.matching.is_busy for row in self.rows)

    @property
    def ready(self) -> int:
        """How many other clips wait to be given their match."""
        return sum(bool(r.matching and r.matching.found and not r.matching.used) for r in self.rows)

    @property
    def odd(self) -> list[str]:
        return [row.clip.title for row in self.rows if row.is_odd]


def board_of(outing: Outing, asked: Mapping[str, str]) -> Board:
    """Everything that the page shows, for the reference and the clip that are asked for."""
    pins = list(PinnedFrame.objects.filter(outing=outing).select_related("clip")[:MOST_PINS])
    clips = list(Clip.objects.ready().with_grades().filter(outing=outing)[:MOST_CLIPS])
    pin = _asked(pins, asked.get("pin", "")) or (pins[0] if pins else None)
    found = {m.clip_id: m for m in pin.matchings.select_related("job", "pin")} if pin else {}
    clip = _asked(clips, asked.get("clip", "")) or _first(clips, found, pin)
    matching = found.get(clip.pk) if clip else None
    match = matching.match if matching else None
    frames = list(clip.frames.all()) if clip else []
    frame = next((f for f in frames if str(f.number) == asked.get("frame")), frames[0] if frames else None)
    return Board(
        pins=pins, rows=[Row(clip=c, matching=found.get(c.pk)) for c in clips],
        lights=list(LightGroup.objects.filter(outing=outing)),
        pin=pin, clip=clip, frame=frame, matching=matching, match=match, lesson=_lesson(clip, pin),
        bars=tuple(
            Bar(key=s.key, label=s.label, does=s.summary, before=s.before, after=s.after,
                share=round(100 * matching.shares.get(s.key, 1.0)))
            for s in match.stages
        ) if matching and match else (),
    )  # fmt: skip


def _lesson(clip: Clip | None, pin: PinnedFrame | None) -> PairLesson | None:
    if clip is None or pin is None or pin.clip is None or clip.camera_id is None:
        return None
    return PairLesson.objects.filter(camera_id=clip.camera_id, other_id=pin.clip.camera_id).first()


def _asked(among: Sequence[T], wanted: str) -> T | None:
    chosen = numbers([wanted])
    return next((one for one in among if chosen and one.pk == chosen[0]), None)


def _first(clips: list[Clip], found: Mapping[int, Matching], pin: PinnedFrame | None) -> Clip | None:
    """The clip to begin with: one that was matched, else one that is not the reference itself."""
    others = [c for c in clips if pin is None or c.pk != pin.clip_id]
    matched = [c for c in others if c.pk in found]
    return next(iter((*matched, *others, *clips)), None)
