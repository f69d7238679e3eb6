"""Colour truth: how far what is proposed lands from the picture a well set camera would have written.

Photographs are filmed by any camera in any light (see simulate.py), in families of faults. The sets of
photographs do not touch: from `set` estimators are taught, by `held` gates are set, on `fresh` is reported.
A clip's distance is the mean CIEDE2000 at 160 px width, BT.1886 display, D65; a family's is their median.

`python -m bench colour`, or `python -m bench.colour held --told` for another set, told the kind.
"""

from __future__ import annotations

import sys
from collections import defaultdict
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from fractions import Fraction
from multiprocessing import get_context
from pathlib import Path

import cv2
import numpy as np

from bench.simulate import Camera, Faults, any_camera, film_any, kelvin_light, part_of, read_photograph
from morphe.core.advise.evidence import evidence_of_pictures
from morphe.core.advise.judge import judge
from morphe.core.advise.profile.prior import FITTED, FITTED_FLAT
from morphe.core.advise.seen import Seen, seen_through
from morphe.core.footage.info import SignalInfo
from morphe.core.measure.readings import luma_of
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.signal.transfer import decode_bt1886, encode_bt1886
from morphe.core.signal.ycbcr import Matrix, Range, rgb_to_ycbcr, ycbcr_to_rgb

PHOTOGRAPHS = Path(".cache/photographs")
FAMILIES = ("clean", "exposure", "flat", "log", "hdr", "cast", "night", "combo")
WORSE = 0.5  # of CIEDE2000: a person sees it


@dataclass(frozen=True)
class Result:
    """One clip's distances from truth, and what was judged."""

    name: str
    family: str
    untouched: float
    stretched: float
    grey_world: float
    ours: float
    kind: str
    judged: str
    sure: float
    steps: str


def stretch(picture: np.ndarray) -> np.ndarray:
    """Baseline: every channel from its 0.5th to its 99.5th percentile to 0..1."""
    low, high = np.percentile(picture.reshape(-1, 3), [0.5, 99.5], axis=0)
    return np.clip((picture - low) / np.maximum(high - low, 0.02), 0, 1)


def grey_world(picture: np.ndarray) -> np.ndarray:
    """Baseline: channel means made equal in display light, then luma stretched."""
    light = decode_bt1886(np.clip(picture, 0, 1))
    mean = light.reshape(-1, 3).mean(axis=0)
    level = encode_bt1886(light * (mean.mean() / np.maximum(mean, 1e-5)))
    low, high = np.percentile(luma_of(level.astype(np.float32)), [0.5, 99.5])
    return np.clip((level - low) / max(high - low, 0.02), 0, 1)


def distance(picture: np.ndarray, truth: np.ndarray) -> float:
    """Mean CIEDE2000 of two encoded pictures at 160 px width."""
    size = (160, round(160 * truth.shape[0] / truth.shape[1]))
    small = [
        cv2.resize(np.clip(p, 0, 1).astype(np.float32), size, interpolation=cv2.INTER_AREA)
        for p in (picture, truth)
    ]
    return float(delta_e_2000(encoded_to_lab(small[0]), encoded_to_lab(small[1])).mean())


def _light(generator: np.random.Generator) -> tuple[float, float]:
    pick = generator.integers(3)
    if pick == 2:  # a tube or leaves: off the line of lights
        return kelvin_light(
            generator.uniform(3800, 6500), generator.choice([1, 1, -0.6]) * generator.uniform(0.008, 0.02)
        )
    warm = np.exp(generator.uniform(*np.log([2900, 4600])))
    cool = np.exp(generator.uniform(*np.log([8500, 14000])))
    return kelvin_light(float(warm if pick else cool), generator.normal(0, 0.004))


def _filmed_by(family: str, generator: np.random.Generator) -> tuple[Camera, Faults]:
    """A camera and what goes wrong in a family."""
    g = generator
    standard = Camera(key="std-709", curve=PROFILES.get("std-709"), kind=Kind.STANDARD)
    bits = int(g.choice([8, 10]))
    plain = Faults(bits=bits)
    if family == "exposure":
        return standard, replace(plain, stops=float(g.choice([-1, -1, 1]) * g.uniform(0.7, 2.0)))
    if family in ("flat", "log"):
        return any_camera({"flat": FITTED_FLAT, "log": FITTED}[family], g), replace(
            plain, lights=float(g.uniform(0, 2.5))
        )
    if family == "hdr":
        return any_camera("hlg" if g.random() < 0.7 else "pq", g), replace(plain, bits=10)
    if family == "cast":
        mired, duv = _light(g)
        return standard, replace(plain, mired=mired, duv=duv)
    if family == "night":
        mired, duv = kelvin_light(g.uniform(2900, 4500), 0.0) if g.random() < 0.5 else (0.0, 0.0)
        return standard, replace(
            plain, stops=g.uniform(-3.5, -2.0), mired=mired, duv=duv, read=0.0035, shot=6e-4
        )
    if family == "combo":
        stops, (mired, duv) = g.uniform(-1.6, 0.5), _light(g)
        which = int(g.integers(3))
        camera = (standard, any_camera(FITTED_FLAT, g), any_camera(FITTED, g))[which]
        lit = which != 2 or g.random() < 0.5
        plain = replace(plain, stops=stops if which != 1 else 0.0)
        return camera, replace(plain, mired=mired if lit else 0.0, duv=duv if which != 2 else 0.0)
    return standard, plain


def _info(camera: Camera, faults: Faults) -> SignalInfo:
    """What such a file says of itself; its matrix is that by which the picture was read."""
    hdr = camera.kind in (Kind.HLG, Kind.PQ)
    return SignalInfo(
        path=Path("clip.mp4"), codec="hevc", container="mp4", width=1920, height=1080, rotation=0,
        fps=Fraction(25), variable_rate=False, frames=50, duration_s=2.0, bit_depth=faults.bits, chroma="420",
        bitrate=8_000_000, range=Range.NARROW, matrix=Matrix.BT2020 if hdr else Matrix.BT709,
        primaries=Primaries.BT2020 if hdr else Primaries.BT709,
        transfer=str(camera.kind) if hdr else "bt709",
    )  # fmt: skip


def assess(task: tuple[Path, str, int, bool]) -> Result:
    """Film a photograph with the faults of a family, judge it, and measure all distances."""
    cv2.setNumThreads(1)
    path, family, number, told = task
    generator = np.random.default_rng([int(path.stem[:8], 16), FAMILIES.index(family), number, 7])
    camera, faults = _filmed_by(family, generator)
    truth = part_of(read_photograph(path), generator)
    filmed = film_any(truth, camera, faults, generator).picture
    hdr = camera.kind in (Kind.HLG, Kind.PQ)
    if hdr:  # read by the matrix that the file names
        filmed = ycbcr_to_rgb(rgb_to_ycbcr(filmed, Matrix.BT709), Matrix.BT2020).astype(np.float32)
    evidence = evidence_of_pictures(_info(camera, faults), [filmed], [0.0])
    advice = judge(evidence, profile=str(camera.kind) if told else "auto")
    after = seen_through(Seen(pictures=(filmed,), times_s=(0.0,)), advice.grade).pictures[0]
    steps = [
        (s.key, [round(getattr(s, n), 2) for n in type(s).params])
        for _, s in advice.grade.steps()
        if s.at_work
    ]
    return Result(
        name=f"{path.stem}-{number}", family=family,
        untouched=distance(filmed, truth), stretched=distance(stretch(filmed), truth),
        grey_world=distance(grey_world(filmed), truth), ours=distance(after, truth),
        kind=str(camera.kind), judged=str(advice.profile.kind), sure=advice.profile.confidence,
        steps=f"{advice.profile.name} {steps} | {faults.stops:.2f} {faults.mired:.0f} {faults.duv:.3f}",
    )  # fmt: skip


def all_results(
    photographs: Path, *, told: bool, each: int, families: Sequence[str] = FAMILIES
) -> list[Result]:
    paths = sorted(photographs.glob("*.png"))
    tasks = [(p, f, n, told) for f in families for p in paths for n in range(each)]
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        return list(pool.map(assess, tasks, chunksize=8))


def report(results: Sequence[Result]) -> None:
    """Print the table by family, and how often a clip came out worse."""
    groups: dict[str, list[Result]] = defaultdict(list)
    for r in results:
        groups[r.family].append(r)
    print("  family     clips  untouched  stretch   grey   ours  ratio  worse  kind")
    for name, some in [*groups.items(), ("all", list(results))]:
        found = [
            float(np.median([getattr(r, w) for r in some]))
            for w in ("untouched", "stretched", "grey_world", "ours")
        ]
        worse = float(np.mean([r.ours > r.untouched + WORSE for r in some]))
        right = float(np.mean([r.kind == r.judged for r in some]))
        print("  {:10} {:5d} {:10.2f} {:8.2f} {:6.2f} {:6.2f} {:6.2f} {:6.0%} {:5.0%}".format(
            name, len(some), *found, found[3] / min(found[:3]), worse, right
        ))  # fmt: skip
    wrong = [r for r in results if r.judged != r.kind and r.sure >= 0.98]
    print(f"  silently wrong of the profile: {len(wrong)} of {len(results)}")


def run(_cache: Path, which: str = "fresh", each: int = 3) -> None:
    """Report nothing told and told the kind, on photographs that served for nothing else."""
    folder = PHOTOGRAPHS / which
    for told in (False, True):
        print(f"Colour truth, {'told the kind' if told else 'nothing told'}, photographs “{which}”:")
        report(all_results(folder, told=told, each=each))


if __name__ == "__main__":
    words = sys.argv[1:]
    chosen = next((w for w in words if not w.startswith("-")), "fresh")
    some = [w[2:].split("=")[1].split(",") for w in words if w.startswith("--families=")]
    found = all_results(
        PHOTOGRAPHS / chosen,
        told="--told" in words,
        each=2,
        families=some[0] if some else FAMILIES,
    )
    report(found)
    if "--clips" in words:
        for r in sorted(found, key=lambda r: (r.family, r.untouched - r.ours)):
            print(f"{r.family:9} {r.name} {r.untouched:6.2f} {r.ours:6.2f}", end=" ")
            print(f"{r.kind}>{r.judged} {r.sure:.2f} {r.steps}")
