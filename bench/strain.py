"""Strain: whether the gauge foresees the banding that a rendered file shows.

Stand-ins and photographs are recorded by made-up cameras of 8 and 10 bits, graded in many ways, rendered to
files and decoded again. What was foreseen from the source alone is set against what is measured in the file.

`python -m bench strain`
"""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np
from scipy.stats import spearmanr

from bench.colour import PHOTOGRAPHS
from bench.simulate import read_photograph
from morphe.core.advise.whole.strain import strain_of
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import Planes
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, BlackPoint, Contrast, Exposure, MidLevel, Saturation
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.render import render
from morphe.core.measure.banding import banding_index, runs_of, step_lightness
from morphe.core.measure.file_strength import strength_of_planes
from morphe.core.signal.arrays import Linear
from morphe.core.signal.transfer import decode_bt709
from morphe.core.standins.cameras import Exposure as Filmed
from morphe.core.standins.cameras import film, record
from morphe.core.standins.demo import render_scene

CLIPS, FRAMES, SIZE = 60, 6, (640, 360)
SCENES = ("sluice-round", "sluice-approach", "jetty-tan", "seagrass-5", "seagrass-2")
PROFILES = ("std-709", "std-709", "flat-a", "log-mild", "log-wide")
MOMENT_S = 0.1


def measured(planes: Planes) -> float:
    return banding_index(runs_of(planes.luma, planes.bit_depth), step_lightness(planes.bit_depth))


def _light(number: int, generator: np.random.Generator) -> Linear:
    if number % 2:
        return render_scene(SCENES[number // 2 % len(SCENES)], 0.5, width=SIZE[0], height=SIZE[1])
    paths = sorted((PHOTOGRAPHS / "fresh").glob("*.png"))
    photograph = cv2.resize(read_photograph(paths[int(generator.integers(len(paths)))]), SIZE)
    return decode_bt709(np.clip(photograph, 0, 1)).astype(np.float32)


def _grade(profile: str, generator: np.random.Generator) -> Grade:
    g = generator
    steps = [
        Exposure(stops=float(g.uniform(-1, 1.5))), Contrast(amount=float(g.uniform(-20, 80))),
        BlackPoint(lower=float(g.uniform(-2, 8))), MidLevel(lift=float(g.uniform(-10, 15))),
        Saturation(amount=float(g.uniform(-20, 60))), Balance(warmth=float(g.uniform(-40, 60))),
    ]  # fmt: skip
    kept = [step for step in steps if g.random() < 0.6]
    return Grade.of(Convert(profile=profile), *kept)


def assess(number: int) -> tuple[float, float, float, int]:
    """One clip: banding foreseen, banding measured before and after, and its bits."""
    cv2.setNumThreads(1)
    generator = np.random.default_rng([number, 81])
    bits = 8 if number % 4 < 2 else 10
    profile = PROFILES[int(generator.integers(len(PROFILES)))]
    filmed = Filmed(
        profile=profile, bit_depth=bits, codec="libx264" if bits == 8 else "libx265",
        noise=float(generator.choice([0.0, 0.0003, 0.001, 0.003])),
        sharpening=float(generator.choice([0, 0.25])),
        bits_per_pixel=float(generator.uniform(0.1, 0.5)),
    )  # fmt: skip
    light, grade = _light(number, generator), _grade(profile, generator)
    with TemporaryDirectory() as folder:
        source, out = Path(folder) / "filmed.mp4", Path(folder) / "graded.mp4"
        record((film(light, filmed, generator) for _ in range(FRAMES)), source, filmed)
        info: SignalInfo = probe(source)
        before = frame_at(info, MOMENT_S)
        render(info, grade, out, Delivery.of("web"))
        after = frame_at(probe(out), MOMENT_S)
    return strain_of(strength_of_planes([before]), grade).banding, measured(before), measured(after), bits


def run(_cache: Path, clips: int = CLIPS) -> None:
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        found = np.array(list(pool.map(assess, range(clips))))
    foreseen, before, after, bits = found.T
    rank = float(spearmanr(foreseen, after).statistic)
    print(f"Strain, {clips} graded clips of 8 and 10 bits:")
    print(f"  banding foreseen against measured: Spearman {rank:.2f}")
    print(
        f"  what the source shows alone against measured: Spearman {spearmanr(before, after).statistic:.2f}"
    )
    for depth in (8, 10):
        some = bits == depth
        rank = float(spearmanr(foreseen[some], after[some]).statistic)
        print(f"  {depth} bits: Spearman {rank:.2f}, measured {np.median(after[some]):.3f} in the median")


if __name__ == "__main__":
    run(Path(".cache/bench"))
