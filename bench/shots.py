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
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from multiprocessing import get_context
from pathlib import Path

import cv2
import numpy as np

from bench.joined import RATES, SINGLES, Joined, draw_joined, draw_single, film_shot, write
from bench.laid import KINDS, lay
from bench.simulate import read_photograph
from morphe.core.advise.findings import follow_light
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.pipeline.reference import evaluate
from morphe.core.reading.clip import read_shots
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.core.signal.transfer import decode_bt709, encode_bt709

PHOTOGRAPHS = Path(os.environ.get("MORPHE_BENCH_PHOTOS", ".cache/photographs/fresh"))
FILES, CLIPS, CORRECTED, LAID = 100, 200, 12, 40
FURTHER, QUARTER = 1.0, 1.25  # than the plain clip, in CIEDE2000 or as a share: what may come on top
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


def _apart(task: tuple[list[Path], int, int]) -> list[tuple[float, float, float]]:
    """How far each shot of a file of right shots begins from the truth, ends alone, and ends in the file."""
    cv2.setNumThreads(1)
    photographs, seed, number = task
    generator = np.random.default_rng([seed, number, 7])
    chosen = generator.choice(len(photographs), 3, replace=False)
    clip = draw_joined([read_photograph(photographs[n]) for n in chosen], [seed, number, 7], steady=True)
    found = []
    with tempfile.TemporaryDirectory() as folder:
        for report in read_shots(write(Path(folder) / "clip.mp4", clip)):
            shot = report.info.worked_on
            number = int((shot.usable[0][0] + shot.usable[0][1]) / 2 * clip.rate)
            at = (number + 0.5) / float(clip.rate)
            filmed, truth = frame_at(report.info, at).encoded(), clip.frames[number]
            ends = np.clip(evaluate(report.advice.grade, filmed, time_s=at), 0, 1)
            first, end = (round(edge * clip.rate) for edge in shot.usable[0])
            own = clip.frames[first:end]
            alone = _apart_at_end(own, own, clip.rate, number - first)
            found.append((_distance(filmed, truth), float(alone.mean()), _distance(ends, truth)))
    return found


def _laid(task: tuple[list[Path], int, int]) -> list[tuple[str, float, float, float]]:
    """How far a faulty clip ends from the truth, by what is laid about or over it.

    (kind, plain, the part that is left filmed alone, with it laid): all of the same part of the picture.
    """
    cv2.setNumThreads(1)
    photographs, seed, number = task
    generator = np.random.default_rng([seed, number, 11])
    photograph = read_photograph(photographs[number % len(photographs)])
    rate = Fraction(str(generator.choice(RATES)))
    count = max(30, round(float(rate) * generator.uniform(2, 4)))
    motion = str(generator.choice(["calm", "walk", "shake"]))
    truth = film_shot(photograph, count, float(rate), generator, motion)
    gain = np.exp2(generator.uniform(-1.8, 0.4) + generator.uniform(-0.25, 0.25, 3)).astype(np.float32)
    filmed = [np.clip(encode_bt709(decode_bt709(frame) * gain), 0, 1).astype(np.float32) for frame in truth]
    plain = _apart_at_end(filmed, truth, rate)
    found = []
    for kind in KINDS:
        laid = lay(filmed, kind, generator)
        with_it = _apart_at_end(laid.frames, truth, rate)
        without = float(plain[laid.picture].mean())
        rows, columns = (np.flatnonzero(laid.picture.any(axis=axis)) for axis in (1, 0))
        part = np.s_[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
        alone = without
        if laid.picture.shape != laid.picture[part].shape:
            alone = float(_apart_at_end([f[part] for f in filmed], [t[part] for t in truth], rate).mean())
        found.append((kind, without, alone, float(with_it[laid.picture].mean())))
    return found


def _apart_at_end(
    frames: Sequence[np.ndarray], truth: Sequence[np.ndarray], rate: Fraction, number: int | None = None
) -> np.ndarray:
    """CIEDE2000 (H, W) from the truth of a frame, the middle one if none is named, corrected as proposed."""
    with tempfile.TemporaryDirectory() as folder:
        report = read_shots(write(Path(folder) / "clip.mp4", Joined(rate=rate, frames=frames)))[0]
        if number is None:
            number = int(report.info.worked_on.spread(3, 0.3, 1 / float(rate))[1] * rate)
        at = (number + 0.5) / float(rate)
        filmed = frame_at(report.info, at).encoded()
    ends = np.clip(evaluate(report.advice.grade, filmed, time_s=at), 0, 1)
    return np.asarray(delta_e_2000(encoded_to_lab(ends), encoded_to_lab(truth[number])))


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
        laid = [p for found in pool.map(_laid, [(photographs, seed, n) for n in range(LAID)]) for p in found]
    for kind in there:
        print(f"  {kind}: {hit[kind]} of {there[kind]} found")
    print(f"  false, by what happens in the clip: {dict(false) or 'none'}")
    _say("shots that were right, joined: than they began", [(began, ends) for began, _, ends in pairs], 0.6)
    _say("the same, than alone", [(alone, ends) for _, alone, ends in pairs], 0.6)
    for kind in KINDS:
        rows = [row[1:] for row in laid if row[0] == kind]
        _say(f"{kind}: than the plain clip", [(plain, ends) for plain, _, ends in rows], FURTHER, QUARTER)
        _say(f"{kind}: than that part alone", [(alone, ends) for _, alone, ends in rows], FURTHER, QUARTER)


def _say(what: str, pairs: Sequence[tuple[float, float]], more: float, times: float = 1.0) -> None:
    further = [b - a for a, b in pairs]
    far = sum(b > max(a + more, a * times) for a, b in pairs)
    print(
        f"  {what}: {np.median(further):+.2f} CIEDE2000 in the median, {max(further):+.2f} at most; "
        f"{far} of {len(pairs)} by more than allowed"
    )


if __name__ == "__main__":
    run(Path(".cache/bench"))
