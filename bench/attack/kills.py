"""Processes of Morphe killed at random moments of every kind of work."""

from __future__ import annotations

import contextlib
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from bench.attack.files import clip_file, sound_files
from bench.attack.forms import all_forms, demo, send_as_it_is
from bench.attack.seen import is_quiet, processes, rows, states_of_jobs, until
from morphe.core.footage.probe import probe
from tests.serving import Visitor, environment_of

__all__ = ["kills"]

KILLS, UPLOADS = 60, 6
NAMES = ("gunicorn", "run_huey", "rescue", "forkserver")
RESCUE = [sys.executable, "-m", "morphe.web.manage", "rescue"]
HANDED = (
    "SELECT c.info, h.result FROM handover_handover h JOIN clips_clip c ON c.id = h.clip_id "
    "WHERE h.what = 'clip' AND h.result != ''"
)
RUNNING = "SELECT kind FROM jobs_job WHERE state = 'running'"


def kills(folder: Path, dice: random.Random) -> None:
    """Kill while the forms of all pages are sent, clips come in, are dropped in and rendered."""
    sounds = sound_files(folder)
    clips = [clip_file(folder, f"k{n}.mp4", frames=50 + n, width=640) for n in range(UPLOADS)]
    with tempfile.TemporaryDirectory() as place, demo(home := Path(place).resolve()) as (address, page):
        visitor, killed, during = Visitor(address), Counter[str](), Counter[str]()
        begun = [form for form in all_forms(page, address) if "remove" not in form.where]
        page.close()
        drop = folder / "dropped"
        drop.mkdir(exist_ok=True)
        visitor.post("/hand-over/drop-in/set/", folder=str(drop))
        for number in range(KILLS):
            if number < len(clips):
                until(lambda n=number: bool(visitor.send("/clips/upload/", clips[n], clips[n].name)), 60)
                shutil.copy(clips[number], drop)
            ready = [row[0] for row in rows(home, "SELECT id FROM clips_clip WHERE state = 'ready'")]
            if ready and number % 3 == 0:
                pk = str(dice.choice(ready))
                until(lambda pk=pk: bool(visitor.post("/hand-over/start/", clip=pk, preset="web")), 60)
            for form in dice.sample(begun, 4):
                send_as_it_is(visitor, form, sounds, folder)
            time.sleep(dice.uniform(0, 1.5))
            during.update(str(kind) for (kind,) in rows(home, RUNNING))
            pid, command = dice.choice(list(processes(home)))
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
            killed[next((name for name in NAMES if name in command), "?")] += 1
        ended = until(lambda: is_quiet(home), 600)
        time.sleep(62)  # half files are swept once nobody can be writing them
        subprocess.run(RESCUE, env=environment_of(home, 0), check=True)
        _tell(home, killed, during, ended)


def _tell(home: Path, killed: Counter[str], during: Counter[str], ended: bool) -> None:
    whole = broken = 0
    for info, result in rows(home, HANDED):
        good = probe(home / "media" / str(result)).frames == json.loads(str(info))["frames"]
        whole, broken = whole + good, broken + (not good)
    half = [p.name for p in (home / "media").rglob(".*") if p.is_file()]
    print(f"  {sum(killed.values())} kills {dict(killed)}, during {dict(during)}: renders whole {whole}, "
          f"not whole {broken}, half files {len(half)}, work {states_of_jobs(home)}, "
          f"all ended: {ended}", flush=True)  # fmt: skip
