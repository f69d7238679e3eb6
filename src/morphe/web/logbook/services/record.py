"""Write an entry into the logbook."""

from typing import Any

from morphe.web.clips.models import Clip
from morphe.web.logbook.models import LogEntry

__all__ = ["record"]


def record(clip: Clip, kind: str, sentence: str, **numbers: Any) -> LogEntry:
    """Keep one thing that was done to a clip, with its numbers."""
    return LogEntry.objects.create(
        outing_id=clip.outing_id,
        clip=clip,
        clip_title=clip.title,
        kind=kind,
        sentence=sentence[:400],
        numbers=numbers,
    )
