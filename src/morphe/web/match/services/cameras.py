"""Two cameras of a day: what their matches agree on is kept as a lesson for the camera."""

from __future__ import annotations

from typing import Any

from morphe.core.match.cameras import Apart, apart, lasting
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.match.models import Matching
from morphe.web.plan.models import PairLesson

__all__ = ["learn_pair"]

MOST_CLIPS = 40


def learn_pair(matching: Matching) -> None:
    """Look again at a clip's camera against the camera of its reference, after a match was put on or off."""
    reference = matching.pin.clip
    if reference is None or not _differ(matching.clip, reference):
        return
    pair: dict[str, Any] = {"camera_id": matching.clip.camera_id, "other_id": reference.camera_id}
    found = lasting(_apart(matching.clip, reference))
    if found is None:
        PairLesson.objects.filter(**pair).delete()
        return
    said = found.sentence(str(matching.clip.camera), str(reference.camera))
    numbers = {"mired": found.mired, "stops": found.stops, "clips": found.clips}
    PairLesson.objects.update_or_create(**pair, defaults={**numbers, "sentence": said})


def _differ(clip: Clip, reference: Clip) -> bool:
    return None not in (clip.camera_id, reference.camera_id) and clip.camera_id != reference.camera_id


def _apart(clip: Clip, reference: Clip) -> list[Apart]:
    pair: dict[str, Any] = {"clip__camera": clip.camera_id, "pin__clip__camera": reference.camera_id}
    used = Matching.objects.filter(used=True, **pair).select_related("pin").order_by("-pk")[:MOST_CLIPS]
    clips = Clip.everything.with_grades().in_bulk([pk for m in used for pk in (m.clip_id, m.pin.clip_id)])
    return [apart(grade_of(clips[m.clip_id]), grade_of(clips[m.pin.clip_id])) for m in used]
