"""The rung for water: what is known of the dive, the ways to choose from, and what can come back."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from morphe.core.advise.seen import Seen, seen_through
from morphe.core.advise.water.ways import WAYS, WayWords, way_of
from morphe.core.errors import ColourError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.restore import Restore, Way
from morphe.core.pipeline.screen import graded_still
from morphe.core.screen.pictures import only_lit
from morphe.core.signal.transfer import decode_bt709
from morphe.core.water.daylight import WATER_TYPES
from morphe.core.water.hints import WaterHints
from morphe.web.bench.services.still import frame_of
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.questions.dive import TYPED
from morphe.web.clips.services.questions.water_hints import water_hints_of
from morphe.web.clips.services.reading.kept import findings_of
from morphe.web.clips.services.reading.storage import load_picture
from morphe.web.plan.services.depth_drawing import DepthDrawing, depth_drawing
from morphe.web.plan.services.dive_lessons import ways_kept

__all__ = ["WaterChoices", "invented_png", "take_way", "water_choices"]

HALF = 0.5  # of a pixel's red: from there it counts as invented
TONES = ("dark", "middle", "bright")


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterChoices:
    """What the rung shows of a clip."""

    hints: WaterHints
    depths: str  # at moments, as they are typed; "" where none are known
    logged: int  # depths known over the clip
    wet: str  # wet, dry or auto: the person's word
    drawing: DepthDrawing
    types: tuple[tuple[str, str], ...]
    ways: tuple[tuple[str, WayWords], ...]
    way: str
    codes: float  # of the middle tone's red
    over_noise: float  # in deviations
    quality: tuple[tuple[str, float, float], ...]  # indices before and after
    by_tone: tuple[tuple[str, int], ...]  # percent of the red that is there
    kept: tuple[str, ...]  # ways to do better that are kept for the camera's next plan


def water_choices(clip: Clip) -> WaterChoices:
    """Everything the rung can be told and set to."""
    hints, found = water_hints_of(clip), clip.water_found
    step = grade_of(clip).source.restore
    return WaterChoices(
        hints=hints,
        depths="; ".join(f"{t:g} {m:g}" for t, m in hints.depths) if len(hints.depths) <= TYPED else "",
        logged=len(hints.depths),
        wet={True: "wet", False: "dry", None: "auto"}[hints.wet],
        drawing=depth_drawing(hints, clip.info.get("bit_depth", 8)),
        types=tuple((t.key, t.label) for t in WATER_TYPES.values()),
        ways=tuple((str(way), words) for way, words in WAYS.items()),
        way=step.way if step.at_work else str(Way.PHYSICAL),
        codes=found.get("codes", 0.0),
        over_noise=found.get("over_noise", 0.0),
        quality=tuple((name, before, after) for name, before, after in found.get("quality", ())),
        by_tone=tuple(
            (name, round(100 * share)) for name, share in zip(TONES, found.get("by_tone", ()), strict=False)
        ),
        kept=ways_kept(clip),
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


def invented_png(clip: Clip, number: int, grade: Grade) -> bytes:
    """Light the pixels of a judging frame whose red is mostly taken from green, as a PNG."""
    frame = frame_of(clip, number)
    source = grade.source.at(frame.time_s)
    step = source.restore
    picture = load_picture(frame.picture.path)
    if not step.at_work or len(step.track) != 1:
        return only_lit(np.zeros(picture.shape[:2], bool))
    seen = graded_still(picture, Grade(source=replace(source, restore=Restore()), layers=()), frame.time_s)
    red = decode_bt709(seen[..., 0]) - step.veil / 100 * step.track[0][4]
    return only_lit(step.invented(red.astype(np.float32)) > HALF)
