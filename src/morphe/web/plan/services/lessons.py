"""Lessons per camera: learnt from decided clips, kept, and offered in the next plan."""

from __future__ import annotations

from morphe.core.grade.moments import held
from morphe.core.plan.card import ShootCard
from morphe.core.plan.lessons import learn_exposure
from morphe.core.signal.profiles import PROFILES
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.plan.models import Lesson, PlannedCamera

__all__ = ["learn", "offered"]

MOST_CLIPS = 100  # the latest ones


def learn(clip: Clip) -> None:
    """Look again at what a clip's camera needed, after a decision on one of its clips."""
    if clip.camera_id is None:
        return
    profile = clip.profile.get("name")
    if profile not in PROFILES:  # a curve judged from the clip holds its exposure; plans know built-in ones
        return
    decided = (
        Clip.objects.ready()
        .filter(camera_id=clip.camera_id, version__parent__isnull=False, profile__name=profile)
        .with_grades()
        .select_related("planned")
        .order_by("-pk")[:MOST_CLIPS]
    )
    lesson = learn_exposure(profile, [_wanted_stops(c) for c in decided])
    if lesson is None:
        Lesson.objects.filter(camera_id=clip.camera_id, profile=profile).delete()
        return
    Lesson.objects.update_or_create(
        camera_id=clip.camera_id,
        profile=profile,
        defaults={"stops": lesson.stops, "clips": lesson.clips, "sentence": lesson.sentence},
    )


def _wanted_stops(clip: Clip) -> float:
    """What the clip needed beyond a plan without lessons: its correction, and the lesson planned for it."""
    steps = (layer.step("exposure") for layer in grade_of(clip).layers if layer.region is None and layer.on)
    corrected = sum(held(getattr(step, "stops", 0.0), 0.0) for step in steps if step.on)
    planned = clip.planned.settings.get("lesson_stops", 0.0) if clip.planned else 0.0
    return float(corrected + planned)


def offered(planned: PlannedCamera, card: ShootCard) -> Lesson | None:
    """The lesson for the profile on the card, unless the plan has taken it already."""
    lesson = Lesson.objects.filter(camera=planned.camera, profile=card.plan.best.profile.key).first()
    if lesson is None or abs(lesson.stops - card.plan.questions.lesson_stops) < 0.01:
        return None
    return lesson
