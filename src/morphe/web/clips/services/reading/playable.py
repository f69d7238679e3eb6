"""Proxies and the light over time, made by the worker after a clip has been read."""

from __future__ import annotations

import secrets
from dataclasses import replace
from pathlib import Path

import numpy as np
from django.conf import settings

from morphe.core.advise.findings import follow_light
from morphe.core.footage.probe import probe
from morphe.core.footage.proxy import fitting_chroma_gain
from morphe.core.handover.pump import Cancelled
from morphe.pool.piece import ProxyPiece
from morphe.web.clips.models import Clip
from morphe.web.clips.services.reading.judged import judge_anew
from morphe.web.clips.services.reading.kept import keep_findings, keep_over_time, prepared_pictures
from morphe.web.clips.services.reading.read import seen
from morphe.web.clips.services.reading.storage import load_picture
from morphe.web.jobs.services.machines import made
from morphe.web.jobs.services.run import Lost, Run

__all__ = ["keep_failure", "work"]


def work(run: Run) -> None:
    """Make a clip's proxy if it has none, look through it for its light, and judge the clip with that."""
    clip = Clip.objects.ready().select_related("outing", "camera").filter(pk=run.subject).first()
    if clip is None:
        return
    if not clip.proxy:
        _make(run, clip)
    if clip.whole_id is not None and clip.over_time:  # that of its file was followed
        return
    over_time = follow_light(probe(Path(clip.proxy.path)), clip.proxy_chroma)
    with run.keeping():
        keep_over_time(clip, over_time)
        clip.cuts = {**clip.cuts, "found": over_time.shots.as_json()} if over_time.shots else clip.cuts
        clip.save(update_fields=["over_time", "cuts"])
    _look_elsewhere(run, clip)
    judge_anew(clip, run.keeping)


def _look_elsewhere(run: Run, clip: Clip) -> None:
    """Choose judging frames anew where some lie in a fade, a dissolve, or under a cover."""
    shots = clip.shots_now
    times = np.array(clip.frames.values_list("time_s", flat=True))
    if shots is None or clip.whole_id is not None or shots.whole.serves(times).all():
        return
    info = replace(probe(clip.path), shot=shots.whole)
    findings = seen(run, clip, info)
    pictures = prepared_pictures(findings)
    with run.keeping():
        keep_findings(clip, findings, pictures)
        clip.save(update_fields=["info", "readings", "findings", "outside_nominal"])


def _make(run: Run, clip: Clip) -> None:
    folder = Path(settings.MEDIA_ROOT) / "proxies"
    folder.mkdir(parents=True, exist_ok=True)
    name = f"{clip.pk}-{secrets.token_hex(4)}.mp4"
    part = folder / f".{name}.part"
    try:
        gain = fitting_chroma_gain([load_picture(f.picture.path)[::4, ::4] for f in clip.frames.all()])
        made(ProxyPiece(info=probe(clip.path), chroma_gain=gain, out=part), run.progress)
        with run.keeping():
            part.replace(folder / name)
            sharing = Clip.everything.filter(file=clip.file.name)  # the shots of a file play from one proxy
            if not sharing.update(proxy=f"proxies/{name}", proxy_chroma=gain):
                (folder / name).unlink()
                raise Lost
    except Cancelled as stopped:
        raise Lost from stopped
    finally:
        part.unlink(missing_ok=True)
    clip.refresh_from_db(fields=["proxy", "proxy_chroma"])


def keep_failure(clip_id: int, sentence: str) -> None:
    """A clip without a proxy can be corrected and delivered all the same."""
    Clip.objects.filter(pk=clip_id, over_time="").update(drift={"failed": True})
