"""Clips that break what reads them: mutated ones, and faults of the decoder itself."""

from __future__ import annotations

import os
import random
import tempfile
import time
from collections import Counter
from pathlib import Path

from bench.attack.files import clip_file
from bench.attack.seen import answer, is_quiet, on_their_way, rows, until
from tests.odd import mutated
from tests.serving import Visitor, served

__all__ = ["clips", "faults"]

AT_ONCE = 40  # clips on their way
FAULTS = ("crash", "hang", "sleep", "bomb")
SENTENCE_S = 60.0
OVER = ("ready", "failed")


def clips(folder: Path, dice: random.Random, count: int) -> None:
    """Bring mutated clips in, and see each read or refused."""
    bases = {ending: clip_file(folder, f"base{ending}").read_bytes() for ending in (".mp4", ".mkv", ".mov")}
    started, answers = time.monotonic(), Counter[str]()
    with tempfile.TemporaryDirectory() as place, served(Path(place), "Attack") as address:
        home, visitor = Path(place), Visitor(address)
        for number in range(count):
            ending = list(bases)[number % 3]
            file = folder / f"m{number}{ending}"
            file.write_bytes(mutated(bases[ending], dice))
            answers[answer(lambda file=file: visitor.send("/clips/upload/", file, file.name))] += 1
            file.unlink()
            if number % 10 == 0:
                until(lambda: on_their_way(home) < AT_ONCE, 120)
        ended = until(lambda: is_quiet(home), 300)
        states = dict(rows(home, "SELECT state, count(*) FROM clips_clip GROUP BY state"))
        died = rows(home, "SELECT count(*) FROM jobs_job WHERE kind = 'read' AND attempts > 1")[0][0]
    print(f"  {count} mutated clips in {time.monotonic() - started:.0f} s: answers {dict(answers)}, "
          f"clips {states}, readers that died {died}, all ended: {ended}", flush=True)  # fmt: skip


def faults(folder: Path, dice: random.Random) -> None:
    """Bring clips in that break their reader, between sound ones."""
    os.environ["MORPHE_JOB_STALL_S"] = "15"  # as it is without these settings
    os.environ["MORPHE_IMPORT_FROM"] = str(folder)
    with (
        tempfile.TemporaryDirectory() as home,
        served(Path(home), "Attack", "tests.faults.settings") as address,
    ):
        visitor, begun = Visitor(address), {}
        base = clip_file(folder, "sound.mp4").read_bytes()
        for number, name in enumerate(_in_turn(dice)):
            file = folder / f"{name}.mp4"
            file.write_bytes(base + bytes(number + 1))
            visitor.send("/clips/upload/", file, file.name)
            begun[file.name] = time.monotonic()
        _from_a_card(visitor, folder, base)
        ended: dict[str, tuple[str, float]] = {}

        def all_over() -> bool:
            for title, state in rows(Path(home), "SELECT title, state FROM clips_clip"):
                if state in OVER and title in begun and title not in ended:
                    ended[str(title)] = (str(state), time.monotonic() - begun[str(title)])
            return len(ended) == len(begun)

        until(all_over, 3 * SENTENCE_S)
        for title in begun:
            state, seconds = ended.get(title, ("never ended", 0.0))
            print(f"  {title}: {state} after {seconds:.0f} s", flush=True)


def _in_turn(dice: random.Random) -> list[str]:
    names = [*FAULTS, *(f"sound-{n}" for n in range(8))]
    dice.shuffle(names)
    return names


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
    there = until(lambda: "beside.mp4" in visitor.get("/clips/"), SENTENCE_S)
    print(f"  a pipe on a card: {'listed' if 'pipe.mp4' in seen else 'not listed'}; asked for all the same, "
          f"the clip beside it is {'there' if there else 'not there'} after {time.monotonic() - begun:.0f} s",
          flush=True)  # fmt: skip
