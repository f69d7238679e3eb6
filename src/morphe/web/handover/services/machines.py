"""Other machines that render pieces for this one, where there is a board for them."""

from __future__ import annotations

import logging
from pathlib import Path

from django.conf import settings

from morphe.core.handover.segments import SegmentMaker, one_after_another

__all__ = ["connect", "segment_maker"]

logger = logging.getLogger(__name__)
_maker: SegmentMaker | None = None  # of this process


def connect() -> None:
    """Open the connection to the board while that is still allowed; without one, this machine works alone."""
    global _maker
    if not settings.QUEUE_URL:
        return
    import redis

    from morphe.pool.board import Board
    from morphe.pool.share import Sharing

    try:
        board = Board(settings.QUEUE_URL, Path(settings.MEDIA_ROOT), connections=1)
        board.check()
        _maker = Sharing(board)
    except (redis.RedisError, OSError, ValueError) as error:
        logger.warning("The board of MORPHE_QUEUE does not answer (%s): this machine renders alone.", error)


def segment_maker() -> SegmentMaker:
    """Who makes the segments of a render."""
    return _maker or one_after_another
