"""Speed of a render as a whole process, against the limit and FFmpeg's own lut3d filter."""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np

from bench.footage import DEMO
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import planes_from_frame
from morphe.core.footage.probe import open_clip, probe
from morphe.core.footage.reader import frames_at
from morphe.core.grade.convert import Convert
from morphe.core.grade.denoise import Denoise
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.recipe import to_text
from morphe.core.grade.region import Ellipse, Line, Place, Region
from morphe.core.grade.steps import (
    Balance,
    Bars,
    BlackPoint,
    Contrast,
    Exposure,
    Glow,
    Grain,
    HoldLights,
    Saturation,
    Sharpen,
    Vignette,
)
from morphe.core.interchange.cube import cube_text
from morphe.core.pipeline.cube import bake_grade
from morphe.core.pipeline.passes import compile_grade
from morphe.core.pipeline.planes import Grader, to_420
from morphe.core.pipeline.tables import CodesIn
from morphe.core.standins.cameras import Exposure as Filmed
from morphe.core.standins.cameras import record
from morphe.core.standins.demo import DEMO_CLIPS

FULL_CORRECTION = Grade.of(
    Convert(profile="log-mild"),
    Exposure(stops=0.4),
    Balance(warmth=20, tint=2),
    HoldLights(stops=1.0),
    BlackPoint(lower=2),
    Contrast(amount=8),
    Saturation(amount=8),
)
FACE = Region(shape=Ellipse(wide=0.2, tall=0.25), feather=0.15).put(Place(x=0.4, y=0.45))
SKY = Region(shape=Line(), feather=0.3).put(Place(y=0.35, turn=8))
WITH_REGIONS = (
    FULL_CORRECTION.with_layer(Layer(id="face", steps=(Exposure(stops=0.3),), region=FACE))
    .with_layer(Layer(id="sky", steps=(Exposure(stops=-0.4), Saturation(amount=6)), region=SKY))
    .with_layer(Layer(id="finish", scope=Scope.FINISH, steps=(Sharpen(amount=3),)))
)
FINISH = Layer(
    id="finish", scope=Scope.FINISH,
    steps=(Glow(amount=20), Vignette(amount=20), Sharpen(amount=3), Grain(amount=2), Bars(ratio=2.35)),
)  # fmt: skip
SIZES = {"1080p": (1920, 1080, 300), "4K": (3840, 2160, 100)}
ROUNDS = 3  # taken in turns; the median of their ratios counts, for machines are noisy


def footage(cache: Path, name: str) -> Path:
    """An 8-bit clip of that size, enlarged from the demo, at an honest bitrate."""
    width, height, count = SIZES[name]
    path = cache / f"render-{name}.mp4"
    if path.exists():
        return path
    info = probe(DEMO / DEMO_CLIPS[3].name)
    there = [i / float(info.fps) for i in range(info.frames)]

    def pictures() -> Iterator[np.ndarray]:
        kept = [planes for _, planes in frames_at(info, there)]
        for planes in (2 * (kept + kept[::-1]))[:count]:
            yield cv2.resize(planes.encoded(), (width, height), interpolation=cv2.INTER_CUBIC)

    record(pictures(), path, Filmed(bits_per_pixel=0.25))
    return path


def _corrected(cache: Path, info: SignalInfo, name: str) -> Path:
    """The same clip as its correction looks, in raw codes: what the limit encodes."""
    path = cache / f"corrected-{name}.yuv"
    if not path.exists():
        codes = CodesIn(bit_depth=8, range=info.effective_range, matrix=info.effective_matrix)
        grader = Grader(compile_grade(FULL_CORRECTION), codes, 8)
        with path.open("wb") as out, open_clip(info.path) as source:
            for number, frame in enumerate(source.decode(video=0)):
                planes = to_420(planes_from_frame(frame, info), bits=8)
                made = tuple(np.empty_like(p) for p in planes)
                grader.grade(planes, number / float(info.fps), (made[0], made[1], made[2]), frame=number)
                for plane in made:
                    out.write(plane.tobytes())
    return path


def _seconds(command: list[str]) -> float:
    started = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - started


def _rate(cache: Path, info: SignalInfo, morphe: str, out: str, grade: Grade) -> float:
    """Frames a second of a whole process."""
    recipe = cache / "rate.json"
    recipe.write_text(to_text(grade))
    seconds = _seconds([morphe, "render", str(info.path), "--recipe", str(recipe), "--out", out])
    Path(out).unlink()
    return info.frames / seconds


def run(cache: Path) -> None:
    """Print how long whole processes take, each beside the limit, taken in turns."""
    out = str(cache / "render-out.mp4")
    cube, plain, full = cache / "correction-33.cube", cache / "full.json", cache / "regions.json"
    cube.write_text(cube_text(bake_grade(FULL_CORRECTION, size=33, domain=(0.0, 1.0)), title="bench"))
    plain.write_text(to_text(FULL_CORRECTION))
    full.write_text(to_text(WITH_REGIONS))
    morphe = str(Path(sys.executable).with_name("morphe"))
    python = [sys.executable, "-m", "bench.transcode"]
    print(
        "Whole processes, x264 veryfast: share of the rate of the limit, which decodes the clip and encodes"
    )
    print("the corrected picture from a raw file (medians)")
    for name in SIZES:
        info = probe(footage(cache, name))
        clip, limit = str(info.path), str(_corrected(cache, info, name))
        ways = {
            "limit": [*python, "limit", clip, limit, out],
            "full correction": [morphe, "render", clip, "--recipe", str(plain), "--out", out],
            "two regions and sharpening": [morphe, "render", clip, "--recipe", str(full), "--out", out],
            "lut3d": [*python, "lut3d", clip, out, str(cube)],
        }
        rounds = [{label: _seconds(way) for label, way in ways.items()} for _ in range(ROUNDS)]
        Path(out).unlink()
        said = ", ".join(
            f"{label} {np.median([r['limit'] / r[label] for r in rounds]):.2f}"
            for label in ways
            if label != "limit"
        )
        if name == "1080p":
            noise = Denoise(luma=60, colour=80, over_time=50, noise=3.0, height=info.height)
            cleaned = _rate(cache, info, morphe, out, FULL_CORRECTION.with_step(noise))
            finished = _rate(cache, info, morphe, out, FULL_CORRECTION.with_layer(FINISH))
            print(
                f"  {name}, frames a second: noise taken out as well {cleaned:.1f}, finished {finished:.1f}"
            )
        rate = info.frames / np.median([r["limit"] for r in rounds])
        over = np.median([r["lut3d"] / r["two regions and sharpening"] for r in rounds])
        print(
            f"  {name}: {said}; limit {rate:.0f} frames a second; regions at {over:.2f} of lut3d's rate",
            flush=True,
        )
