"""Starting and ending Morphe as a person does, in a terminal."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from contextlib import suppress
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
    assert _until(lambda: _still_alive(home) == [], 5)
    assert not _answers(port)


def _web_servers(home: Path) -> set[int]:
    """Processes of the web server of `home`."""
    mark, found = f"MORPHE_HOME={home}".encode(), set()
    for entry in Path("/proc").glob("[0-9]*"):
        with suppress(OSError):
            if mark in (entry / "environ").read_bytes() and b"gunicorn" in (entry / "cmdline").read_bytes():
                found.add(int(entry.name))
    return found


def _begin(home: Path, port: int) -> subprocess.Popen[bytes]:
    return subprocess.Popen([sys.executable, "-m", "morphe.web.serve"], env=environment_of(home, port))


def _until(holds, seconds: float) -> bool:  # type: ignore[no-untyped-def]
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        if holds():
            return True
        time.sleep(0.2)
    return False


def test_given_a_morphe_at_work_when_another_is_started_or_it_is_killed_then_no_two_share_a_folder_or_port(
    tmp_path,
):
    port, home = free_port(), tmp_path / "home"
    served = _begin(home, port)
    try:
        assert _until(lambda: _answers(port), 120)

        second = subprocess.run(
            [sys.executable, "-m", "morphe.web.serve"], env=environment_of(home, free_port()),
            capture_output=True, text=True, timeout=30,
        )  # fmt: skip
        assert second.returncode == 2
        assert f"Morphe is running in {home} already" in second.stdout
        assert _answers(port)

        first = _web_servers(home)
        parent = min(first)  # it was begun before its worker
        os.kill(parent, signal.SIGKILL)
        assert _until(lambda: not first & _web_servers(home), 10), (
            "a worker that outlives it would hold its port"
        )
        assert _until(lambda: _answers(port), 30)
    finally:
        served.kill()
        served.wait(10)

    assert _until(lambda: _still_alive(home) == [], 20), "its children end with it"
    assert not _answers(port)
