"""Carry out one hand-over in the worker; safe to run twice, and to be killed in the middle."""

from __future__ import annotations

import logging
import secrets
import time
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from morphe.core.errors import MorpheError
from morphe.core.footage.probe import probe
from morphe.core.grade import recipe
from morphe.core.handover.output import write_text
from morphe.core.handover.render import Cancelled, Rendered, render
from morphe.core.interchange.cube import cube_of, cube_text
from morphe.web.handover.models import HandOver
from morphe.web.logbook.services.record import record
from morphe.web.shell.heartbeat import beating

__all__ = ["run_hand_over"]

logger = logging.getLogger(__name__)


def run_hand_over(hand_over_id: int) -> None:
    """Render a waiting hand-over and offer its files when whole."""
    claim = secrets.token_hex(8)
    claimed = HandOver.objects.filter(pk=hand_over_id, state=HandOver.State.WAITING).update(
        state=HandOver.State.RUNNING, claim=claim, heartbeat=timezone.now(), frames_done=0
    )
    if not claimed:
        return
    job = HandOver.objects.select_related("clip").get(pk=hand_over_id)
    alive = HandOver.objects.filter(pk=hand_over_id, claim=claim, state=HandOver.State.RUNNING)
    try:
        with beating(lambda: alive.update(heartbeat=timezone.now())):
            _deliver(job, claim)
    except Cancelled:
        _finish(job, claim, state=HandOver.State.CANCELLED)
    except MorpheError as error:
        _fail(job, claim, str(error).replace(job.clip.path.name, job.clip.title))
    except Exception:
        logger.exception("Hand-over %s failed", hand_over_id)
        _fail(job, claim, f"{job.clip.title} could not be rendered; nothing was changed. Try again.")


def _deliver(job: HandOver, claim: str) -> None:
    folder = Path(settings.MEDIA_ROOT) / "results"
    folder.mkdir(parents=True, exist_ok=True)
    stem = f"{Path(job.clip.title).stem}-{job.pk}"
    grade = recipe.from_json(job.grade)
    last = 0.0

    def progress(done: int, total: int) -> bool:
        nonlocal last
        now = time.monotonic()
        if now - last < 0.5:
            return True
        last = now
        row = HandOver.objects.filter(pk=job.pk, claim=claim, state=HandOver.State.RUNNING)
        row.update(frames_done=done, frames_total=total)
        # Gone or claimed by somebody else means that this run no longer counts.
        return bool(row.filter(stop_wanted=False).exists())

    done = render(probe(job.clip.path), grade, folder / f"{stem}.mp4", preset=job.preset, progress=progress)
    lut = cube_of(grade, outside_nominal=job.clip.outside_nominal)
    write_text(folder / f"{stem}.cube", cube_text(lut, title=Path(job.clip.title).stem))
    write_text(folder / f"{stem}.json", recipe.to_text(grade))
    _finish(
        job,
        claim,
        state=HandOver.State.DONE,
        result=f"results/{stem}.mp4",
        cube=f"results/{stem}.cube",
        recipe=f"results/{stem}.json",
        frames_done=done.frames,
        frames_total=done.frames,
        seconds=round(done.seconds, 2),
    )
    _log_delivery(job, done)


def _log_delivery(job: HandOver, done: Rendered) -> None:
    size = done.out.stat().st_size
    record(
        job.clip,
        "handed-over",
        f"Handed over {done.out.name}: {done.frames} frames in {done.seconds:.1f} s ({done.fps:.0f} fps), "
        f"{size / 1e6:.1f} MB.",
        frames=done.frames,
        seconds=round(done.seconds, 2),
        bytes=size,
        preset=job.preset,
        grade=job.grade,
    )


def _finish(job: HandOver, claim: str, **fields: object) -> None:
    HandOver.objects.filter(pk=job.pk, claim=claim, state=HandOver.State.RUNNING).update(
        heartbeat=timezone.now(), **fields
    )


def _fail(job: HandOver, claim: str, sentence: str) -> None:
    _finish(job, claim, state=HandOver.State.FAILED, problem=sentence)
    record(job.clip, "failed", sentence, preset=job.preset)
