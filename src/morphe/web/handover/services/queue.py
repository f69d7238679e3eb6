"""Queue hand-overs, stop them, and pick up those that a dead worker left."""

from __future__ import annotations

import logging
from datetime import datetime, timedelta

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from morphe.core.handover.presets import PRESETS
from morphe.web.clips.models import CardImport, Clip
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
    import_ids = _rescue_imports(queued, old)
    _rescue_proxies(queued, old)
    if job_ids or clip_ids or import_ids:
        logger.info("Took up %s renders, %s clips, %s cards", len(job_ids), len(clip_ids), len(import_ids))
    return len(job_ids) + len(clip_ids) + len(import_ids)


Queued = set[tuple[str, tuple[int, ...]]]


def _rescue_imports(queued: Queued, old: datetime) -> list[int]:
    """Cards whose copying stopped; each goes on after the last clip that is here."""
    from morphe.web.clips.tasks import card_import_task

    states = (CardImport.State.RUNNING, CardImport.State.WAITING)
    left = CardImport.objects.filter(state__in=states, heartbeat__lt=old).values_list("pk", flat=True)
    ids = [pk for pk in left if ("card_import_task", (pk,)) not in queued]
    CardImport.objects.filter(pk__in=ids).update(state=CardImport.State.WAITING, heartbeat=timezone.now())
    for job_id in ids:
        card_import_task(job_id)
    return ids


def _rescue_proxies(queued: Queued, old: datetime) -> None:
    """Clips that were read but cannot be played yet, and that nobody is preparing."""
    from morphe.web.clips.tasks import prepare_playing_task

    left = Clip.objects.preparing().filter(heartbeat__lt=old).values_list("pk", flat=True)
    ids = [pk for pk in left if ("prepare_playing_task", (pk,)) not in queued]
    Clip.objects.filter(pk__in=ids).update(heartbeat=timezone.now())
    for clip_id in ids:
        prepare_playing_task(clip_id)
