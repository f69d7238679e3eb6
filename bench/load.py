"""Many at once: pages that are left open and pages that grade, with and without a render going on."""

from __future__ import annotations

import contextlib
import json
import random
import re
import secrets
import tempfile
import threading
import time
import urllib.error
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.recipe import to_json
from morphe.core.grade.steps import Balance, Contrast, Exposure, Saturation
from tests.serving import Visitor, served

POLLERS, GRADERS, SECONDS = 50, 4, 20.0
PAGES = ("/clips/", "/clips/", "/hand-over/", "/bench/")  # pages that are left open, as often as they are
DRAG_S = 0.1  # between a picture and the next change of one that is dragged
STILLS = 500
PIECE = r'hx-get="([^"]+)"[^>]* data-follow="([-\w]+)" data-mark="([.\d]*)"'
SOME = Grade.of(Convert(profile="log-lifted"), Balance(warmth=10), Contrast(amount=8), Saturation(amount=8))


class Times:
    """Milliseconds of every answer of one kind, and what went wrong."""

    def __init__(self) -> None:
        self.ms: list[float] = []
        self.wrong: list[str] = []

    @contextlib.contextmanager
    def one(self) -> Iterator[None]:
        started = time.perf_counter()
        try:
            yield
        except urllib.error.HTTPError as error:
            self.wrong.append(f"{error} {error.read()[:200]!r}")
        except OSError as error:
            self.wrong.append(str(error))
        else:
            self.ms.append(1000 * (time.perf_counter() - started))

    def said(self, name: str) -> str:
        middle, high = np.percentile(self.ms, [50, 95])
        wrong = f", {len(self.wrong)} errors ({self.wrong[0]})" if self.wrong else ", no errors"
        return f"{name}: {len(self.ms)} answers, median {middle:.0f} ms, p95 {high:.0f} ms{wrong}"


def _poll(address: str, page: str, opened: threading.Barrier, times: Times) -> None:
    """What a page left open does that has something under way: it asks every second for what is new."""
    visitor, mark = Visitor(address), ""
    found = re.findall(PIECE, visitor.get(page))
    parts, seen = {name: url for url, name, _ in found}, {name: known for _, name, known in found}
    opened.wait()
    until = time.monotonic() + SECONDS
    time.sleep(random.random())
    while time.monotonic() < until:
        with times.one():
            answer = visitor.ask(f"/news/?of={','.join(parts)}", mark=mark)
        if answer is not None:
            mark, now = visitor.mark, json.loads(answer)
            for name in [n for n in parts if seen.get(n) != now[n]]:
                with times.one():
                    visitor.get(
                        parts[name].replace("&amp;", "&"), **{"HX-Request": "true", "HX-Target": name}
                    )
            seen = now
        time.sleep(1.0)


def _grade(address: str, clip: int, seed: int, opened: threading.Barrier, times: Times) -> None:
    """What a page does on which a number is dragged."""
    visitor, dice = Visitor(address), random.Random(seed)
    visitor.get(f"/bench/{clip}/")
    opened.wait()
    until = time.monotonic() + SECONDS
    while time.monotonic() < until:
        grade = to_json(SOME.with_step(Exposure(stops=round(dice.uniform(-2, 2), 3))))
        with times.one():
            visitor.post_json(f"/bench/{clip}/still/", {"grade": grade, "frame": 0})
        time.sleep(DRAG_S)


def _together(address: str, clips: list[int], title: str, dice: random.Random) -> None:
    polling, grading, opened = Times(), Times(), threading.Barrier(POLLERS + GRADERS)
    threads = [
        threading.Thread(target=_poll, args=(address, dice.choice(PAGES), opened, polling))
        for _ in range(POLLERS)
    ]
    threads += [
        threading.Thread(target=_grade, args=(address, clip, dice.randrange(10**6), opened, grading))
        for clip in dice.sample(clips, GRADERS)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    print(f"  {title}: {polling.said('polling')}; {grading.said('grading')}", flush=True)


def _memory(home: Path) -> dict[str, float]:
    """MB that the processes of a Morphe hold of the machine's memory, shared parts in shares."""
    mark, held = f"MORPHE_HOME={home}".encode(), {"web": 0.0, "worker": 0.0}
    for entry in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError):
            if mark not in (entry / "environ").read_bytes().split(b"\0"):
                continue
            command = (entry / "cmdline").read_bytes()
            pss = re.search(rb"Pss:\s+(\d+) kB", (entry / "smaps_rollup").read_bytes())
            name = "web" if b"gunicorn" in command else "worker"
            if b"morphe.web.serve" not in command and b"rescue" not in command and pss:
                held[name] += int(pss[1]) / 1000
    return held


def _ready(visitor: Visitor) -> list[int]:
    until = time.monotonic() + 300
    while time.monotonic() < until:
        page = visitor.get("/clips/")
        busy = "being prepared" in page or re.search(r'data-clip-state="(waiting|reading)"', page)
        if 'data-clip-state="ready"' in page and not busy:
            return [int(pk) for pk in re.findall(r'data-clip="(\d+)"', page)]
        time.sleep(1)
    raise SystemExit("The demo was not read.")


def _renders(visitor: Visitor, clips: list[int], preset: str) -> None:
    """Have all clips rendered: with some seconds of picture each it lasts while the answers are timed."""
    for clip in clips:
        visitor.post("/hand-over/start/", clip=str(clip), preset=preset)


def run(cache: Path) -> None:
    """Print how long polling and grading take beside each other, and what memory is held after long use."""
    seed = secrets.randbelow(10**6)
    dice = random.Random(seed)
    print(f"Load: {POLLERS} pages that ask every second, {GRADERS} that grade, seed {seed}", flush=True)
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        with served(home, MORPHE_NICENESS="10") as address:  # as it is for a person
            visitor = Visitor(address)
            clips = _ready(visitor)
            _together(address, clips, "at rest", dice)
            _renders(visitor, clips * 4, "fine")
            _together(address, clips, "during renders", dice)
            for number in range(STILLS):
                grade = to_json(SOME.with_step(Exposure(stops=number / STILLS)))
                clip = clips[number % len(clips)]
                visitor.post_json(f"/bench/{clip}/still/", {"grade": grade, "frame": number % 3})
            held = _memory(home)
            said = f"web {held['web']:.0f} MB, worker {held['worker']:.0f} MB"
            print(f"  Memory after {STILLS} stills more, renders going on: {said}", flush=True)


if __name__ == "__main__":
    run(Path(".cache/bench"))
