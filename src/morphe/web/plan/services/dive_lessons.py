"""What clips filmed under water teach for the next dive: kept by one tap, offered where it would help."""

from __future__ import annotations

from typing import Any

from morphe.core.errors import PlanError
from morphe.core.plan.card import ShootCard
from morphe.core.water.daylight import DepthLight
from morphe.core.water.depth_card import depth_card
from morphe.web.clips.models import Clip
from morphe.web.clips.services.questions.water_hints import water_hints_of
from morphe.web.plan.models import DiveLesson, PlannedCamera

__all__ = ["forget_dive_lesson", "keep_dive_lesson", "lessons_to_plan", "ways_kept"]


def keep_dive_lesson(clip: Clip, way: str) -> DiveLesson:
    """Keep one of the ways to do better that a clip's depth card names, for the camera's next plan."""
    if clip.camera_id is None:
        raise PlanError("Say first which camera filmed this clip; a lesson belongs to a camera.")
    card = depth_card(water_hints_of(clip), clip.info.get("bit_depth", 8))
    better = next((b for b in card.better if b.key == way), None)
    if better is None:
        raise PlanError("That would win nothing here; the depth card has changed meanwhile.")
    return DiveLesson.objects.update_or_create(
        camera_id=clip.camera_id, way=way,
        defaults={"sentence": better.sentence, "answers": better.answers},
    )[0]  # fmt: skip


def forget_dive_lesson(clip: Clip, way: str) -> None:
    """Take back a lesson that was kept."""
    DiveLesson.objects.filter(**_of_camera(clip), way=way).delete()


def _of_camera(clip: Clip) -> dict[str, Any]:
    return {"camera_id": clip.camera_id}


def ways_kept(clip: Clip) -> tuple[str, ...]:
    """The ways that this clip's camera already has a lesson for."""
    return tuple(DiveLesson.objects.filter(**_of_camera(clip)).values_list("way", flat=True))


def lessons_to_plan(planned: PlannedCamera, card: ShootCard) -> list[DiveLesson]:
    """The camera's lessons that its plan does not follow yet; none, unless it films under water."""
    light = card.plan.scene.water
    if light is None:
        return []
    lessons = DiveLesson.objects.filter(camera=planned.camera)
    return [lesson for lesson in lessons if not _is_followed(lesson, light)]


def _is_followed(lesson: DiveLesson, light: DepthLight) -> bool:
    """Whether the plan already goes as near and as shallow, and with a lamp."""
    said = lesson.answers
    return (
        light.has_lamp >= ("lamp" in said)
        and light.depth_m <= float(said.get("depth_m", light.depth_m))
        and light.distance_m <= float(said.get("distance_m", light.distance_m))
    )
