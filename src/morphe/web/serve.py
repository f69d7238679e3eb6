"""Start everything and keep it running: web server, worker, and the watch over left work."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from types import FrameType

MANAGE = [sys.executable, "-m", "morphe.web.manage"]
RESTART_S = 1.0
RESCUE_S = "5"


def _prepare() -> None:
    """First-run steps, each with a line; later runs pass through quickly."""
    steps = (
        ("Database", [*MANAGE, "migrate", "--verbosity", "0"]),
        ("Static files", [*MANAGE, "collectstatic", "--noinput", "--verbosity", "0"]),
        ("Kernels", [sys.executable, "-m", "morphe.core.handover.warm_up"]),
        ("Demo outing", [*MANAGE, "load_demo"]),
    )
    for label, command in steps:
        print(f"  {label} …", flush=True)
        subprocess.run(command, check=True)


def _commands(host: str, port: str) -> dict[str, list[str]]:
    web = [
        sys.executable, "-m", "gunicorn", "morphe.web.wsgi", "--bind", f"{host}:{port}", "--workers", "1",
        "--threads", "8", "--timeout", "600", "--log-level", "warning",
    ]  # fmt: skip
    return {
        "web": web,
        "worker": [*MANAGE, "run_huey", "--quiet"],
        "rescue": [*MANAGE, "rescue", "--every", RESCUE_S],
    }


def _announce(host: str, port: str) -> None:
    """Print the address once the page answers, so that it can be opened at once."""
    address = f"http://{host}:{port}/"
    for _ in range(120):
        try:
            urllib.request.urlopen(address, timeout=5)
            print(f"\nMorphe is ready at {address}   (Ctrl-C ends it)", flush=True)
            return
        except (urllib.error.URLError, OSError):
            time.sleep(0.5)
    print(f"Morphe does not answer at {address}; see the messages above.", flush=True)


def main() -> int:
    """Run until interrupted; a process that dies is started again."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "morphe.web.settings.base")
    host, port = os.environ.get("MORPHE_HOST", "127.0.0.1"), os.environ.get("MORPHE_PORT", "8100")
    print("Preparing Morphe:", flush=True)
    _prepare()
    ending = False

    def end(signum: int, frame: FrameType | None) -> None:
        nonlocal ending
        ending = True

    signal.signal(signal.SIGINT, end)
    signal.signal(signal.SIGTERM, end)
    commands = _commands(host, port)
    running = {name: subprocess.Popen(command) for name, command in commands.items()}
    threading.Thread(target=_announce, args=(host, port), daemon=True).start()
    while not ending:
        time.sleep(0.3)
        for name, process in list(running.items()):
            if process.poll() is not None and not ending:
                print(f"The {name} process ended ({process.returncode}); starting it again.", flush=True)
                time.sleep(RESTART_S)
                running[name] = subprocess.Popen(commands[name])
    for process in running.values():
        process.send_signal(signal.SIGINT if process.args[-1] == "--quiet" else signal.SIGTERM)
    for process in running.values():
        try:
            process.wait(10)
        except subprocess.TimeoutExpired:
            process.kill()
    return 0


if __name__ == "__main__":
    sys.exit(main())
