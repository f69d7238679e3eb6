"""Other machines that do pieces of this one's work, where there is a board for them."""

from __future__ import annotations

import logging
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from django.conf import settings

from morphe.core.handover.segments import SegmentMaker, one_after_another

if TYPE_CHECKING:
    from morphe.pool.piece import Piece
    from morphe.pool.share import Sharing

__all__ = ["connect", "made", "segment_maker"]

logger = logging.getLogger(__name__)
_sharing: Sharing | None = None  # of this process


def connect() -> None:
    """Open the connection to the board while that is still allowed; without one, this machine works alone."""
    global _sharing
    if not settings.QUEUE_URL:
        return
    import redis

    from morphe.pool.board import Board
    from morphe.pool.places import one_of
    from morphe.pool.share import Sharing

    try:
        board = Board(settings.QUEUE_URL, Path(settings.MEDIA_ROOT), connections=1)
        board.check()
        _sharing = Sharing(board, one_of(settings.HOME / "places", settings.JOBS_HERE))
    except (redis.RedisError, OSError, ValueError) as error:
        logger.warning("The board of MORPHE_QUEUE does not answer (%s): this machine works alone.", error)


def segment_maker() -> SegmentMaker:
    """Who makes the segments of a render."""
    return _sharing or one_after_another


def made(piece: Piece, progress: Callable[[int, int], bool]) -> Path:
    """Have one piece made, by whoever is free; where its file lies.

    Raises
    ------
    MorpheError
        With one sentence, if it cannot be made or `progress` asked to stop.
    """
    if _sharing is None:
        piece.make(progress)
    else:
        _sharing.share([piece], progress)
    return piece.out
