"""`morphe worker`: render pieces for a Morphe on another machine."""

from __future__ import annotations

import argparse
import os
from pathlib import Path
from typing import Any

from morphe.core.errors import MorpheError

__all__ = ["worker"]

MOST = 64


def worker(args: argparse.Namespace) -> dict[str, Any]:
    """Take pieces until interrupted.

    Raises
    ------
    MorpheError
        If it is not said where the board and the shared folder are, or they are not there.
    """
    import redis

    from morphe.pool.work import serve

    url, media = os.environ.get("MORPHE_QUEUE", ""), os.environ.get("MORPHE_MEDIA", "")
    if not url or not media:
        raise MorpheError("Set MORPHE_QUEUE=redis://… and MORPHE_MEDIA, the folder that is shared.")
    if not 1 <= args.threads <= MOST:
        raise MorpheError(f"--threads lies between 1 and {MOST}.")
    folder = Path(media).resolve()
    if not (folder / "queue-secret").is_file():
        raise MorpheError(
            f"{folder} is no folder of a Morphe that shares its work; mount it, and start that first."
        )
    try:
        serve(url, folder, args.threads)
    except redis.RedisError as error:
        raise MorpheError(f"Redis at {url} does not answer; start it, or mend MORPHE_QUEUE.") from error
    except ValueError as error:
        raise MorpheError(f"MORPHE_QUEUE={url} is no address; write it as redis://host:6379/0.") from error
    return {"ended": True}
