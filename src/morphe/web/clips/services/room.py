"""Storage: what Morphe uses, for what, and what is left."""

from __future__ import annotations

import shutil
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from time import monotonic

from django.conf import settings
from django.db.models import Sum

from morphe.web.clips.models import Clip
from morphe.web.clips.services.storage import sized_for_web

__all__ = ["Room", "room"]

FRESH_S = 15.0  # the folders are not walked more often


@dataclass(frozen=True, slots=True, kw_only=True)
class Room:
    """Bytes of clips, of what was made from them, and free on the disk."""

    clips: int
    made: int
    free: int

    @property
    def sentence(self) -> str:
        return (
            f"Clips use {sized_for_web(self.clips)}, what is made from them {sized_for_web(self.made)}; "
            f"{sized_for_web(self.free)} are left."
        )

    @property
    def used_pct(self) -> float:
        return 100 * (self.clips + self.made) / max(self.clips + self.made + self.free, 1)


def room() -> Room:
    """Look at the storage."""
    clips = Clip.everything.filter(whole=None).aggregate(total=Sum("size_bytes"))["total"] or 0
    root = Path(settings.MEDIA_ROOT)
    root.mkdir(parents=True, exist_ok=True)
    whole = _walked(str(root), int(monotonic() / FRESH_S))
    return Room(clips=clips, made=max(whole - clips, 0), free=shutil.disk_usage(root).free)


@lru_cache(maxsize=2)
def _walked(root: str, moment: int) -> int:
    return sum(p.stat().st_size for p in Path(root).rglob("*") if p.is_file())
