"""Uploads by the browser's own script over a line that drops requests, answers and pieces, and stalls.

`python -m bench uploads`, or `python -m bench.uploads COUNT SEED`.
"""

from __future__ import annotations

import contextlib
import os
import random
import re
import secrets
import signal
import socket
import sys
import tempfile
import threading
import time
from collections import Counter
from pathlib import Path
from typing import Any

from playwright.sync_api import sync_playwright

from bench.attack.seen import processes, rows
from tests.serving import served

COUNT, KILLED = 1000, 200
CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium-headless-shell")
SMALL, LARGE = 3_000, 24_000_000  # bytes of files, even in their logarithm
FATES = ("request", "piece", "piece", "answer", "stall", "elsewhere")  # how a connection ends
STALL_S = 3.0
MORE = re.compile(rb"PATCH /clips/uploads/\w+/ HTTP.{,2000}?upload-offset: (\d+)", re.IGNORECASE | re.DOTALL)
SENDING = """async ([files, seed]) => {
  const script = document.querySelector("[src*='bring-in']").src;
  const beside = script.replace("bring-in", "sending").replace(/\\.[0-9a-f]{12}\\./, ".");
  const { begin, send, ended } = await import(beside);
  const url = document.querySelector("[data-drop]").dataset.begin;
  const hex = (bytes) => [...new Uint8Array(bytes)].map((b) => b.toString(16).padStart(2, "0")).join("");
  const line = [...files], done = [], say = () => {};
  async function one({ name, size }) {
    const bytes = new Uint8Array(size);
    for (let at = 0; at < size; at += 65536) crypto.getRandomValues(bytes.subarray(at, at + 65536));
    const file = new File([bytes], name, { lastModified: 1700000000000 });
    const sha256 = hex(await crypto.subtle.digest("SHA-256", bytes));
    const told = await begin(url, file, { outing: "", say });
    if (told.problem) return { name, sha256, problem: told.problem };
    const sent = told.at < size ? await send(file, told.url, { say, moved: () => {} }).done : {};
    const how = sent.problem ? sent : await ended(told.url, say);
    return { name, sha256, token: told.url.split("/").at(-2), problem: how.problem };
  }
  const worker = async () => { while (line.length) done.push(await one(line.pop())); };
  await Promise.all([1, 2, 3, 4, 5].map(worker));
  return done;
}"""


class BadLine:
    """Forwards connections to a server; once it is bad, each goes wrong.

    It counts the bytes that it brought of each upload.
    """

    def __init__(self, port: int, seed: int) -> None:
        self._to, self._dice, self.is_bad = port, random.Random(seed), False
        self.brought: Counter[str] = Counter()
        self.furthest: Counter[str] = Counter()  # where a request of each upload began
        self.anew: set[str] = set()  # uploads of which one began before an earlier one
        self.wrong: Counter[str] = Counter()
        self._lines: list[socket.socket] = []
        self._listener = socket.create_server(("127.0.0.1", 0))
        self.port = int(self._listener.getsockname()[1])
        threading.Thread(target=self._listen, daemon=True).start()

    def _listen(self) -> None:
        while True:
            line, _ = self._listener.accept()
            self._lines.append(line)
            threading.Thread(target=self._carry, args=(line,), daemon=True).start()

    def turn_bad(self) -> None:
        """From now on, and for those that are open."""
        self.is_bad = True
        for line in self._lines:
            with contextlib.suppress(OSError):
                line.shutdown(socket.SHUT_RDWR)

    def _carry(self, line: socket.socket) -> None:
        fate = self._dice.choice(FATES) if self.is_bad else ""
        self.wrong[fate] += 1
        left = round(200 * 40_000 ** self._dice.random())  # bytes until it happens, to 8 MB
        with line, contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", self._to)) as on:
            if fate == "request":
                return
            back = threading.Thread(target=self._answer, args=(on, line, fate), daemon=True)
            back.start()
            token = ""
            while data := line.recv(1 << 16):
                found = re.findall(rb"(?:PATCH|HEAD|GET|POST) /clips/uploads/(\w*)", data)
                token = found[-1].decode() if found else token
                if begins := MORE.search(data):
                    self._begun(token, int(begins[1]))
                left -= len(data)
                if fate in ("piece", "stall", "elsewhere") and left < 0:
                    time.sleep(STALL_S if fate == "stall" else 0)
                    line.shutdown(socket.SHUT_RDWR)
                    if fate != "elsewhere":  # else the server never hears that nobody is there
                        on.shutdown(socket.SHUT_RDWR)
                    back.join()
                    return
                on.sendall(data)
                self.brought[token] += len(data)
            on.shutdown(socket.SHUT_WR)
            back.join()

    def _begun(self, token: str, at: int) -> None:
        if at < self.furthest[token]:
            self.anew.add(token)
        self.furthest[token] = max(self.furthest[token], at)

    def _answer(self, on: socket.socket, line: socket.socket, fate: str) -> None:
        with contextlib.suppress(OSError):
            while data := on.recv(1 << 16):
                if fate == "answer" and self._dice.random() < 0.3:
                    line.shutdown(socket.SHUT_RDWR)  # it was done, and nobody hears of it
                    return
                line.sendall(data)
            line.shutdown(socket.SHUT_RDWR)


def _files(count: int, dice: random.Random, mark: str) -> list[dict[str, Any]]:
    sizes = (round(SMALL * (LARGE / SMALL) ** dice.random()) for _ in range(count))
    return [{"name": f"{mark}-{n}.mp4", "size": size} for n, size in enumerate(sizes)]


def _killing(home: Path, until: threading.Event, dice: random.Random, killed: list[int]) -> None:
    while not until.wait(dice.uniform(6, 14)):
        servers = [pid for pid, command in processes(home) if "gunicorn" in command]
        if servers:
            with contextlib.suppress(ProcessLookupError):
                os.kill(dice.choice(servers), signal.SIGKILL)
            killed.append(1)


def _sent(page: Any, files: list[dict[str, Any]], seed: int) -> list[dict[str, Any]]:
    done: list[dict[str, Any]] = []
    started = time.monotonic()
    for at in range(0, len(files), 50):
        done += page.evaluate(SENDING, [files[at : at + 50], seed])
        print(f"    {len(done)} after {time.monotonic() - started:.0f} s", flush=True)
    return done


def _tell(
    what: str, home: Path, line: BadLine, files: list[dict[str, Any]], done: list[dict[str, Any]]
) -> None:
    asked = "SELECT title, sha256, size_bytes FROM clips_clip"
    for _ in range(240):  # what was not hashed on its way is, in the queue
        clips = {title: (sha256, size) for title, sha256, size in rows(home, asked)}
        if all(file["name"] in clips for file in files):
            break
        time.sleep(0.5)
    sizes = {file["name"]: file["size"] for file in files}
    whole = sum(clips.get(d["name"]) == (d["sha256"], sizes[d["name"]]) for d in done)
    twice = sum(d.get("token", "") in line.anew for d in done)
    failed = [d["problem"] for d in done if d["problem"]]
    over = sum(line.brought.values()) / sum(sizes.values())
    print(f"  {what}: {whole} of {len(files)} whole, {twice} begun again before what had arrived, "
          f"{len(failed)} called failed {failed[:2]}; {over:.2f} of their bytes went over the line",
          flush=True)  # fmt: skip


def run(cache: Path, count: int = COUNT, seed: int | None = None) -> None:
    """Print how many uploads came through, whole and once."""
    seed = secrets.randbelow(10**6) if seed is None else seed
    dice = random.Random(seed)
    print(f"Uploads over a bad line, seed {seed}", flush=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        home = Path(folder).resolve()
        with served(home, "Uploads") as address:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
            for what, many in (("as it is", count), ("server killed", min(KILLED, count))):
                line = BadLine(int(address.rpartition(":")[2]), seed)
                page = browser.new_page()
                page.set_default_timeout(0)
                page.goto(f"http://127.0.0.1:{line.port}/clips/")
                line.turn_bad()
                over, killed = threading.Event(), []  # type: ignore[var-annotated]
                if what == "server killed":
                    threading.Thread(target=_killing, args=(home, over, dice, killed)).start()
                started, files = time.monotonic(), _files(many, dice, what[:2])
                done = _sent(page, files, seed)
                over.set()
                _tell(what, home, line, files, done)
                print(f"    {time.monotonic() - started:.0f} s, connections {dict(line.wrong)}, "
                      f"{len(killed)} kills", flush=True)  # fmt: skip
            browser.close()


if __name__ == "__main__":
    run(Path(".cache/bench"), *(int(word) for word in sys.argv[1:]))
