"""Attacks through the real entries, with a fresh seed each run.

`python -m bench attack`, or `python -m bench.attack [COUNT [SEED]]` for so many mutated files of each sort.
"""

from __future__ import annotations

import random
import secrets
import tempfile
from pathlib import Path

from bench.attack import forms, full, hands, intake, keeping, kills

__all__ = ["COUNT", "run"]

COUNT = 500


def run(cache: Path, count: int = COUNT, seed: int | None = None) -> None:
    """Print what the attacks did."""
    seed = secrets.randbelow(10**6) if seed is None else seed
    print(f"Attack, seed {seed}", flush=True)
    dice = random.Random(seed)
    with tempfile.TemporaryDirectory() as folder:
        for attack in (keeping.keep, intake.faults, kills.kills, full.full):
            attack(Path(folder), dice)
        for attack_with in (intake.clips, forms.forms, hands.hands):
            attack_with(Path(folder), dice, count)
