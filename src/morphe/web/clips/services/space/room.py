"""Storage: what the clips use, and what is left."""

from __future__ import annotations

import shutil
from pathlib import Path

from django.conf import settings
from django.db.models import Sum

from morphe.web.clips.models import Clip
from morphe.web.clips.services.reading.storage import sized_for_web

__all__ = ["room"]


def room() -> str:
    """What clips use and what is left on the disk, in a sentence."""
    clips = Clip.everything.filter(whole=None).aggregate(total=Sum("size_bytes"))["total"] or 0
    root = Path(settings.MEDIA_ROOT)
    root.mkdir(parents=True, exist_ok=True)
    free = shutil.disk_usage(root).free
    return f"Clips use {sized_for_web(clips)}; {sized_for_web(free)} are left."
