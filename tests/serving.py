"""Starting a whole Morphe of its own, as a person starts it."""

from __future__ import annotations

import http.cookiejar
import json
import os
import secrets
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

__all__ = ["Visitor", "environment_of", "free_port", "served"]


def free_port() -> int:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return int(free.getsockname()[1])


def environment_of(home: Path, port: int, settings: str = "morphe.web.settings.base") -> dict[str, str]:
    return {
        **os.environ,
        "MORPHE_HOME": str(home),
        "MORPHE_PORT": str(port),
        "DJANGO_SETTINGS_MODULE": settings,
        "MORPHE_NICENESS": "0",  # other tests beside it are no reason to stand back
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
def served(
    home: Path, outing: str = "", settings: str = "morphe.web.settings.base", **more: str
) -> Iterator[str]:
    """A Morphe with server, worker and rescue, and the demo or an empty outing of that name; its address."""
    port = free_port()
    environment = {**environment_of(home, port, settings), **more}
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


class Visitor:
    """A browser without a picture: it keeps its cookies and sends forms."""

    def __init__(self, address: str) -> None:
        self.address = address
        self._jar = http.cookiejar.CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self._jar))

        self.mark = ""  # of the last answer that had one

    def _open(self, request: urllib.request.Request) -> bytes:
        with self._opener.open(request, timeout=60) as answer:
            self.mark = answer.headers.get("ETag", self.mark)
            return bytes(answer.read())

    def exchange(self, method: str, path: str, body: bytes = b"", **headers: str) -> dict[str, str]:
        """Headers of the answer to a script's request; a name's underscores stand for dashes."""
        named = {"X-CSRFToken": self.token(), **{k.replace("_", "-"): v for k, v in headers.items()}}
        request = urllib.request.Request(self.address + path, data=body or None, headers=named, method=method)
        with self._opener.open(request, timeout=60) as answer:
            return dict(answer.headers)

    def get(self, path: str, **headers: str) -> str:
        request = urllib.request.Request(self.address + path, headers=headers)
        return self._open(request).decode(errors="replace")

    def ask(self, path: str, mark: str) -> str | None:
        """What is at an address; None if its mark is still this one."""
        request = urllib.request.Request(self.address + path, headers={"If-None-Match": mark})
        try:
            return self._open(request).decode()
        except urllib.error.HTTPError as error:
            if error.code == 304:
                return None
            raise

    def token(self) -> str:
        if not any(cookie.name == "csrftoken" for cookie in self._jar):
            self.get("/clips/")
        return next(str(cookie.value) for cookie in self._jar if cookie.name == "csrftoken")

    def post(self, path: str, /, **values: str) -> bytes:
        """Send a form."""
        data = urllib.parse.urlencode({"csrfmiddlewaretoken": self.token(), **values}).encode()
        return self._open(urllib.request.Request(self.address + path, data=data, method="POST"))

    def post_json(self, path: str, data: object) -> bytes:
        """Send what a script sends."""
        headers = {"X-CSRFToken": self.token(), "Content-Type": "application/json"}
        body = json.dumps(data).encode()
        return self._open(urllib.request.Request(self.address + path, data=body, headers=headers))

    def send(self, path: str, file: Path, name: str, field: str = "clip", /, **values: str) -> bytes:
        """Send a file as a form does."""
        mark = secrets.token_hex(16)
        fields = {"csrfmiddlewaretoken": self.token(), **values}
        body = b"".join(
            f'--{mark}\r\nContent-Disposition: form-data; name="{key}"\r\n\r\n{value}\r\n'.encode()
            for key, value in fields.items()
        )
        head = f'--{mark}\r\nContent-Disposition: form-data; name="{field}"; filename="{name}"\r\n\r\n'
        body += head.encode() + file.read_bytes() + f"\r\n--{mark}--\r\n".encode()
        request = urllib.request.Request(self.address + path, data=body, method="POST")
        request.add_header("Content-Type", f"multipart/form-data; boundary={mark}")
        request.add_header("Accept", "application/json")
        return self._open(request)
