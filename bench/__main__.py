"""All figures that this project claims: `python -m bench [NAME …]`; the names are those in `BENCHES`."""

from __future__ import annotations

import sys
from pathlib import Path

from bench import (
    attack,
    colour,
    detect,
    drift,
    load,
    long,
    looks,
    match,
    plan,
    pool,
    practice,
    preview,
    render,
    shots,
    strain,
    uploads,
    water,
)

BENCHES = {
    "render": render.run,
    "preview": preview.run,
    "plan": plan.run,
    "detect": detect.run,
    "colour": colour.run,
    "drift": drift.run,
    "shots": shots.run,
    "match": match.run,
    "looks": looks.run,
    "water": water.run,
    "strain": strain.run,
    "load": load.run,
    "pool": pool.run,
    "long": long.run,
    "practice": practice.run,
    "uploads": uploads.run,
    "attack": attack.run,
}


def main(names: list[str]) -> None:
    cache = Path(".cache/bench")
    cache.mkdir(parents=True, exist_ok=True)
    for name in names or list(BENCHES):
        BENCHES[name](cache)


if __name__ == "__main__":
    main(sys.argv[1:])
