"""Proxies and the light over time, made by the worker after a clip has been read."""

from __future__ import annotations

import logging
import secrets
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.conf import settings
from django.utils import timezone

from morphe.core.errors import MorpheError
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.probe import probe
from morphe.core.footage.proxy import fitting_chroma_gain, make_proxy, without_chroma_gain
from morphe.core.footage.series import sample_clip
from morphe.core.grade import recipe
from morphe.core.grade.convert import Convert
from morphe.core.measure.drift import Drift, find_drift, flicker_of
from morphe.core.signal.profiles import PROFILES
from morphe.web.clips.models import Clip
from morphe.web.clips.services.storage import load_picture
from morphe.web.shell.heartbeat import beating

__all__ = ["drift_of", "follow_light", "prepare_playing"]

logger = logging.getLogger(__name__)


def prepare_playing(clip_id: int) -> None:
    """Make a clip's proxy if it has none, and follow its light; safe to run twice."""
    clip = Clip.objects.ready().filter(pk=clip_id).first()
    if clip is None:
        return
    try:
        with beating(lambda: Clip.objects.filter(pk=clip_id).update(heartbeat=timezone.now())):
            if not clip.proxy:
                _make(clip)
            follow_light(clip)
    except Clip.DoesNotExist:
        logger.info("Clip %s was removed meanwhile", clip_id)
    except (MorpheError, OSError) as error:
        logger.warning("Clip %s has no proxy: %s", clip_id, error)
        Clip.objects.filter(pk=clip_id).update(drift={"failed": True})


def _make(clip: Clip) -> None:
    folder = Path(settings.MEDIA_ROOT) / "proxies"
    folder.mkdir(parents=True, exist_ok=True)
    name = f"{clip.pk}-{secrets.token_hex(4)}.mp4"
    part = folder / f".{name}.part"

    def still_wanted(done: int, total: int) -> bool:
        return Clip.objects.filter(pk=clip.pk).exists()

    try:
        gain = fitting_chroma_gain([load_picture(f.picture.path)[::4, ::4] for f in clip.frames.all()])
        if not make_proxy(probe(clip.path), part, chroma_gain=gain, progress=still_wanted):
            return
        part.replace(folder / name)
    finally:
        part.unlink(missing_ok=True)
    if not Clip.objects.filter(pk=clip.pk, proxy="").update(proxy=f"proxies/{name}", proxy_chroma=gain):
        (folder / name).unlink(missing_ok=True)  # the clip went, or another worker was quicker


def follow_light(clip: Clip) -> None:
    """Find how the light of a clip wandered, through its conversion of now."""
    clip.refresh_from_db(fields=["proxy", "proxy_chroma", "rungs", "profile"])
    if not clip.proxy:
        return
    drift = drift_of(probe(clip.proxy.path), _conversion(clip), _ceiling(clip), clip.proxy_chroma)
    clip.drift = {
        "track": [list(p) for p in drift.track],
        "wanders": drift.wanders,
        "sentences": list(drift.sentences),
        "stops": round(drift.range_stops, 3),
        "mired": round(drift.range_mired, 1),
        "ceiling": _ceiling(clip),
    }
    Clip.objects.filter(pk=clip.pk).update(drift=clip.drift)


def _conversion(clip: Clip) -> Convert:
    for rung in clip.rungs:
        if rung["step"] == "convert":
            step = recipe.step_from_json(rung["proposal"])
            if isinstance(step, Convert):
                return replace(step, wide=False)
    return Convert()


def _ceiling(clip: Clip) -> float:
    """The brightest light that the clip's profile keeps."""
    name = clip.profile.get("name", "")
    return float(PROFILES.get(name).clip) if name in PROFILES else 4.0


def drift_of(info: SignalInfo, convert: Convert, ceiling: float, chroma_gain: float = 1.0) -> Drift:
    """Follow the light of a clip, or of its proxy with the gain that its colour was spread by."""
    samples = sample_clip(info)
    light = [convert.apply(without_chroma_gain(p, chroma_gain)) for p in samples.pictures]
    drift = find_drift(list(samples.times_s), light, ceiling)
    grey: Any = samples.frame_luma[:, None].repeat(3, axis=1).astype("float32")
    stops, hertz = flicker_of(list(samples.frame_times_s), list(convert.apply(grey)[:, 1]))
    return replace(drift, flicker_stops=stops, flicker_hz=hertz)
