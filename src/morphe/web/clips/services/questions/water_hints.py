"""What is known of a clip's water beforehand: a person's word, what was said of its like, and the plan."""

from __future__ import annotations

from typing import Any

from morphe.core.errors import MorpheError
from morphe.core.plan.questions import Questions
from morphe.core.plan.shots import SHOTS
from morphe.core.water.hints import WaterHints
from morphe.web.clips.models import Clip, WaterMemory

__all__ = ["memory_of", "water_hints_of"]

NUMBERS = ("depth_m", "distance_m")
WORDS = ("water", "filter")


def memory_of(clip: Clip) -> WaterMemory | None:
    """What was said of this camera's clips from this folder."""
    if not clip.camera_id and not clip.folder:
        return None
    return WaterMemory.objects.filter(camera=clip.camera_id, folder=clip.folder).first()


def water_hints_of(clip: Clip) -> WaterHints:
    """All that is known of a clip's water; what was said of the clip itself comes first."""
    said: dict[str, Any] = {k: clip.water[k] for k in (*NUMBERS, *WORDS, "lamp") if k in clip.water}
    if clip.water.get("depths"):
        said["depths"] = tuple((float(t), float(m)) for t, m in clip.water["depths"])
    wet = clip.water.get("wet")
    if wet is None and (before := memory_of(clip)) is not None:
        wet = before.wet
    try:
        return WaterHints(**{**_planned(clip), **said}, wet=wet)
    except (MorpheError, TypeError):  # what an older Morphe kept
        return WaterHints(wet=wet)


def _planned(clip: Clip) -> dict[str, Any]:
    """What the plan says of the dive that a clip was filmed on."""
    if clip.planned is None:
        return {}
    try:
        asked = Questions.from_json({**clip.planned.plan.answers, **clip.planned.answers})
    except MorpheError:
        return {}
    shot = SHOTS.get(asked.shot)
    if not shot.is_under_water:
        return {}
    return {"planned": True, "water": asked.water, "depth_m": asked.depth_m, "distance_m": asked.distance_m,
            "lamp": asked.lamp}  # fmt: skip
