"""Clips called crash, hang, sleep, bomb or spawn do that to the process that reads them."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import time
from contextlib import suppress
from functools import partial

from django.apps import AppConfig


def crash() -> None:
    os.kill(os.getpid(), signal.SIGSEGV)


def hang() -> None:
    while True:
        pass


def sleep() -> None:
    time.sleep(3600)


def bomb() -> None:
    held = []
    while True:
        held.append(bytearray(50_000_000))


def escape() -> None:
    """Begin another program, another process or speak to the network: where one of them works, it crashes."""
    connect = partial(socket.create_connection, ("127.0.0.1", 9))
    for way in (partial(subprocess.run, ["true"]), os.fork, connect):
        with suppress(PermissionError):
            way()
            crash()


class FaultsConfig(AppConfig):
    name = "tests.faults"

    def ready(self) -> None:
        from morphe.web.clips.services.reading import read

        sound = read.probe

        def faulty(path):
            for fault in (crash, hang, sleep, bomb, escape):
                if fault.__name__ in path.name:
                    fault()
            return sound(path)

        read.probe = faulty
