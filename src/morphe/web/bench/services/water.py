"""The rung for water: what is known of the dive, the ways to choose from, and what can come back."""

from __future__ import annotations

from dataclasses import dataclass, replace

from morphe.core.advise.seen import Seen, seen_through
from morphe.core.advise.water_ways import WAYS, WayWords, way_of
from morphe.core.errors import ColourError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.restore import Restore, Way
from morphe.core.water.daylight import WATER_TYPES
from morphe.core.water.hints import WaterHints
from morphe.web.clips.models import Clip
from morphe.web.clips.services import versions
from morphe.web.clips.services.grades import grade_of
from morphe.web.clips.services.kept import findings_of
from morphe.web.clips.services.water_hints import water_hints_of
from morphe.web.plan.services.depth_drawing import DepthDrawing, depth_drawing

__all__ = ["WaterChoices", "take_way", "water_choices"]

TONES = ("dark", "middle", "bright")


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterChoices:
    """What the rung shows of a clip."""

    hints: WaterHints
    wet: str  # wet, dry or auto: the person's word
    likely: int  # percent
    is_rung: bool
    drawing: DepthDrawing
    types: tuple[tuple[str, str], ...]
    ways: tuple[tuple[str, WayWords], ...]
    way: str
    by_tone: tuple[tuple[str, int], ...]  # percent of the red that is there


def water_choices(clip: Clip) -> WaterChoices:
    """Everything the rung can be told and set to."""
    hints, found = water_hints_of(clip), clip.water_found
    step = grade_of(clip).source.restore
    return WaterChoices(
        hints=hints,
        wet={True: "wet", False: "dry", None: "auto"}[hints.wet],
        likely=round(100 * found.get("wet", 0.0)),
        is_rung=bool(found.get("taken") or found.get("asked")),
        drawing=depth_drawing(hints, clip.info.get("bit_depth", 8)),
        types=tuple((t.key, t.label) for t in WATER_TYPES.values()),
        ways=tuple((str(way), words) for way, words in WAYS.items()),
        way=step.way if step.at_work else str(Way.PHYSICAL),
        by_tone=tuple(
            (name, round(100 * share)) for name, share in zip(TONES, found.get("by_tone", ()), strict=False)
        ),
    )


def take_way(clip: Clip, key: str) -> None:
    """Bring colour back in another way."""
    if key not in tuple(Way):
        raise ColourError(f"There is no way {key[:20]!r} to bring colour back.")
    way, proposal = Way(key), recipe.from_json(clip.proposal)
    physical = _physical(clip)
    before = replace(proposal.source, restore=Restore())
    evidence = findings_of(clip).evidence
    seen = seen_through(
        Seen(pictures=evidence.frames, times_s=evidence.times_s), Grade(source=before, layers=())
    )
    step = way_of(way, seen.light, physical)
    versions.keep(clip, grade_of(clip).with_step(step), f"Water: {WAYS[way].label.lower()}")


def _physical(clip: Clip) -> Restore:
    """What was judged of the water, for a clip that has this rung."""
    for rung in clip.rungs:
        if rung["step"] == Restore.key:
            step = recipe.step_from_json(rung["proposal"])
            if isinstance(step, Restore):
                return step
    raise ColourError("This clip is taken as filmed in air; say first that it was filmed under water.")
