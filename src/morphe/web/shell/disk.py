"""Room on the disk: work that would run out of it waits, and goes on by itself once there is room."""

from __future__ import annotations

import shutil
from pathlib import Path

from django.conf import settings

__all__ = ["FULL", "has_room"]

FULL = "The disk is full; free some space, and this goes on by itself."


def has_room() -> bool:
    """Whether there is room enough on Morphe's disk to work."""
    root = Path(settings.MEDIA_ROOT)
    root.mkdir(parents=True, exist_ok=True)
    return shutil.disk_usage(root).free >= settings.DISK_SPARE_BYTES
