"""Proxies thrown away for room: each comes back when its clip is opened."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings

from morphe.web.clips.models import Clip

__all__ = ["size_of_proxies", "throw_proxies_away"]


def size_of_proxies() -> int:
    """Bytes of all that is kept only for playing."""
    return sum(path.stat().st_size for path in (Path(settings.MEDIA_ROOT) / "proxies").glob("*.mp4"))


def throw_proxies_away() -> int:
    """Delete the proxies of clips whose light has been followed; how many there were."""
    clips = Clip.everything.ready().filter(whole=None).exclude(proxy="").exclude(over_time="")
    for clip in clips:
        Clip.everything.filter(file=clip.file.name).update(proxy="")
        clip.proxy.delete(save=False)
    return len(clips)
