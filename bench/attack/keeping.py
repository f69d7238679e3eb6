"""Two processes and eight clients that keep grades of the same clips."""

from __future__ import annotations

import random
import time
from pathlib import Path

from tests.web.test_two_processes import kept_by_two

__all__ = ["keep"]

CLIPS, EACH = 5, 250


def keep(folder: Path, dice: random.Random) -> None:
    """Keep 2,000 grades by chance; raises where a change is lost or a clip has two lines of history."""
    started = time.monotonic()
    kept_by_two(folder / "keeping", seed=dice.randrange(10**6), clips=CLIPS, each=EACH)
    took = time.monotonic() - started
    print(f"  {8 * EACH} grades on {CLIPS} clips by two processes and eight clients: all in the history, "
          f"in one line each ({took:.0f} s)", flush=True)  # fmt: skip
