"""A worker's part: take pieces from the board, make each in a caged process, keep its claim alive."""

from __future__ import annotations

import logging
import multiprocessing
import os
import socket
import threading
from collections.abc import Callable
from multiprocessing.sharedctypes import Synchronized
from pathlib import Path
from typing import Any

from morphe.core.errors import MorpheError
from morphe.core.grade.table import SHELF
from morphe.pool.board import Board
from morphe.pool.piece import from_text, name_of

__all__ = ["serve", "take_piece_of"]

logger = logging.getLogger(__name__)
RENEW_S = 1.0
MEMORY_BYTES = 12 * 2**30
context = multiprocessing.get_context("forkserver")
context.set_forkserver_preload(["morphe.pool.piece"])
_board: Board | None = None  # of this worker


def take_piece(text: str) -> None:
    """Make a piece that was taken from the queue, unless somebody has it or it is there."""
    board = _board
    if board is None:
        raise RuntimeError("A piece is made by `morphe worker` alone.")
    piece = from_text(text, board.media)
    name = name_of(piece, board.media)
    who = f"{socket.gethostname()}-{os.getpid()}-{threading.get_ident()}"
    if piece.out.exists() or not piece.out.parent.is_dir() or not board.claim(name, who):
        return
    try:
        problem = _made_in_child(board, name, who, text)
        if problem:
            board.fail(name, problem)
    finally:
        board.let_go(name)


def take_piece_of(board: Board) -> Callable[[str], object]:
    """The task as the board's queue knows it: calling it puts a piece there."""
    if board.task is None:
        board.task = board.huey.task()(take_piece)
    return board.task  # type: ignore[no-any-return]


def _made_in_child(board: Board, name: str, who: str, text: str) -> str:
    """Make a piece in a process that may neither reach the network nor begin another; what went wrong."""
    mine, other = context.Pipe()
    done: Synchronized[int] = context.Value("i", 0, lock=False)
    process = context.Process(target=_make, args=(other, done, text, str(board.media)), daemon=True)
    process.start()
    other.close()
    while not mine.poll(RENEW_S):
        if not process.is_alive() and not mine.poll(0):
            return "Another machine could not do its part; look at its messages."
        value: Any = done
        if not board.renew(name, who, int(value.value)):
            process.kill()
            return ""
    try:
        return str(mine.recv())
    except EOFError:
        return "Another machine could not do its part; look at its messages."
    finally:
        process.join(5)


def _make(connection: Any, done: Any, text: str, media: str) -> None:
    from morphe.web.jobs.services.cage import enter

    SHELF.folder = Path(media) / "tables"
    enter(MEMORY_BYTES, 0)

    def told(frames: int, total: int) -> bool:
        done.value = frames
        return True

    try:
        from_text(text, Path(media)).make(told)
        connection.send("")
    except MorpheError as error:
        connection.send(str(error))
    except Exception:
        logger.exception("A piece failed")
        connection.send("A part of the work could not be done; nothing was changed. Try again.")


def serve(url: str, media: Path, threads: int) -> None:
    """Take pieces until interrupted."""
    global _board
    _board = Board(url, media, connections=threads + 4)
    _board.check()
    take_piece_of(_board)
    consumer = _board.huey.create_consumer(
        workers=threads, worker_type="thread", periodic=False, initial_delay=0.05, max_delay=0.5,
        check_worker_health=False,
    )  # fmt: skip
    print(f"Taking pieces from the board; files lie in {media}.", flush=True)
    consumer.run()
