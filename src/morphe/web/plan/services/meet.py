"""Set what was filmed against what was planned: find the camera, the card and the take of a clip."""

from __future__ import annotations

from datetime import datetime, timedelta

from django.utils import timezone

from morphe.core.plan.slate import check_against_plan, parse_note
from morphe.web.clips.models import Clip
from morphe.web.jobs.services.run import Run
from morphe.web.plan.models import PlannedCamera, Take
from morphe.web.plan.services.current import questions_of

__all__ = ["meet", "meet_again", "meet_take", "work"]

NEAR = timedelta(minutes=15)  # between the slate and the file's time
SAME_DAY = timedelta(hours=36)  # around noon of the planned day, whatever the camera's clock is set to
SURE = 0.75  # confidence from which the picture's profile counts as known
SPOKEN_TAGS = ("comment", "description", "synopsis", "title")


def meet(clip: Clip) -> None:
    """Link a read clip to its card and take, and keep what differs. The caller saves the clip."""
    _set_against(clip, _card_of(clip))


def _card_of(clip: Clip) -> PlannedCamera | None:
    if not clip.camera_id:
        return None
    cards = PlannedCamera.objects.filter(plan__outing_id=clip.outing_id, camera_id=clip.camera_id)
    return cards.select_related("plan__outing").prefetch_related("takes").first()


def meet_take(clip: Clip) -> None:
    """Link a clip to its card and take alone, before it has been read. The caller saves the clip."""
    planned = _card_of(clip)
    on_the_day = planned is not None and planned.settings and _on_the_day(clip, planned)
    clip.planned = planned if on_the_day else None
    clip.take = _take_of(clip, planned) if planned is not None and on_the_day else None


def meet_again(planned: PlannedCamera) -> None:
    """Link a camera's clips anew, after its takes or settings have changed."""
    fresh = PlannedCamera.objects.select_related("plan__outing").prefetch_related("takes").get(pk=planned.pk)
    clips = Clip.objects.ready().filter(outing_id=fresh.plan.outing_id, camera_id=fresh.camera_id)
    for clip in clips:
        before = (clip.planned_id, clip.take_id, clip.checks)
        _set_against(clip, fresh)
        if before != (clip.planned_id, clip.take_id, clip.checks):
            clip.save(update_fields=["planned", "take", "checks"])


def work(run: Run) -> None:
    """In the worker: set a camera's clips against its changed plan."""
    planned = PlannedCamera.objects.filter(pk=run.subject).first()
    if planned is not None:
        meet_again(planned)


def _set_against(clip: Clip, planned: PlannedCamera | None) -> None:
    clip.planned, clip.take, clip.checks = None, None, []
    if planned is None or not planned.settings or not clip.info or not _on_the_day(clip, planned):
        return
    take = _take_of(clip, planned)
    clip.planned, clip.take = planned, take
    spoken = " ; ".join(str(clip.tags[t]) for t in SPOKEN_TAGS if t in clip.tags)
    checks = check_against_plan(
        planned.settings,
        slate=parse_note(take.note) if take else None,
        tags=parse_note(spoken),
        file={
            "fps": clip.info["fps"],
            "bit_depth": clip.info["bit_depth"],
            "kind": clip.profile.get("kind"),
            "kind_is_sure": clip.profile.get("confidence", 0) >= SURE or clip.profile_choice != "auto",
        },
    )
    clip.checks = [check.as_json() for check in checks]


def _on_the_day(clip: Clip, planned: PlannedCamera) -> bool:
    if clip.filmed_at is None:
        return True
    day, place = planned.plan.outing.date, questions_of(planned).place
    clock = place.clock if place else timezone.get_current_timezone()
    noon = datetime(day.year, day.month, day.day, 12, tzinfo=clock)
    return abs(clip.filmed_at - noon) <= SAME_DAY


def _take_of(clip: Clip, planned: PlannedCamera) -> Take | None:
    """The take slated nearest in time."""
    if clip.filmed_at is None:
        return None
    filmed = clip.filmed_at
    takes = [t for t in planned.takes.all() if abs(t.time - filmed) <= NEAR]
    return min(takes, key=lambda t: abs(t.time - filmed), default=None)
