"""Motion data: what a camera's sensors wrote beside picture and sound, for steadying a clip later."""

from __future__ import annotations

from enum import StrEnum
from typing import Any

__all__ = ["Motion", "motion_of", "motion_tracks"]

HELD = "bin_data"  # what of it MP4 has a place for
OTHER = ("tmcd",)  # tracks of data that are no motion: timecode


class Motion(StrEnum):
    """Whether there is motion data, and whether a file that is handed over can hold it."""

    NONE = ""
    KEPT = "kept"
    LOST = "lost"


def motion_tracks(container: Any) -> list[Any]:
    """Tracks of motion data that can be copied into MP4."""
    return [s for s in container.streams if s.type == "data" and s.name == HELD]


def motion_of(container: Any) -> Motion:
    """What becomes of a file's motion data when it is handed over."""
    data = [s for s in container.streams if s.type == "data" and _tag(s) not in OTHER]
    if not data:
        return Motion.NONE
    return Motion.KEPT if len(motion_tracks(container)) == len(data) else Motion.LOST


def _tag(stream: Any) -> str:
    try:
        return str(stream.codec_tag)
    except (AttributeError, UnicodeDecodeError):  # a track that names no codec
        return ""
