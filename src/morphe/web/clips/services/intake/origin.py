"""Where a clip comes from: which camera it was, and when, by what the file says and its name."""

from __future__ import annotations

import re
from collections.abc import Mapping
from datetime import datetime

from morphe.web.clips.models import Clip
from morphe.web.clips.signals import origin_found
from morphe.web.outings.models import Camera

__all__ = ["filmed_at", "keep_origin", "recognised_camera"]

MOST_TAGS = 60
SHORT = 3  # letters; shorter words occur in any text


def filmed_at(tags: Mapping[str, str]) -> datetime | None:
    """The time of filming that the file's tags give."""
    try:
        found = datetime.fromisoformat(tags.get("creation_time", ""))
    except ValueError:
        return None
    return found if found.tzinfo else None


def recognised_camera(title: str, tags: Mapping[str, str]) -> Camera | None:
    """The camera whose name, or whose words for recognising it, stand in file name or tags.

    Of several the one with the longest word; none where two have equally long ones.
    """
    heap = " ".join([title, *tags.values()]).lower()
    found: list[tuple[int, Camera]] = []
    for camera in Camera.objects.all():
        words = [camera.name, *str(camera.kit.get("recognise", "")).split(",")]
        found += [(len(word), camera) for word in map(_plain, words) if word and _stands_in(word, heap)]
    longest = max((length for length, _ in found), default=0)
    cameras = {camera.pk: camera for length, camera in found if length == longest}
    return next(iter(cameras.values())) if len(cameras) == 1 else None


def _plain(word: str) -> str:
    return " ".join(word.lower().split())


def _stands_in(word: str, heap: str) -> bool:
    """Whether a word stands in lower-case text by itself; a short one only as its beginning.

    Letters end where figures or signs begin: `fern0012` and `fern_2` have the word `fern`, `ferns` has not.
    """
    before, after = (_no_more(end) for end in (word[0], word[-1]))
    pattern = rf"(?<!{before}){re.escape(word)}(?!{after})"
    return bool(re.match(pattern, heap) if len(word) < SHORT else re.search(pattern, heap))


def _no_more(end: str) -> str:
    return r"[^\W\d_]" if end.isalpha() else r"\d" if end.isdigit() else r"(?!)"


def keep_origin(clip: Clip, metadata: Mapping[str, str]) -> None:
    """Which camera it was, and when: what the file says, else what its name and its time on the card say.

    The caller saves the clip.
    """
    clip.tags = {str(k)[:40]: str(v)[:200] for k, v in list(metadata.items())[:MOST_TAGS]}
    clip.filmed_at = filmed_at(metadata) or clip.filmed_at
    clip.camera = clip.camera or recognised_camera(clip.title, clip.tags)
    origin_found.send(Clip, clip=clip)
