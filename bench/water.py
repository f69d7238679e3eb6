"""Water: how near what is restored comes to what a diver would like to see, on photographs put under water.

Photographs are filmed in any water, depth, distance and camera (see waters.py), and written as integer
Y'CbCr. What was taught came from other photographs (see teach_water.py). A clip's distance is the mean
CIEDE2000 at 160 px width; the baselines are grey world and a stretch of every channel.

`python -m bench water`, or `python -m bench.water held` for another set of photographs.
"""

from __future__ import annotations

import sys
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path

import cv2
import numpy as np

from bench.colour import FAMILIES, PHOTOGRAPHS, WORSE, _filmed_by, _info, distance, grey_world, stretch
from bench.simulate import film_any, part_of, read_photograph
from bench.waters import Filmed, film_under_water
from morphe.core.advise.evidence import Evidence, evidence_of_pictures
from morphe.core.advise.judge import judge
from morphe.core.advise.rung import Advice
from morphe.core.advise.seen import Seen, seen_through
from morphe.core.advise.wetness import ASK_FROM, SURE, wetness
from morphe.core.signal.perception import linear_to_oklab
from morphe.core.signal.transfer import decode_bt1886
from morphe.core.water.hints import WaterHints

EACH, DRY = 6, 4
NAMES = ("nothing told", "that it is wet", "depth, distance, water", "and the kind of profile")
NEAR_HUE, NEAR_SHARE = 12, 0.15
ENOUGH = 0.02  # of the picture: so much open water has a colour that can be compared


@dataclass(frozen=True)
class Result:
    """One clip's distances from what is wanted, by what was told."""

    untouched: float
    stretched: float
    grey_world: float
    ours: tuple[float, ...]
    wet: float
    hue_off: float  # degrees by which open water misses its hue; nan without open water
    share: float  # of red, said to be recoverable
    true_share: float


def _hints(filmed: Filmed, told: int) -> WaterHints:
    if told == 0:
        return WaterHints()
    return WaterHints(wet=True) if told == 1 else filmed.hints


def advised(filmed: Filmed, told: int) -> tuple[Advice, np.ndarray]:
    evidence = evidence_of_pictures(_info(filmed.camera, filmed.faults), [filmed.picture], [0.0])
    profile = str(filmed.camera.kind) if told == 3 else "auto"
    advice = judge(evidence, profile=profile, water=_hints(filmed, told))
    seen = seen_through(Seen(pictures=(filmed.picture,), times_s=(0.0,)), advice.grade)
    return advice, seen.pictures[0]


def hue_of(picture: np.ndarray) -> float:
    lab = linear_to_oklab(decode_bt1886(np.clip(picture.reshape(-1, 3).mean(axis=0), 0, 1)))
    return float(np.degrees(np.arctan2(lab[2], lab[1])))


def _hue_off(filmed: Filmed, picture: np.ndarray) -> float:
    open_water = np.isinf(filmed.distances)
    if open_water.mean() < ENOUGH:
        return float("nan")
    away = hue_of(picture[open_water]) - hue_of(filmed.truth[open_water])
    return abs((away + 180) % 360 - 180)


def _true_share(filmed: Filmed) -> float:
    """Share of the near subject's pixels whose red lies four deviations of its own noise above nothing."""
    near = np.isfinite(filmed.distances)
    red = decode_bt1886(np.clip(filmed.truth[near], 0, 1))[:, 0] * filmed.left[0] * filmed.gains[0]
    stray = (2.0 if filmed.faults.bits == 8 else 0.5) / 219 / 4.5
    return float((red > 4 * np.hypot(stray, filmed.faults.read)).mean())


def assess(task: tuple[Path, int]) -> Result:
    """Film a photograph under water, judge it with ever more told, and measure all distances."""
    cv2.setNumThreads(1)
    path, number = task
    generator = np.random.default_rng([int(path.stem[:8], 16), number, 77])
    filmed = film_under_water(part_of(read_photograph(path), generator), generator)
    found = [advised(filmed, told) for told in range(len(NAMES))]
    wet = found[1][0].water
    can = wet.recoverable.share if wet else float("nan")
    evidence = evidence_of_pictures(_info(filmed.camera, filmed.faults), [filmed.picture], [0.0])
    return Result(
        untouched=distance(filmed.picture, filmed.truth),
        stretched=distance(stretch(filmed.picture), filmed.truth),
        grey_world=distance(grey_world(filmed.picture), filmed.truth),
        ours=tuple(distance(after, filmed.truth) for _, after in found),
        wet=wetness(evidence), hue_off=_hue_off(filmed, found[1][1]),
        share=can, true_share=_true_share(filmed),
    )  # fmt: skip


def dry_wetness(task: tuple[Path, int]) -> float:
    """How likely wet a dry clip of the colour bench is taken for."""
    cv2.setNumThreads(1)
    path, number = task
    family = FAMILIES[number % len(FAMILIES)]
    generator = np.random.default_rng([int(path.stem[:8], 16), number, 78])
    camera, faults = _filmed_by(family, generator)
    filmed = film_any(part_of(read_photograph(path), generator), camera, faults, generator)
    evidence: Evidence = evidence_of_pictures(_info(camera, faults), [filmed.picture], [0.0])
    return wetness(evidence)


def report(results: Sequence[Result], dry: Sequence[float]) -> None:
    names = ("untouched", "stretched", "grey_world")
    medians = [float(np.median([getattr(r, name) for r in results])) for name in names]
    best = min(medians[1:])
    print("  {} clips: untouched {:.2f}, stretched {:.2f}, grey world {:.2f}".format(len(results), *medians))
    for told, name in enumerate(NAMES):
        ours = np.array([r.ours[told] for r in results])
        worse = np.mean([r.ours[told] > r.untouched + WORSE for r in results])
        middle = np.median(ours)
        print(f"  {name}: {middle:.2f}, {middle / best:.2f} of the better baseline, worse {worse:.0%}")
    hues = np.array([r.hue_off for r in results if np.isfinite(r.hue_off)])
    print(
        f"  hue of open water: {np.median(hues):.0f}° off, {np.mean(hues <= NEAR_HUE):.0%} within {NEAR_HUE}°"
    )
    for name, wet in (("wet", np.array([r.wet for r in results])), ("dry", np.array(dry))):
        taken, asked = np.mean(wet >= SURE), np.mean((wet >= ASK_FROM) & (wet < SURE))
        print(f"  {len(wet)} {name} clips: {taken:.1%} taken for wet, {asked:.1%} asked")
    missed = np.array([abs(r.share - r.true_share) for r in results if np.isfinite(r.share)])
    middle, near = 100 * np.median(missed), np.mean(missed <= NEAR_SHARE)
    print(f"  recoverable red: missed by {middle:.0f} points (median), {near:.0%} within 15")


def run(_cache: Path, which: str = "fresh", each: int = EACH) -> None:
    """Report on photographs that served for nothing else."""
    paths = sorted((PHOTOGRAPHS / which).glob("*.png"))
    print(f"Water, photographs “{which}”:", flush=True)
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        results = list(pool.map(assess, [(p, n) for p in paths for n in range(each)], chunksize=4))
        dry = list(pool.map(dry_wetness, [(p, n) for p in paths for n in range(2 * DRY)], chunksize=8))
    report(results, dry)


if __name__ == "__main__":
    run(Path(".cache/bench"), *sys.argv[1:2])
