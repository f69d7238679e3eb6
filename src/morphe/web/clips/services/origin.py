"""Where a clip comes from: which camera it was, and when, by what the file says and its name."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from morphe.web.clips.models import Clip
from morphe.web.clips.signals import origin_found
from morphe.web.outings.models import Camera

__all__ = ["filmed_at", "keep_origin", "recognised_camera"]

MOST_TAGS = 60


def filmed_at(tags: Mapping[str, str]) -> datetime | None:
    """The time of filming that the file's tags give."""
    try:
        found = datetime.fromisoformat(tags.get("creation_time", ""))
    except ValueError:
        return None
    return found if found.tzinfo else None


def recognised_camera(title: str, tags: Mapping[str, str]) -> Camera | None:
    """The camera whose name, or whose words for recognising it, stand in file name or tags."""
    heap = " ".join([title, *tags.values()]).lower()
    for camera in Camera.objects.all():
        words = [camera.name, *str(camera.kit.get("recognise", "")).split(",")]
        if any(word.strip().lower() in heap for word in words if word.strip()):
            return camera
    return None


def keep_origin(clip: Clip, metadata: Mapping[str, str]) -> None:
    """Which camera it was, and when: what the file says, else what its name and its time on the card say.

    The caller saves the clip.
    """
    clip.tags = {str(k)[:40]: str(v)[:200] for k, v in list(metadata.items())[:MOST_TAGS]}
    clip.filmed_at = filmed_at(metadata) or clip.filmed_at
    clip.camera = clip.camera or recognised_camera(clip.title, clip.tags)
    origin_found.send(Clip, clip=clip)
