"""Start everything and keep it running: web server, worker, and the watch over left work."""

from __future__ import annotations

import ctypes
import fcntl
import os
import secrets
import signal
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path
from types import FrameType
from typing import BinaryIO

from morphe.web.network import OPEN, addresses, papers

MANAGE = [sys.executable, "-m", "morphe.web.manage"]
ENDING = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
RESTART_S = 1.0
RESCUE_S = "5"
LOOK_S = 15.0  # between two looks at this computer's addresses
# The signal by which each process ends at once; the worker first ends the piece of work it has begun.
WANTED = "restore-wanted"  # in the data folder: the backup that somebody chose to have back
RUN = "MORPHE_RUN"  # names this start: an answer that gives it back is its own
DIE_WITH_PARENT = 1  # of prctl, in Linux's <sys/prctl.h>
LIBC = ctypes.CDLL(None, use_errno=True)
# Of the C library: few pools, and pictures' memory given back; else each thread keeps what it once needed.
SPARING = {"MALLOC_ARENA_MAX": "2", "MALLOC_MMAP_THRESHOLD_": "4194304", "MALLOC_TRIM_THRESHOLD_": "4194304"}
END = {"web": signal.SIGINT, "worker": signal.SIGINT, "rescue": signal.SIGTERM}


def _prepare() -> None:
    """First-run steps, each with a line; later runs pass through quickly."""
    subprocess.run([*MANAGE, "prepare"], check=True, process_group=0)


def _web(host: str, port: str) -> list[str]:
    return [
        sys.executable, "-m", "gunicorn", "morphe.web.wsgi", "--bind", f"{host}:{port}", "--workers", "1",
        "--threads", "8", "--timeout", "600", "--log-level", "warning",
    ]  # fmt: skip


def _commands(host: str, port: str) -> dict[str, list[str]]:
    return {
        "web": _web(host, port),
        "worker": [*MANAGE, "run_huey", "--quiet"],
        "rescue": [*MANAGE, "rescue", "--every", RESCUE_S],
    }


def _announce(host: str, port: str) -> None:
    """Print the address once this Morphe answers, so that it can be opened at once."""
    address = f"http://{host}:{port}/"
    stranger = False
    for _ in range(120):
        try:
            with urllib.request.urlopen(f"{address}alive/", timeout=5) as answer:
                stranger = answer.read(100).decode(errors="replace") != os.environ[RUN]
        except urllib.error.HTTPError:
            stranger = True
        except (urllib.error.URLError, OSError):
            stranger = False
        else:
            if not stranger:
                print(f"\nMorphe is ready at {address}   (Ctrl-C ends it)", flush=True)
                return
        time.sleep(0.5)
    reason = "another program does; choose another MORPHE_PORT" if stranger else "see the messages above"
    print(f"Morphe does not answer at {address}: {reason}.", flush=True)


class _Network:
    """The server that the local network reaches, over TLS; there while Morphe is open to it."""

    def __init__(self, home: Path, host: str, port: str) -> None:
        self.home, self.host, self.port = home, host, port
        self.hosts: tuple[str, ...] = ()
        self.process: subprocess.Popen[bytes] | None = None
        self.looked = 0.0

    def keep(self) -> None:
        """Start, end or start it anew, as it is wanted, and as this computer's addresses change."""
        is_wanted, runs = (self.home / OPEN).exists(), self.process is not None
        has_ended = self.process is not None and self.process.poll() is not None
        if is_wanted == runs and not has_ended and time.monotonic() - self.looked < LOOK_S:
            return
        self.looked = time.monotonic()
        hosts = addresses() if is_wanted else ()
        if hosts == self.hosts and not has_ended and runs == bool(hosts):
            return
        self.end()
        self.hosts = hosts
        if hosts:
            found = papers(self.home / "papers", hosts)
            tls = ["--certfile", str(found.certificate), "--keyfile", str(found.key)]
            self.process = _start([*_web(self.host, self.port), *tls], {"MORPHE_ENTRY": "network"})
            print(f"Paired devices reach Morphe at https://{hosts[0]}:{self.port}/", flush=True)

    def end(self) -> None:
        if self.process is not None:
            _end({"web": self.process})
        self.process = None


def die_with_parent(number: int = signal.SIGTERM) -> None:
    """In a child: it is ended when this process is, however that comes about."""
    LIBC.prctl(DIE_WITH_PARENT, number)


def _start(command: list[str], more: dict[str, str] | None = None) -> subprocess.Popen[bytes]:
    """In a process group of its own, which Ctrl-C in the terminal does not reach: ending is done in order."""
    environment = {**os.environ, **(more or {})}
    return subprocess.Popen(command, process_group=0, preexec_fn=die_with_parent, env=environment)


def locked(home: Path) -> BinaryIO | None:
    """The lock of a data folder, held while it is open; None if another Morphe works in that folder."""
    home.mkdir(parents=True, exist_ok=True)
    lock = (home / "lock").open("ab")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        lock.close()
        return None
    return lock


def main() -> int:
    """Run until interrupted; a process that dies is started again."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "morphe.web.settings.base")
    host, port = os.environ.get("MORPHE_HOST", "127.0.0.1"), os.environ.get("MORPHE_PORT", "8100")
    reach = host if _is_outward(host) else "0.0.0.0"
    own = "127.0.0.1" if _is_outward(host) else host  # without TLS on this computer alone
    home = Path(os.environ.get("MORPHE_HOME", "var"))
    lock = locked(home)
    if lock is None:
        print(f"Morphe is running in {home} already; end it, or choose another MORPHE_HOME.", flush=True)
        return 2
    os.environ[RUN] = secrets.token_hex(8)
    for name, value in SPARING.items():
        os.environ.setdefault(name, value)
    print("Preparing Morphe:", flush=True)
    for number in ENDING:
        signal.signal(number, signal.default_int_handler)
    try:
        _prepare()
    except KeyboardInterrupt:
        return 0
    ending = False

    def end(signum: int, frame: FrameType | None) -> None:
        nonlocal ending
        ending = True

    for number in ENDING:
        signal.signal(number, end)
    if os.environ.get("MORPHE_NETWORK") == "1" or _is_outward(host):
        (home / OPEN).touch()
    commands = _commands(own, port)
    network = _Network(home, reach, os.environ.get("MORPHE_NETWORK_PORT", str(int(port) + 1)))
    running = {name: _start(command) for name, command in commands.items()}
    threading.Thread(target=_announce, args=(own, port), daemon=True).start()
    while not ending:
        time.sleep(0.3)
        network.keep()
        if (home / WANTED).exists():
            network.end()
            _end(running)
            _bring_back(home)
            running = {name: _start(command) for name, command in commands.items()}
        for name, process in list(running.items()):
            if process.poll() is not None and not ending:
                print(f"The {name} process ended ({process.returncode}); starting it again.", flush=True)
                time.sleep(RESTART_S)
                if not ending:
                    running[name] = _start(commands[name])
    network.end()
    _end(running)
    return 0


def _is_outward(host: str) -> bool:
    """Whether a host is another than this computer's own."""
    return host.strip() not in ("", "localhost", "::1", "[::1]") and not host.strip().startswith("127.")


def _end(running: dict[str, subprocess.Popen[bytes]]) -> None:
    for name, process in running.items():
        process.send_signal(END[name])
    for process in running.values():
        try:
            process.wait(10)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


def _bring_back(home: Path) -> None:
    """Put the backup that somebody chose in the place of the data; where that fails, nothing has changed."""
    chosen = (home / WANTED).read_text(encoding="utf-8")
    (home / WANTED).unlink()
    subprocess.run([*MANAGE, "restore", chosen, "--held"], check=False, process_group=0)
    os.environ[RUN] = secrets.token_hex(8)
    _prepare()


if __name__ == "__main__":
    sys.exit(main())
