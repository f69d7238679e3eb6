"""A disk that is full during every kind of work, and has room again."""

from __future__ import annotations

import random
import re
import subprocess
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from bench.attack.files import sound_files
from bench.attack.forms import all_forms, demo, send_as_it_is
from bench.attack.seen import answer, is_quiet, states_of_jobs, until
from tests.serving import Visitor

__all__ = ["full"]

SIZE, LEFT = "3g", 30_000_000  # of the disk; bytes that are left at most
AT_ONCE = 12  # forms until there is room again


@contextmanager
def _small_disk(folder: Path) -> Iterator[Path]:
    """A file system of its own; its owner alone may mount one."""
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={SIZE}", "morphe", str(folder)], check=True)
    try:
        yield folder
    finally:
        subprocess.run(["umount", "-l", str(folder)], check=True)


def _fill(home: Path, left: int) -> None:
    ballast = home / "ballast"
    free = int(subprocess.run(["df", "--output=avail", "-B1", home], capture_output=True).stdout.split()[1])
    subprocess.run(["fallocate", "-l", str(max(free - left, 4096)), str(ballast)], check=False)


def full(folder: Path, dice: random.Random) -> None:
    """Send all forms while there is next to no room, and see that all ends once there is."""
    sounds, answers, wrong = sound_files(folder), Counter[str](), Counter[str]()
    with (
        tempfile.TemporaryDirectory() as place,
        _small_disk(Path(place)) as home,
        demo(home) as (address, page),
    ):
        visitor, found = Visitor(address), all_forms(page, address)
        page.close()
        for at in range(0, len(found), AT_ONCE):
            _fill(home, round(LEFT * dice.random() ** 3))
            for form in found[at : at + AT_ONCE]:
                status = send_as_it_is(visitor, form, sounds, folder)
                answers[status] += 1
                if status[0] not in "234" and status != "507":
                    wrong[f"{status} {re.sub(r'[0-9]+', 'N', form.where)}"] += 1
            looked = answer(lambda: visitor.get("/clips/"))
            if looked != "200":
                wrong[f"{looked} /clips/"] += 1
            time.sleep(dice.uniform(1, 6))
            (home / "ballast").unlink(missing_ok=True)
        ended = until(lambda: is_quiet(home), 600)
        print(f"  a full disk, {len(found)} forms: answers {dict(answers)}; failures {dict(wrong)}; "
              f"work {states_of_jobs(home)}, all ended: {ended}", flush=True)  # fmt: skip
