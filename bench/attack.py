"""Attacks through the real entries: mutated clips and imports, faults in the decoder, killed processes.

`python -m bench attack`, or `python -m bench.attack COUNT` for so many mutations of each sort.
"""

from __future__ import annotations

import contextlib
import os
import random
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
import urllib.error
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import numpy as np

from morphe.core.footage.probe import probe
from morphe.core.grade.grade import Grade
from morphe.core.grade.recipe import to_text
from morphe.core.grade.steps import Exposure, Saturation
from morphe.core.interchange.clf import clf_text
from morphe.core.interchange.stop_csv import stop_csv
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure as Filmed
from morphe.core.standins.cameras import film, record
from morphe.core.standins.demo import render_scene
from tests.serving import Visitor, environment_of, served

COUNT, KILLS = 2000, 20
AT_ONCE = 40  # clips on their way
FAULTS = ("crash", "hang", "sleep", "bomb")
SENTENCE_S = 60.0
OVER = ("ready", "failed")
NAMES = ("gunicorn", "run_huey", "rescue", "forkserver")
RESCUE = [sys.executable, "-m", "morphe.web.manage", "rescue"]


def _clip(folder: Path, name: str, frames: int = 12, width: int = 192) -> Path:
    generator = np.random.default_rng(1)
    linear = render_scene("sluice-round", 0.5, width=width, height=width * 9 // 16)
    shots = [film(linear, Filmed(), generator) for _ in range(min(frames, 12))]
    return record((shots[i % len(shots)] for i in range(frames)), folder / name, Filmed())


def mutated(data: bytes, dice: random.Random) -> bytes:
    """The bytes with some changed, cut off, doubled, swapped or made zero."""
    out = bytearray(data)
    for _ in range(dice.choice((1, 1, 3, 10, 60))):
        at, size = dice.randrange(len(out)), dice.choice((1, 1, 2, 4, 8, 200))
        way = dice.randrange(6)
        if way == 0:
            out[at : at + size] = dice.randbytes(size)
        elif way == 1:
            out[at : at + size] = dice.choice((b"\0", b"\xff", b"\x7f", b"9")) * size
        elif way == 2 and len(out) > 400:
            del out[at : at + size * 3]
        elif way == 3:
            out[at:at] = out[max(at - size, 0) : at]
        elif way == 4 and dice.random() < 0.2 and at > 50:
            del out[at:]
        else:
            out[at] ^= 1 << dice.randrange(8)
    return bytes(out)


def _rows(home: Path, question: str) -> list[tuple[object, ...]]:
    with closing(sqlite3.connect(f"file:{home / 'morphe.sqlite3'}?mode=ro", uri=True, timeout=20)) as found:
        return found.execute(question).fetchall()


def _on_their_way(home: Path) -> int:
    return len(_rows(home, "SELECT id FROM clips_clip WHERE state NOT IN ('ready', 'failed')"))


def _until(holds: Callable[[], bool], seconds: float) -> bool:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        with contextlib.suppress(OSError, sqlite3.OperationalError):
            if holds():
                return True
        time.sleep(0.3)
    return False


def _answer(ask: Callable[[], object]) -> str:
    """The status of an answer; refusals are answers too."""
    try:
        ask()
    except urllib.error.HTTPError as error:
        return str(error.code)
    except OSError as error:
        return type(error).__name__
    return "200"


def clips(home: Path, visitor: Visitor, count: int, folder: Path) -> None:
    """Bring mutated clips in, and see each read or refused."""
    dice, answers = random.Random(7), Counter[str]()
    bases = [_clip(folder, name).read_bytes() for name in ("base.mp4", "base.mkv", "base.mov")]
    started = time.monotonic()
    for number in range(count):
        file = folder / f"m{number}{('.mp4', '.mkv', '.mov')[number % 3]}"
        file.write_bytes(mutated(bases[number % 3], dice))
        answers[_answer(lambda file=file: visitor.send("/clips/upload/", file, file.name))] += 1
        file.unlink()
        if number % 10 == 0:
            _until(lambda: _on_their_way(home) < AT_ONCE, 120)
    ended = _until(lambda: _on_their_way(home) == 0, 300)
    states = dict(_rows(home, "SELECT state, count(*) FROM clips_clip GROUP BY state"))
    tries = _rows(home, "SELECT count(*) FROM jobs_job WHERE kind = 'read' AND attempts > 1")
    print(f"  {count} mutated clips in {time.monotonic() - started:.0f} s: answers {dict(answers)}, "
          f"clips {states}, readers that died {tries[0][0]}, all ended: {ended}", flush=True)  # fmt: skip


def imports(home: Path, visitor: Visitor, count: int, folder: Path) -> None:
    """Take mutated LUTs, curves, profiles, recipes and cameras in."""
    dice, answers = random.Random(9), Counter[str]()
    rows = "\n".join(
        f"{r / 3:.4f} {g / 3:.4f} {b / 3:.4f}" for b in range(4) for g in range(4) for r in range(4)
    )
    profile = PROFILES.get("log-wide")
    bases = {
        "x.cube": f"TITLE \"a\"\nLUT_3D_SIZE 4\n{rows}\n", "x.clf": clf_text(profile, curve=None),
        "x.csv": stop_csv(profile), "x.json": '{"name": "a", "kind": "log", "curve": {"points": [[0, 1]]}}',
        "recipe.json": to_text(Grade.of(Exposure(stops=1), Saturation(amount=5))),
        "camera.json": '{"name": "a", "profiles": ["std-709"], "iso": [100, 6400], "shutter": [25, 8000]}',
    }  # fmt: skip
    entries = {
        "recipe.json": ("/clips/use-recipe/", "recipe"),
        "camera.json": ("/library/cameras/take-in/", "camera"),
    }
    for number in range(count):
        name = list(bases)[number % len(bases)]
        file = folder / name
        file.write_bytes(mutated(bases[name].encode(), dice))
        address, field = entries.get(name, ("/library/profiles/new/", "file"))
        said = {"kind": "log", "name": f"mutated {number}"}
        answers[_answer(lambda f=file, a=address, k=field, v=said: visitor.send(a, f, f.name, k, **v))] += 1
    left = "SELECT count(*) FROM jobs_job WHERE kind = 'take-in' AND state IN ('waiting', 'running')"
    ended = _until(lambda: _rows(home, left) == [(0,)], 300)
    states = dict(_rows(home, "SELECT state, count(*) FROM jobs_job WHERE kind = 'take-in' GROUP BY state"))
    died = _rows(home, "SELECT count(*) FROM jobs_job WHERE kind = 'take-in' AND attempts > 1")[0][0]
    print(f"  {count} mutated imports: answers {dict(answers)}, files {states}, readers that died {died}, "
          f"all ended: {ended}", flush=True)  # fmt: skip


def faults(folder: Path) -> None:
    """Bring clips in that break their reader, between sound ones."""
    os.environ["MORPHE_JOB_STALL_S"] = "15"  # as it is without these settings
    os.environ["MORPHE_IMPORT_FROM"] = str(folder)
    with (
        tempfile.TemporaryDirectory() as home,
        served(Path(home), "Attack", "tests.faults.settings") as address,
    ):
        visitor, begun = Visitor(address), {}
        base = _clip(folder, "sound.mp4").read_bytes()
        for number, name in enumerate([*FAULTS, *(f"sound-{n}" for n in range(8))]):
            file = folder / f"{name}.mp4"
            file.write_bytes(base + bytes(number + 1))
            visitor.send("/clips/upload/", file, file.name)
            begun[file.name] = time.monotonic()
        _from_a_card(visitor, folder, base)
        ended: dict[str, tuple[str, float]] = {}

        def all_over() -> bool:
            for title, state in _rows(Path(home), "SELECT title, state FROM clips_clip"):
                if state in OVER and title not in ended:
                    ended[str(title)] = (str(state), time.monotonic() - begun[str(title)])
            return len(ended) == len(begun)

        _until(all_over, 3 * SENTENCE_S)
        for title in begun:
            state, seconds = ended.get(title, ("never ended", 0.0))
            print(f"  {title}: {state} after {seconds:.0f} s", flush=True)


def _from_a_card(visitor: Visitor, folder: Path, clip: bytes) -> None:
    """Ask for a pipe and a sound clip from one card."""
    card = folder / "card"
    card.mkdir()
    os.mkfifo(card / "pipe.mp4")
    (card / "beside.mp4").write_bytes(clip)
    begun = time.monotonic()
    seen = visitor.get(f"/clips/card/?folder={card}")
    for name in ("pipe.mp4", "beside.mp4"):
        visitor.post("/clips/card/begin/", folder=str(card), clip=name)
    there = _until(lambda: "beside.mp4" in visitor.get("/clips/"), SENTENCE_S)
    print(f"  a pipe on a card: {'listed' if 'pipe.mp4' in seen else 'not listed'}; asked for all the same, "
          f"the clip beside it is {'there' if there else 'not there'} after {time.monotonic() - begun:.0f} s",
          flush=True)  # fmt: skip


def _processes(home: Path) -> Iterator[tuple[int, str]]:
    mark = f"MORPHE_HOME={home}".encode()
    for entry in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError):
            command = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode()
            if mark in (entry / "environ").read_bytes().split(b"\0") and "morphe.web.serve" not in command:
                yield int(entry.name), command


def kills(folder: Path) -> None:
    """Kill a process of Morphe at random moments of uploads, intake, proxies and renders."""
    dice = random.Random(5)
    files = [_clip(folder, f"k{n}.mp4", frames=50 + n, width=640) for n in range(8)]
    with tempfile.TemporaryDirectory() as folder_of_home:
        home = Path(folder_of_home).resolve()
        with served(home, "Attack") as address:
            visitor, killed = Visitor(address), Counter[str]()
            for number in range(KILLS):
                if number < len(files):
                    _until(lambda n=number: bool(visitor.send("/clips/upload/", files[n], files[n].name)), 60)
                ready = [row[0] for row in _rows(home, "SELECT id FROM clips_clip WHERE state = 'ready'")]
                if ready and number % 2:
                    pk = str(dice.choice(ready))
                    _until(lambda pk=pk: bool(visitor.post("/hand-over/start/", clip=pk, preset="web")), 60)
                time.sleep(dice.uniform(0.05, 2.5))
                pid, command = dice.choice(list(_processes(home)))
                with contextlib.suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGKILL)
                killed[
                    next((w for w in ("gunicorn", "run_huey", "rescue", "forkserver") if w in command), "?")
                ] += 1
            live = "SELECT count(*) FROM jobs_job WHERE state IN ('waiting', 'running')"
            ended = _until(lambda: _rows(home, live) == [(0,)] and _on_their_way(home) == 0, 240)
            time.sleep(62)  # half files are swept once nobody can be writing them
            subprocess.run(RESCUE, env=environment_of(home, 0), check=True)
            _tell_kills(home, killed, ended, len(files))


def _tell_kills(home: Path, killed: Counter[str], ended: bool, files: int) -> None:
    whole = broken = 0
    for title, result in _rows(
        home, "SELECT c.title, h.result FROM handover_handover h JOIN clips_clip c ON c.id = h.clip_id"
    ):
        frames = probe(home / "media" / str(result)).frames if result else 0
        good = frames == 50 + int(str(title)[1])
        whole, broken = whole + good, broken + (not good)
    states = dict(_rows(home, "SELECT state, count(*) FROM clips_clip GROUP BY state"))
    half = [p.name for p in (home / "media").rglob(".*") if p.is_file()]
    said = f"clips {states} of {files}, renders whole {whole}, not whole {broken}, half files {len(half)}"
    print(f"  {sum(killed.values())} kills {dict(killed)}: {said}, all ended: {ended}", flush=True)


def run(cache: Path, count: int = COUNT) -> None:
    """Print what the attacks did."""
    print("Attack", flush=True)
    with tempfile.TemporaryDirectory() as folder:
        faults(Path(folder))
        kills(Path(folder))
        with tempfile.TemporaryDirectory() as home, served(Path(home), "Attack") as address:
            imports(Path(home), Visitor(address), count, Path(folder))
            clips(Path(home), Visitor(address), count, Path(folder))


if __name__ == "__main__":
    run(Path(".cache/bench"), int(sys.argv[1]) if sys.argv[1:] else COUNT)
