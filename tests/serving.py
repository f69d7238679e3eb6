"""Starting a whole Morphe of its own, as a person starts it."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

__all__ = ["environment_of", "free_port", "served"]


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


BEGIN = """
import django, sys
from datetime import date
django.setup()
from django.core.management import call_command
from morphe.web.outings.models import Outing
call_command("migrate", verbosity=0)
Outing.objects.create(name=sys.argv[1], date=date(2026, 9, 12))
"""


@contextmanager
def served(home: Path, outing: str = "") -> Iterator[str]:
    """A Morphe with server, worker and rescue, and the demo or an empty outing of that name; its address."""
    port = free_port()
    environment = environment_of(home, port)
    if outing:
        subprocess.run([sys.executable, "-c", BEGIN, outing], env=environment, check=True)
    started = subprocess.Popen([sys.executable, "-m", "morphe.web.serve"], env=environment)
    try:
        for _ in range(240):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=5)
                break
            except OSError:
                time.sleep(0.5)
        yield f"http://127.0.0.1:{port}"
    finally:
        started.send_signal(signal.SIGINT)
        started.wait(30)
