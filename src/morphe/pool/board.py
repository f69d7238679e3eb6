"""The board that machines share: pieces of work in Redis, who has claimed which, and what went wrong.

A claim is a key that lives for some seconds and is renewed by whoever works: a machine that dies gives its
piece back by doing nothing more. What is done lies as a file in the shared folder, whole or not at all.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import redis
from huey import RedisHuey  # type: ignore[import-untyped]
from huey.serializer import SignedSerializer  # type: ignore[import-untyped]

__all__ = ["Board", "secret_of"]

NAME = "morphe-pieces"
LIVES_S = 6  # that a claim lives without being renewed
KEPT_S = 24 * 3600
WAIT_S = 5.0  # for an answer of Redis


def secret_of(media: Path) -> str:
    """What signs pieces of work: made by the host, read by whoever shares its folder."""
    path = media / "queue-secret"
    if not path.exists():
        import secrets

        media.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600, exist_ok=True)
        path.write_text(secrets.token_hex(32))
    return path.read_text().strip()


class Board:
    """One connection to the board.

    Raises
    ------
    redis.RedisError
        From every method, if Redis does not answer.
    """

    def __init__(self, url: str, media: Path, *, connections: int = 8) -> None:
        self.media = media
        pool = redis.ConnectionPool.from_url(
            url, max_connections=connections, socket_timeout=None if connections > 1 else WAIT_S,
            socket_connect_timeout=WAIT_S,
        )  # fmt: skip
        self.huey = RedisHuey(
            NAME, connection_pool=pool, results=False, serializer=SignedSerializer(secret_of(media))
        )
        self._redis: Any = self.huey.storage.conn
        self.task: Any = None  # as this board's queue knows it

    def check(self) -> None:
        """See that Redis answers; afterwards the connection is there, and no other needs to be opened."""
        self._redis.ping()

    def claim(self, piece: str, who: str) -> bool:
        """Take a piece; False if somebody works on it."""
        return bool(self._redis.set(_claim(piece), json.dumps([who, 0]), nx=True, ex=LIVES_S))

    def renew(self, piece: str, who: str, done: int) -> bool:
        """Say that the work goes on; False if it should end."""
        self._redis.set(_claim(piece), json.dumps([who, done]), ex=LIVES_S)
        return not self._redis.exists(_stop(piece))

    def let_go(self, piece: str) -> None:
        self._redis.delete(_claim(piece))

    def claimed(self, pieces: Iterable[str]) -> dict[str, int]:
        """Pieces that somebody works on, with the frames done of each."""
        names = list(pieces)
        found = self._redis.mget([_claim(p) for p in names]) if names else []
        return {p: int(json.loads(value)[1]) for p, value in zip(names, found, strict=True) if value}

    def fail(self, piece: str, sentence: str) -> None:
        self._redis.set(f"{NAME}:wrong:{piece}", sentence, ex=KEPT_S)

    def failure(self, pieces: Iterable[str]) -> str:
        """What went wrong with one of them, or nothing."""
        names = list(pieces)
        found = self._redis.mget([f"{NAME}:wrong:{p}" for p in names]) if names else []
        return next((value.decode() for value in found if value), "")

    def forget(self, pieces: Iterable[str], *, stop: bool) -> None:
        """Take pieces off the board; who still works on one is told to stop."""
        for piece in pieces:
            self._redis.delete(f"{NAME}:wrong:{piece}")
            if stop:
                self._redis.set(_stop(piece), 1, ex=10 * LIVES_S)

    def begin(self, pieces: Iterable[str]) -> None:
        """Nothing of an earlier attempt stands in the way."""
        for piece in pieces:
            self._redis.delete(_stop(piece), f"{NAME}:wrong:{piece}")


def _claim(piece: str) -> str:
    return f"{NAME}:claim:{piece}"


def _stop(piece: str) -> str:
    return f"{NAME}:stop:{piece}"
