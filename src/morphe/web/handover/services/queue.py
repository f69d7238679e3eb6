"""Queue hand-overs, and stop them."""

from __future__ import annotations

from django.db import transaction

from morphe.core.grade import recipe
from morphe.core.handover.presets import PRESETS
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades import grade_of
from morphe.web.handover.models import HandOver
from morphe.web.jobs.services.ask import ask, stop

__all__ = ["queue_hand_over", "stop_hand_over"]


def queue_hand_over(clip: Clip, preset: str) -> HandOver:
    """Put a clip with its grade of now into the queue."""
    PRESETS.get(preset)
    with transaction.atomic():
        order = HandOver.objects.create(
            clip=clip, version=clip.version, grade=recipe.to_json(grade_of(clip)), preset=preset
        )
        order.job = ask("hand-over", order.pk, total=int(clip.info.get("frames", 0)))
        order.save(update_fields=["job"])
    return order


def stop_hand_over(order: HandOver) -> None:
    """Stop a render; one that still waits never starts."""
    if order.job is not None:
        stop(order.job)
