"""Long work on clips: reading, copying from cards, preparing for playing, judging anew."""

from __future__ import annotations

from collections.abc import Iterable

from morphe.core.advise.judge import VERSION
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades import decide
from morphe.web.clips.services.intake import card, uploads
from morphe.web.clips.services.reading import judged, playable, read
from morphe.web.clips.services.wall import stands
from morphe.web.jobs.kinds import KINDS, Kind

__all__ = ["register"]


def _unread() -> Iterable[int]:
    return Clip.objects.filter(state__in=(Clip.State.WAITING, Clip.State.READING)).values_list(
        "pk", flat=True
    )


def _unprepared() -> Iterable[int]:
    return Clip.objects.preparing().values_list("pk", flat=True)


def _outdated() -> Iterable[int]:
    return Clip.objects.ready().filter(advice_version__lt=VERSION).values_list("pk", flat=True)


def register() -> None:
    """File all kinds; called once, when the app is ready."""
    if "read" in KINDS:
        return
    for kind in (
        Kind(
            key="read", work=read.work, failed=read.keep_failure, owed=_unread, priority=10,
            sentence="The clip could not be read; export it as H.264 and try again.",
        ),
        Kind(
            key=uploads.KIND, work=uploads.work, owed=uploads.whole_ones, priority=9, patience=4,
            sentence="The clip has arrived and could not be kept; look at the disk and bring it in again.",
        ),
        Kind(key="judge", work=judged.work, owed=_outdated, priority=5),
        Kind(key="sort", work=judged.sort_work, priority=5),
        Kind(
            key="decide", work=decide.work, priority=8,
            sentence="The clips could not be decided together; decide them one by one on the Bench.",
        ),
        Kind(key="stand", work=stands.work, priority=4),
        Kind(
            key="import", work=card.work, patience=4,  # a disk may have to start first
            sentence="The card could not be copied; check it and try again.",
        ),
        Kind(
            key="play", work=playable.work, failed=playable.keep_failure, owed=_unprepared, priority=-1,
            sentence="The clip could not be prepared for playing.",
        ),
    ):  # fmt: skip
        KINDS.register(kind.key)(kind)
