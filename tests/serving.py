"""Starting a whole Morphe of its own: a free port, and the environment for a home and that port."""

from __future__ import annotations

import os
import socket
from pathlib import Path

__all__ = ["environment_of", "free_port"]


def free_port() -> int:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return int(free.getsockname()[1])


def environment_of(home: Path, port: int) -> dict[str, str]:
    return {
        **os.environ,
        "MORPHE_HOME": str(home),
        "MORPHE_PORT": str(port),
        "DJANGO_SETTINGS_MODULE": "morphe.web.settings.base",
    }
