"""Starting and ending Morphe as a person does, in a terminal."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

import pytest

from tests.serving import environment_of, free_port


def _answers(port: int) -> bool:
    try:
        urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=5)
    except (urllib.error.URLError, OSError):
        return False
    return True


def _still_alive(home: Path) -> list[str]:
    """Command lines of the processes that were started for `home`."""
    mark, found = f"MORPHE_HOME={home}".encode(), []
    for entry in Path("/proc").glob("[0-9]*"):
        try:
            if mark in (entry / "environ").read_bytes():
                found.append((entry / "cmdline").read_bytes().replace(b"\0", b" ").decode())
        except OSError:
            continue
    return found


@pytest.mark.parametrize("wait_until_ready", [True, False])
def test_given_morphe_in_a_terminal_when_interrupted_then_everything_ends_without_a_traceback(
    tmp_path, wait_until_ready
):
    port, home, printed = free_port(), tmp_path / "home", tmp_path / "printed"
    environment = environment_of(home, port)
    with printed.open("wb") as output:
        served = subprocess.Popen(
            [sys.executable, "-m", "morphe.web.serve"],
            env=environment,
            stdout=output,
            stderr=subprocess.STDOUT,
            process_group=0,
        )
        until = time.monotonic() + 120
        while time.monotonic() < until:
            if _answers(port) if wait_until_ready else b"Database" in printed.read_bytes():
                break
            time.sleep(0.2)
        os.killpg(served.pid, signal.SIGINT)  # as Ctrl-C does
        served.wait(60)

    assert "Traceback" not in printed.read_text()
    assert served.returncode == 0
    assert _still_alive(home) == []
    assert not _answers(port)
