"""Queue hand-overs, stop them, and pick up those that a dead worker left."""

from __future__ import annotations

import logging
from datetime import timedelta

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from morphe.core.handover.presets import PRESETS
from morphe.web.clips.models import Clip
from morphe.web.handover.models import HandOver

__all__ = ["queue_hand_over", "rescue", "stop_hand_over"]

logger = logging.getLogger(__name__)


def queue_hand_over(clip: Clip, preset: str) -> HandOver:
    """Put a clip with its grade of now into the queue."""
    PRESETS.get(preset)
    with transaction.atomic():
        job = HandOver.objects.create(
            clip=clip,
            version=clip.version,
            grade=clip.version.grade,
            preset=preset,
            frames_total=int(clip.info.get("frames", 0)),
        )
        transaction.on_commit(lambda: _enqueue(job.pk))
    return job


def _enqueue(job_id: int) -> None:
    from morphe.web.handover.tasks import hand_over_task

    hand_over_task(job_id)


def stop_hand_over(job: HandOver) -> None:
    """Stop a render; one that still waits never starts."""
    waiting = HandOver.objects.filter(pk=job.pk, state=HandOver.State.WAITING)
    if not waiting.update(state=HandOver.State.CANCELLED):
        HandOver.objects.filter(pk=job.pk).update(stop_wanted=True)


def rescue() -> int:
    """Give work whose worker died back to the queue; the number of rows taken up.

    The queue forgets a task whose worker was killed outright, so the rows are the truth: a heartbeat
    that stopped means nobody works on it. Tasks claim their row first, so a second copy does no harm.
    """
    from huey.contrib.djhuey import HUEY

    # Both kinds of task must be known here before the queue can be read.
    from morphe.web.clips.tasks import read_clip_task
    from morphe.web.handover.tasks import hand_over_task

    queued = {(task.name, task.args) for task in HUEY.pending()}
    old = timezone.now() - timedelta(seconds=settings.JOB_STALE_S)
    jobs = HandOver.objects.filter(
        state__in=(HandOver.State.RUNNING, HandOver.State.WAITING), heartbeat__lt=old
    )
    job_ids = [pk for pk in jobs.values_list("pk", flat=True) if ("hand_over_task", (pk,)) not in queued]
    HandOver.objects.filter(pk__in=job_ids).update(
        state=HandOver.State.WAITING, claim="", heartbeat=timezone.now()
    )
    for job_id in job_ids:
        hand_over_task(job_id)
    clips = Clip.objects.filter(state__in=(Clip.State.READING, Clip.State.WAITING), heartbeat__lt=old)
    clip_ids = [pk for pk in clips.values_list("pk", flat=True) if ("read_clip_task", (pk,)) not in queued]
    Clip.objects.filter(pk__in=clip_ids).update(state=Clip.State.WAITING, heartbeat=timezone.now())
    for clip_id in clip_ids:
        read_clip_task(clip_id)
    if job_ids or clip_ids:
        logger.info("Took up %s renders and %s clips again", len(job_ids), len(clip_ids))
    return len(job_ids) + len(clip_ids)
