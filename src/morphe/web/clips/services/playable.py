"""Proxies and the light over time, made by the worker after a clip has been read."""

from __future__ import annotations

import secrets
from pathlib import Path

from django.conf import settings

from morphe.core.advise.findings import follow_light
from morphe.core.footage.probe import probe
from morphe.core.footage.proxy import fitting_chroma_gain
from morphe.core.handover.pump import Cancelled
from morphe.pool.piece import ProxyPiece
from morphe.web.clips.models import Clip
from morphe.web.clips.services.judged import judge_anew
from morphe.web.clips.services.kept import keep_over_time
from morphe.web.clips.services.storage import load_picture
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
    over_time = follow_light(probe(Path(clip.proxy.path)), clip.proxy_chroma)
    with run.keeping():
        keep_over_time(clip, over_time)
        clip.save(update_fields=["over_time"])
    judge_anew(clip, run.keeping)


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
            if not Clip.objects.filter(pk=clip.pk).update(proxy=f"proxies/{name}", proxy_chroma=gain):
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
