"""The host's part: pieces of work put on the board, watched, and made here where nobody takes them."""

from __future__ import annotations

import time
from collections.abc import Sequence
from contextlib import nullcontext
from dataclasses import dataclass, field

import redis

from morphe.core.errors import OutputError
from morphe.core.handover.pump import Cancelled, Progress
from morphe.core.handover.segments import Segment
from morphe.core.pulse import pulse
from morphe.pool.board import LIVES_S, Board
from morphe.pool.piece import Piece, RenderPiece, name_of, to_text
from morphe.pool.places import Place
from morphe.pool.work import take_piece_of

__all__ = ["Sharing", "always"]

LOOK_S = 0.3
HOST = "host"


def always() -> nullcontext[bool]:
    """A host that may make a piece itself whenever it waits."""
    return nullcontext(True)


@dataclass(slots=True)
class Sharing:
    """A maker of pieces that shares them with other machines.

    place : whether this machine may make a piece while it waits; where Redis is gone it does so in any case
    """

    board: Board
    place: Place = always
    _waits_since: dict[str, float] = field(default_factory=dict)

    def __call__(self, segments: Sequence[Segment], progress: Progress) -> None:
        """Make the segments of a render (a `SegmentMaker`)."""
        self.share([RenderPiece(segment=s) for s in segments], progress)

    def share(self, pieces: Sequence[Piece], progress: Progress) -> None:
        """Have pieces made by whoever is free.

        Raises
        ------
        MorpheError
            With the sentence of a piece that could not be made, or if `progress` asked to stop.
        """
        try:
            self._share({self._name(p): p for p in pieces}, progress)
        except redis.RedisError:
            _one_after_another(pieces, progress)  # what is done already is kept

    def _share(self, pieces: dict[str, Piece], progress: Progress) -> None:
        left = {name: p for name, p in pieces.items() if not p.out.exists()}
        self.board.begin(left)
        for piece in left.values():
            self._put(piece)
        total = sum(p.frames for p in pieces.values())
        try:
            while left := {name: p for name, p in left.items() if not p.out.exists()}:
                if problem := self.board.failure(left):
                    raise OutputError(problem)
                done = total - sum(p.frames for p in left.values())
                claimed = self.board.claimed(left)
                _tell(progress, done + sum(claimed.values()), total)
                free = [name for name in left if name not in claimed]
                self._put_again([left[name] for name in free])
                if not (free and self._helped(left[free[-1]], left, done, total, progress)):
                    time.sleep(LOOK_S)
        finally:
            self.board.forget(left, stop=True)
        _tell(progress, total, total)

    def _name(self, piece: Piece) -> str:
        return name_of(piece, self.board.media)

    def _put(self, piece: Piece) -> None:
        take_piece_of(self.board)(to_text(piece, self.board.media))
        self._waits_since[self._name(piece)] = time.monotonic()

    def _put_again(self, free: Sequence[Piece]) -> None:
        """What nobody works on and what no longer waits either was left by a machine that died."""
        now = time.monotonic()
        late = [p for p in free if now - self._waits_since[self._name(p)] > 2 * LIVES_S]
        if late and not self.board.huey.pending_count():
            for piece in late:
                self._put(piece)

    def _helped(
        self, piece: Piece, left: dict[str, Piece], done: int, total: int, progress: Progress
    ) -> bool:
        """Make a piece here, the last first, while others take them from the front; False if it was not."""
        name = self._name(piece)
        with self.place() as mine:
            if not mine or not self.board.claim(name, HOST):
                return False

            def told(frames: int, _: int) -> bool:
                self.board.renew(name, HOST, frames)
                others = sum(n for other, n in self.board.claimed(left).items() if other != name)
                gone = sum(p.frames for o, p in left.items() if o != name and p.out.exists())
                return progress(min(done + gone + others + frames, total), total)

            piece.make(told)
            self.board.let_go(name)
        return True


def _one_after_another(pieces: Sequence[Piece], progress: Progress) -> None:
    total, before = sum(p.frames for p in pieces), 0
    for piece in pieces:

        def told(done: int, _: int, before: int = before) -> bool:
            return progress(before + done, total)

        if not piece.out.exists():
            piece.make(told)
        before += piece.frames


def _tell(progress: Progress, done: int, total: int) -> None:
    pulse()
    if not progress(min(done, total), total):
        raise Cancelled("The work was stopped.")
