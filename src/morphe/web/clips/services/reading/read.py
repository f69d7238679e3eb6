"""Read a clip in the worker: decode it once, keep what was found, and judge it."""

from __future__ import annotations

import secrets
from dataclasses import replace
from pathlib import Path

from django.conf import settings

from morphe.core.advise.findings import Findings
from morphe.core.advise.outing.found import from_bytes
from morphe.core.errors import MorpheError
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.probe import probe
from morphe.core.handover.pump import Cancelled
from morphe.pool.piece import LookPiece
from morphe.web.clips.models import Clip
from morphe.web.clips.services.intake.origin import keep_origin
from morphe.web.clips.services.reading.judged import ADVISED, judge_findings, keep_advice, start_grade
from morphe.web.clips.services.reading.kept import keep_findings, over_time_of, prepared_pictures
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.machines import made
from morphe.web.jobs.services.run import Lost, Run
from morphe.web.shell.notes import note

__all__ = ["keep_failure", "seen", "work"]

FOUND = (
    "state", "problem", "info", "readings", "findings", "outside_nominal", "tags", "filmed_at", "camera",
    *ADVISED,
)  # fmt: skip


def work(run: Run) -> None:
    """Read a clip that waits; the first reader to end keeps what it found."""
    clip = Clip.objects.select_related("outing", "camera").filter(pk=run.subject).first()
    if clip is None or not (clip.is_busy or clip.is_stale):
        return
    with run.keeping():
        Clip.objects.filter(pk=clip.pk, state=Clip.State.WAITING).update(state=Clip.State.READING)
    try:
        info = replace(probe(clip.path), shot=clip.shot)
        clip.info = info.record()
        if clip.whole_id is None:  # a shot has its origin from its file
            keep_origin(clip, info.metadata)
        findings = replace(seen(run, clip, info), over_time=over_time_of(clip))
    except MorpheError as error:
        raise MorpheError(str(error).replace(clip.path.name, clip.title)) from error
    report = judge_findings(clip, findings)
    pictures = prepared_pictures(findings)
    with run.keeping():
        if not Clip.objects.filter(pk=clip.pk).exists():
            raise Lost  # it was removed while it was being read
        keep_findings(clip, findings, pictures)
        keep_advice(clip, report)
        clip.state, clip.problem = Clip.State.READY, ""
        clip.save(update_fields=FOUND)
        start_grade(clip)
        _note(clip)
        if not clip.over_time:
            ask("play", clip.pk)
        ask("stand", clip.outing_id)
        busy = (Clip.State.WAITING, Clip.State.READING)
        if not clip.outing.clips.filter(state__in=busy).exists():
            ask("sort", clip.outing_id)  # the last one: together they tell more, and are grouped


def seen(run: Run, clip: Clip, info: SignalInfo) -> Findings:
    """Look at a clip, or a shot of it, here or on another machine."""
    folder = Path(settings.MEDIA_ROOT) / "seen"
    folder.mkdir(parents=True, exist_ok=True)
    out = folder / f".{clip.pk}-{secrets.token_hex(4)}.part"  # gone again in a moment, or swept
    try:
        return from_bytes(made(LookPiece(info=info, out=out), run.progress).read_bytes(), clip.path)
    except Cancelled as stopped:
        run.check()
        raise Lost from stopped
    finally:
        out.unlink(missing_ok=True)


def _note(clip: Clip) -> None:
    info, profile = clip.signal, clip.profile
    width, height = info.upright_size
    note(
        clip,
        "brought-in",
        f"Brought in {clip.title}: {width}×{height}, {float(info.fps):g} fps, {info.bit_depth}-bit, "
        f"{profile['kind']} ({profile['confidence']:.0%} sure).",
        profile=profile,
        readings=clip.readings,
    )


def keep_failure(clip_id: int, sentence: str) -> None:
    """A clip that cannot be read says why."""
    clip = Clip.objects.filter(pk=clip_id).first()
    if clip is None or not clip.is_busy:
        return
    clip.state, clip.problem = Clip.State.FAILED, sentence
    clip.save(update_fields=["state", "problem"])
    note(clip, "failed", sentence)
