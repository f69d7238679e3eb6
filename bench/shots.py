"""Files of several shots: are their cuts found, single clips left whole, and is each shot as right as alone?

`python -m bench shots` draws files from a fresh seed (printed; MORPHE_SEED has one again) out of photographs
that served for nothing else, encodes them, and counts: cuts, dissolves and fades found and missed, false
ones, also in single clips in which whips, flashes, jumps of exposure and the like happen; and how far shots
that were right end from the truth, corrected shot by shot.
"""

from __future__ import annotations

import os
import secrets
import tempfile
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path

import cv2
import numpy as np

from bench.joined import SINGLES, Joined, draw_joined, draw_single, write
from bench.simulate import read_photograph
from morphe.core.advise.findings import follow_light
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.handover.report import read_shots
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab

PHOTOGRAPHS = Path(os.environ.get("MORPHE_BENCH_PHOTOS", ".cache/photographs/fresh"))
FILES, CLIPS, CORRECTED = 100, 200, 12
NEAR = 1  # frames by which a hard cut may be off
SOFT = 3  # by which the middle of a soft one may lie beside it


@dataclass
class Count:
    """What was found of one file, by kind."""

    hit: Counter[str]
    there: Counter[str]
    false: Counter[str]


def _drawn(photographs: list[Path], seed: int, number: int) -> Joined:
    generator = np.random.default_rng([seed, number])
    if number >= FILES:
        picture = read_photograph(photographs[int(generator.integers(len(photographs)))])
        return draw_single(picture, [seed, number, 1], SINGLES[number % len(SINGLES)])
    chosen = generator.choice(len(photographs), int(generator.integers(2, 7)), replace=False)
    return draw_joined([read_photograph(photographs[n]) for n in chosen], [seed, number, 1])


def _counted(task: tuple[list[Path], int, int]) -> Count:
    cv2.setNumThreads(1)
    clip = _drawn(*task)
    with tempfile.TemporaryDirectory() as folder:
        shots = follow_light(probe(write(Path(folder) / "clip.mp4", clip))).shots
    found = [round(cut.time_s * float(clip.rate)) for cut in shots.cuts] if shots else []
    hit, there = Counter[str](), Counter[str]()
    for seam in clip.seams:
        near = NEAR if seam.kind == "cut" else SOFT
        there[seam.kind] += 1
        at = next((f for f in found if seam.first - near <= f <= seam.last + near), None)
        if at is not None:
            hit[seam.kind] += 1
            found.remove(at)
    return Count(hit=hit, there=there, false=Counter({clip.kind: len(found)}) if found else Counter())


def _apart(task: tuple[list[Path], int, int]) -> list[tuple[float, float]]:
    """How far each shot of a file of right shots ends from how it was filmed, beside 0 where it began."""
    cv2.setNumThreads(1)
    photographs, seed, number = task
    generator = np.random.default_rng([seed, number, 7])
    chosen = generator.choice(len(photographs), 3, replace=False)
    clip = draw_joined([read_photograph(photographs[n]) for n in chosen], [seed, number, 7], steady=True)
    with tempfile.TemporaryDirectory() as folder:
        path = write(Path(folder) / "clip.mp4", clip)
        found = []
        for report in read_shots(path):
            shot = report.info.worked_on
            at = (shot.usable[0][0] + shot.usable[0][1]) / 2
            filmed = frame_at(report.info, at).encoded()
            truth = clip.frames[min(round(at * float(clip.rate)), len(clip.frames) - 1)]
            ends = evaluate(report.advice.grade, filmed, time_s=at)
            found.append((_distance(filmed, truth), _distance(np.clip(ends, 0, 1), truth)))
    return found


def _distance(one: np.ndarray, other: np.ndarray) -> float:
    return float(delta_e_2000(encoded_to_lab(one), encoded_to_lab(other)).mean())


def run(cache: Path) -> None:
    """Draw, count and print."""
    photographs = sorted(PHOTOGRAPHS.glob("*.png"))
    seed = int(os.environ.get("MORPHE_SEED") or secrets.randbelow(10**6))
    print(f"shots: seed {seed}, {FILES} files and {CLIPS} single clips of {len(photographs)} photographs")
    hit, there, false = Counter[str](), Counter[str](), Counter[str]()
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        for count in pool.map(_counted, [(photographs, seed, n) for n in range(FILES + CLIPS)]):
            hit, there, false = hit + count.hit, there + count.there, false + count.false
        pairs = [
            p for found in pool.map(_apart, [(photographs, seed, n) for n in range(CORRECTED)]) for p in found
        ]
    for kind in there:
        print(f"  {kind}: {hit[kind]} of {there[kind]} found")
    print(f"  false, by what happens in the clip: {dict(false) or 'none'}")
    further = [after - before for before, after in pairs]
    print(
        f"  {len(pairs)} shots that were right, joined: end {np.median(further):+.2f} CIEDE2000 further in "
        f"the median, {max(further):+.2f} at most; {sum(f > 0.6 for f in further)} by more than 0.6"
    )


if __name__ == "__main__":
    run(Path(".cache/bench"))
