"""Water: how near what is restored comes to what a diver would like to see, on photographs put under water.

Photographs are filmed in any water, depth, distance and camera (see waters.py), encoded as 8 or 10 bits and
decoded again. What was taught came from other photographs (see teach_water.py). The made-up meadow is filmed
in three waters at three depths, with a lamp and without; nothing was taught by it. A clip's distance is the
mean CIEDE2000 at 160 px width; the baselines are grey world and a stretch of every channel.

`python -m bench water`, or `python -m bench.water held` for another set of photographs.
"""

from __future__ import annotations

import sys
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np

from bench.colour import FAMILIES, PHOTOGRAPHS, WORSE, _filmed_by, _info, distance, grey_world, stretch
from bench.simulate import film_any, part_of, read_photograph
from bench.waters import Filmed, film_dive, film_under_water
from morphe.core.advise.evidence import Evidence, evidence_of_pictures
from morphe.core.advise.judge import judge
from morphe.core.advise.rung import Advice
from morphe.core.advise.seen import Seen, seen_through
from morphe.core.advise.water.wetness import ASK_FROM, SURE, wetness
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.signal.perception import linear_to_oklab
from morphe.core.signal.transfer import decode_bt1886
from morphe.core.signal.ycbcr import Matrix, rgb_to_ycbcr
from morphe.core.standins.cameras import Exposure, record
from morphe.core.standins.jetty import SKIN_TONES
from morphe.core.standins.seagrass import render_seagrass
from morphe.core.water.hints import WaterHints
from morphe.core.water.imaging import Dive, water_of

EACH, DRY = 6, 4
FRAMES, MIDDLE_S = 8, 0.16  # of every file; the moment that is looked at
ENLARGED = 3  # before it is encoded: a file holds more pixels than detail
WATERS, DEPTHS = ("IB", "II", "3C"), (2.0, 5.0, 9.0)
SKIN_LINE, NEAR_SKIN, SKIN_DIFFERS = 123.0, 6, 0.02
HALF = 0.5
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
    skin_off: float  # degrees from the line of skin, hints told; nan without skin
    skin_was: float  # the same as filmed


def _hints(filmed: Filmed, told: int) -> WaterHints:
    if told == 0:
        return WaterHints()
    return WaterHints(wet=True) if told == 1 else filmed.hints


def written(filmed: Filmed) -> tuple[Filmed, Evidence]:
    """A filmed picture as it comes back from a file of its bits, and the file's evidence."""
    height, width = (side - side % 2 for side in filmed.picture.shape[:2])
    parts = {name: getattr(filmed, name)[:height, :width] for name in ("picture", "truth", "distances")}
    bits = filmed.faults.bits
    codec = "libx264" if bits == 8 else "libx265"
    large = cv2.resize(parts["picture"], (ENLARGED * width, ENLARGED * height), interpolation=cv2.INTER_CUBIC)
    with TemporaryDirectory() as folder:
        path = record([large] * FRAMES, Path(folder) / "dive.mp4", Exposure(bit_depth=bits, codec=codec))
        info = probe(path)
        found = frame_at(info, MIDDLE_S).encoded().astype(np.float32)
    found = cv2.resize(found, (width, height), interpolation=cv2.INTER_AREA)
    evidence = evidence_of_pictures(info, [found], [0.0])
    return replace(filmed, **{**parts, "picture": found}), evidence


def advised(filmed: Filmed, evidence: Evidence, told: int) -> tuple[Advice, np.ndarray]:
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
    return _measured(film_under_water(part_of(read_photograph(path), generator), generator))


def assess_meadow(task: tuple[str, float, bool]) -> Result:
    """Film the made-up meadow, somebody swimming in it, and measure the same."""
    cv2.setNumThreads(1)
    water, depth_m, lit = task
    generator = np.random.default_rng([int(depth_m), len(water), lit, 79])
    skins = list(SKIN_TONES)
    skin, other = (skins[(int(depth_m) + lit + n) % len(skins)] for n in (0, 2))
    (light, distances), (changed, _) = (
        render_seagrass(1.3, width=480, height=270, skin=s) for s in (skin, other)
    )
    dive = Dive(water=water_of(water), depth_m=depth_m, lamp=(1.2, 1.1, 1.0) if lit else (0.0, 0.0, 0.0))
    filmed = film_dive(light, distances, dive, water, generator)
    return _measured(filmed, skin=np.abs(changed - light).max(axis=-1) > SKIN_DIFFERS)


def _measured(filmed: Filmed, skin: np.ndarray | None = None) -> Result:
    filmed, evidence = written(filmed)
    found = [advised(filmed, evidence, told) for told in range(len(NAMES))]
    wet = found[1][0].water
    can = wet.recoverable.share if wet else float("nan")
    return Result(
        untouched=distance(filmed.picture, filmed.truth),
        stretched=distance(stretch(filmed.picture), filmed.truth),
        grey_world=distance(grey_world(filmed.picture), filmed.truth),
        ours=tuple(distance(after, filmed.truth) for _, after in found),
        wet=wetness(evidence), hue_off=_hue_off(filmed, found[1][1]),
        share=can, true_share=_true_share(filmed),
        skin_off=float("nan") if skin is None else off_line(found[2][1][skin]),
        skin_was=float("nan") if skin is None else off_line(filmed.picture[skin]),
    )  # fmt: skip


def off_line(pixels: np.ndarray) -> float:
    """Degrees by which the mean of pixels (n, 3) misses the line of skin, in the plane of Cb and Cr."""
    _, blue, red = rgb_to_ycbcr(pixels.mean(axis=0), Matrix.BT709)
    away = float(np.degrees(np.arctan2(red, blue))) - SKIN_LINE
    return abs((away + 180) % 360 - 180)


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


def report(results: Sequence[Result]) -> None:
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
    near = np.mean(hues <= NEAR_HUE)
    print(f"  hue of open water: {np.median(hues):.0f}° off, {near:.0%} within {NEAR_HUE}°")
    missed = np.array([abs(r.share - r.true_share) for r in results if np.isfinite(r.share)])
    middle, near = 100 * np.median(missed), np.mean(missed <= NEAR_SHARE)
    print(f"  recoverable red: missed by {middle:.0f} points (median), {near:.0%} within 15")
    skins = [(r.skin_was, r.skin_off) for r in results if np.isfinite(r.skin_off) and r.true_share > HALF]
    if skins:
        was, off = np.median(skins, axis=0)
        near = np.mean([off <= NEAR_SKIN for _, off in skins])
        print(f"  skin where red is there: {was:.0f}° off its line, then {off:.0f}°, {near:.0%} within 6°")


def report_wetness(wet: Sequence[float], dry: Sequence[float]) -> None:
    for name, found in (("wet", np.array(wet)), ("dry", np.array(dry))):
        taken, asked = np.mean(found >= SURE), np.mean((found >= ASK_FROM) & (found < SURE))
        print(f"  {len(found)} {name} clips: {taken:.1%} taken for wet, {asked:.1%} asked")


def run(_cache: Path, which: str = "fresh", each: int = EACH) -> None:
    """Report on photographs that served for nothing else, and on the meadow."""
    paths = sorted((PHOTOGRAPHS / which).glob("*.png"))
    meadow = [(water, depth, lit) for water in WATERS for depth in DEPTHS for lit in (False, True)]
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        print(f"Water, photographs “{which}”:", flush=True)
        results = list(pool.map(assess, [(p, n) for p in paths for n in range(each)], chunksize=4))
        report(results)
        dry = list(pool.map(dry_wetness, [(p, n) for p in paths for n in range(2 * DRY)], chunksize=8))
        report_wetness([r.wet for r in results], dry)
        print("Water, the made-up meadow:", flush=True)
        report(list(pool.map(assess_meadow, meadow)))


if __name__ == "__main__":
    run(Path(".cache/bench"), *sys.argv[1:2])
