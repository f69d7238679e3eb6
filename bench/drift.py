"""Light that wanders: moving photographs, really encoded, whose exposure and balance slide meanwhile.

`python -m bench.drift held` corrects each of them as `morphe correct` does and prints the median distance
from truth beside that of plain baselines, and how much of the wander is left; with `--steady` nothing
wanders, and nothing should be changed.
"""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

import cv2
import numpy as np

from bench.colour import PHOTOGRAPHS, distance, grey_world, stretch
from bench.simulate import read_photograph
from morphe.core.footage.series import sample_clip
from morphe.core.pipeline.reference import evaluate
from morphe.core.reading.clip import read_clip
from morphe.core.signal.light import light_rgb
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.transfer import decode_bt709
from morphe.core.standins.cameras import Exposure, film, record

SIZE, FPS, SECONDS = (640, 360), 25, 4
WAYS = ("slide", "step", "wave", "steady")


def _shape(way: str, generator: np.random.Generator) -> np.ndarray:
    """The wander over the clip, about -0.5..0.5."""
    t = np.linspace(0, 1, FPS * SECONDS)
    if way == "slide":
        return t - generator.uniform(0.2, 0.8)
    if way == "step":
        at = generator.uniform(0.3, 0.7)
        return 1 / (1 + np.exp(-(t - at) * 18)) - 0.5
    if way == "steady":
        return 0 * t
    return 0.5 * np.sin(2 * np.pi * (generator.uniform(0.7, 1.5) * t + generator.uniform()))


def _moving(photograph: np.ndarray, generator: np.random.Generator) -> Iterator[np.ndarray]:
    """Frames of a slow pan and zoom over a photograph."""
    height, width = photograph.shape[:2]
    share = generator.uniform(0.55, 0.75, 2)
    ends = generator.uniform(0.1, 0.9, (2, 2))
    for at in np.linspace(0, 1, FPS * SECONDS):
        wide = min(width, height * 16 / 9) * ((1 - at) * share[0] + at * share[1])
        place = (1 - at) * ends[0] + at * ends[1]
        x, y = place * (width - wide, height - wide * 9 / 16)
        scale = wide / SIZE[0]
        view = np.array([[scale, 0, x + scale / 2], [0, scale, y + scale / 2]])
        flags = cv2.WARP_INVERSE_MAP | cv2.INTER_LINEAR
        yield np.clip(cv2.warpAffine(photograph, view, SIZE, flags=flags), 0, 1)


def assess(task: tuple[Path, str]) -> dict[str, float | str]:
    """Film, encode, correct and measure one clip."""
    cv2.setNumThreads(1)
    path, way = task
    generator = np.random.default_rng([int(path.stem[:8], 16), WAYS.index(way)])
    frames = list(_moving(read_photograph(path), generator))
    wander = _shape(way, generator)
    stops, mired = generator.uniform(0.8, 2.0) * wander, generator.choice([0.0, 70.0, -70.0]) * wander
    noise = Exposure(noise=0.0012, bit_depth=int(generator.choice([8, 10])), bits_per_pixel=0.15)
    casts = [light_rgb(m, 0.0) for m in mired]
    casts = [c / (c @ LUMINANCE_709) * 2.0**s for c, s in zip(casts, stops, strict=True)]
    written = (
        film(decode_bt709(f).astype(np.float32) * np.asarray(c, np.float32), noise, generator)
        for f, c in zip(frames, casts, strict=True)
    )
    with tempfile.TemporaryDirectory() as folder:
        report = read_clip(record(written, Path(folder) / "clip.mp4", noise), over_time=True)
        samples = sample_clip(report.info)
    grade, drift = report.advice.grade, report.advice.drift
    rows, size = [], (160, 90)
    for time, seen in zip(samples.times_s, samples.pictures, strict=True):
        truth = cv2.resize(
            frames[min(round(time * FPS), len(frames) - 1)], size, interpolation=cv2.INTER_AREA
        )
        seen = cv2.resize(seen, size, interpolation=cv2.INTER_AREA)
        after = np.clip(evaluate(grade, seen, time_s=time), 0, 1)
        rows.append(
            [distance(p, truth) for p in (seen, stretch(seen), grey_world(seen), after)]
            + [_off(after, truth)]
        )
    found = np.median(np.array(rows), axis=0)
    track = np.array(drift.track) if drift and drift.track else np.zeros((1, 4))
    at = (track[:, 0] * FPS).round().astype(int).clip(0, len(stops) - 1)
    error = track[:, 1:] - np.log2(np.array(casts))[at]
    return {
        "name": f"{path.stem} {way}", "untouched": found[0], "stretch": found[1], "grey": found[2],
        "ours": found[3], "left": float(np.std([r[4] for r in rows])),
        "track": float(error.std(axis=0).max()), "range": float(np.ptp(stops)),
        "steps": str([(s.key, s.summary) for _, s in grade.steps() if s.at_work]),
    }  # fmt: skip


def _off(picture: np.ndarray, truth: np.ndarray) -> float:
    """Stops between the medians of two pictures' light."""
    levels = [np.median(decode_bt709(p) @ LUMINANCE_709) for p in (picture, truth)]
    return float(np.log2(max(levels[0], 1e-4) / max(levels[1], 1e-4)))


def run(_cache: Path, which: str = "fresh", *, steady: bool = False) -> None:
    """Print every clip and the medians."""
    paths = sorted((PHOTOGRAPHS / which).glob("*.png"))
    ways = WAYS[-1:] if steady else WAYS[:-1]
    tasks = [(p, ways[i % len(ways)]) for i, p in enumerate(paths)]
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        found = list(pool.map(assess, tasks))
    for r in sorted(found, key=lambda r: r["left"]):
        print("{name:20} {untouched:6.2f} {ours:6.2f}".format(**r), end="  ")
        print("left {left:.3f} track {track:.3f} of {range:.2f} {steps}".format(**r))
    middle = {
        k: float(np.median([r[k] for r in found])) for k in ("untouched", "stretch", "grey", "ours", "left")
    }
    best = min(middle[k] for k in ("untouched", "stretch", "grey"))
    print(
        f"Drift, {len(found)} clips: ours {middle['ours']:.2f}, untouched {middle['untouched']:.2f}, "
        f"ratio {middle['ours'] / best:.2f}; left {middle['left']:.3f} stop (median), "
        f"{max(r['left'] for r in found):.3f} at most"
    )


if __name__ == "__main__":
    words = sys.argv[1:]
    run(Path(), next((w for w in words if not w.startswith("-")), "fresh"), steady="--steady" in words)
