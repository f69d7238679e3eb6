"""What is known of a clip's water beforehand: a person's word, what was said of its like, and the plan."""

from __future__ import annotations

from typing import Any

from morphe.core.errors import MorpheError
from morphe.core.plan.questions import Questions
from morphe.core.plan.shots import SHOTS
from morphe.core.water.hints import WaterHints
from morphe.web.clips.models import Clip
from morphe.web.clips.services.questions.said import WATER, remembered

__all__ = ["water_hints_of"]

NUMBERS = ("depth_m", "distance_m")
WORDS = ("water", "filter")


def water_hints_of(clip: Clip) -> WaterHints:
    """All that is known of a clip's water; what was said of the clip itself comes first."""
    said: dict[str, Any] = {k: clip.water[k] for k in (*NUMBERS, *WORDS, "lamp") if k in clip.water}
    if clip.water.get("depths"):
        said["depths"] = tuple((float(t), float(m)) for t, m in clip.water["depths"])
    wet = clip.water.get("wet")
    if wet is None and (before := remembered(clip, WATER)) is not None:
        wet = before.key == "wet"
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
