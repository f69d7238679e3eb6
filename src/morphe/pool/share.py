"""The host's part: pieces of a render put on the board, watched, and made here where nobody takes them."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, field

import redis

from morphe.core.errors import OutputError
from morphe.core.handover.delivery import Order
from morphe.core.handover.pump import Cancelled, Progress
from morphe.core.handover.segments import Segment, one_after_another
from morphe.core.pulse import pulse
from morphe.pool.board import LIVES_S, Board
from morphe.pool.piece import Piece
from morphe.pool.work import take_piece_of

__all__ = ["Sharing"]

LOOK_S = 0.3
HOST = "host"


@dataclass(slots=True)
class Sharing:
    """A maker of segments that shares them with other machines.

    helps : whether this machine renders pieces while it waits; where Redis is gone it does so in any case
    """

    board: Board
    helps: bool = True
    _waits_since: dict[str, float] = field(default_factory=dict)

    def __call__(self, order: Order, segments: Sequence[Segment], progress: Progress) -> None:
        try:
            self._share(order, segments, progress)
        except redis.RedisError:
            one_after_another(order, segments, progress)  # what is done already is kept

    def _share(self, order: Order, segments: Sequence[Segment], progress: Progress) -> None:
        pieces = {p.name(self.board.media): p for p in (Piece(order=order, segment=s) for s in segments)}
        left = {name: p for name, p in pieces.items() if not p.segment.out.exists()}
        self.board.begin(left)
        for piece in left.values():
            self._put(piece)
        total = sum(s.frames for s in segments)
        try:
            while left := {name: p for name, p in left.items() if not p.segment.out.exists()}:
                if problem := self.board.failure(left):
                    raise OutputError(problem)
                done = total - sum(p.segment.frames for p in left.values())
                claimed = self.board.claimed(left)
                self._tell(progress, done + sum(claimed.values()), total)
                free = [name for name in left if name not in claimed]
                self._put_again([left[name] for name in free])
                if self.helps and free:
                    self._help(left[free[-1]], left, done, total, progress)
                else:
                    time.sleep(LOOK_S)
        finally:
            self.board.forget(left, stop=True)
        self._tell(progress, total, total)

    def _put(self, piece: Piece) -> None:
        take_piece_of(self.board)(piece.to_text(self.board.media))
        self._waits_since[piece.name(self.board.media)] = time.monotonic()

    def _put_again(self, free: Sequence[Piece]) -> None:
        """What nobody works on and what no longer waits either was left by a machine that died."""
        now, name_of = time.monotonic(), self.board.media
        late = [p for p in free if now - self._waits_since[p.name(name_of)] > 2 * LIVES_S]
        if late and not self.board.huey.pending_count():
            for piece in late:
                self._put(piece)

    def _help(self, piece: Piece, left: dict[str, Piece], done: int, total: int, progress: Progress) -> None:
        """Make a piece here, the last first, while others take them from the front."""
        name = piece.name(self.board.media)
        if not self.board.claim(name, HOST):
            return

        def told(frames: int, _: int) -> bool:
            self.board.renew(name, HOST, frames)
            others = sum(n for other, n in self.board.claimed(left).items() if other != name)
            gone = sum(p.segment.frames for o, p in left.items() if o != name and p.segment.out.exists())
            return progress(min(done + gone + others + frames, total), total)

        piece.make(told)
        self.board.let_go(name)

    def _tell(self, progress: Progress, done: int, total: int) -> None:
        pulse()
        if not progress(min(done, total), total):
            raise Cancelled("The render was stopped.")
