"""Matching: photographs filmed by two made-up cameras, really encoded, brought to each other.

`python -m bench.match fresh` films every photograph with one camera and matches it to the same photograph by
another camera (CIEDE2000, beside moving each Oklab channel's mean and spread) and to another photograph by
that camera (sliced Wasserstein distance, before and after). Cameras differ in profile, exposure, balance and
saturation. Nothing may be set by `fresh`; `held` serves for that.
"""

from __future__ import annotations

import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

import cv2
import numpy as np

from bench.colour import PHOTOGRAPHS
from bench.simulate import read_photograph
from morphe.core.match.distance import cloud_of, distance
from morphe.core.measure.skin import skin_of_pixels
from morphe.core.pipeline.reference import evaluate
from morphe.core.reading.clip import read_clip
from morphe.core.reading.reference import look_at_reference, match_pictures, skin_masks
from morphe.core.signal.perception import (
    delta_e_2000,
    encoded_to_lab,
    linear_to_oklab,
    oklab_to_linear,
)
from morphe.core.signal.transfer import decode_bt709, encode_bt1886
from morphe.core.standins.cameras import Exposure, film, record

SIZE = (480, 270)
FRAMES = 8
PROFILES = ("std-709", "std-709", "flat-a", "log-mild", "log-lifted")


def _light(path: Path, saturation: float) -> np.ndarray:
    """A photograph as scene light (H, W, 3), its colours a camera's."""
    picture = read_photograph(path)
    height, width = picture.shape[:2]
    tall = min(height, round(width * SIZE[1] / SIZE[0]))
    wide = round(tall * SIZE[0] / SIZE[1])
    top, left = (height - tall) // 2, (width - wide) // 2
    part = cv2.resize(picture[top : top + tall, left : left + wide], SIZE, interpolation=cv2.INTER_AREA)
    lab = linear_to_oklab(decode_bt709(part))
    lab[..., 1:] *= saturation
    return np.clip(oklab_to_linear(lab), 0, None).astype(np.float32)


def _filmed(path: Path, out: Path, generator: np.random.Generator, profile: str) -> Path:
    camera = Exposure(
        profile=profile,
        exposure_stops=float(generator.uniform(-1.0, 0.5)),
        warm_mired=float(generator.uniform(-45, 45)),
        green_duv=float(generator.uniform(-0.006, 0.006)),
    )
    light = _light(path, float(generator.uniform(0.75, 1.25)))
    return record((film(light, camera, generator) for _ in range(FRAMES)), out, camera)


def _moments(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """Each Oklab channel moved to the mean and spread of another picture."""
    here, there = (cloud_of(p.reshape(-1, 3)) for p in (one, other))
    moved = (here - here.mean(0)) / np.maximum(here.std(0), 0.01) * there.std(0) + there.mean(0)
    light = np.clip(oklab_to_linear(moved / 100), 0, 1)
    return np.clip(encode_bt1886(light), 0, 1).reshape(one.shape)


def _apart(one: np.ndarray, other: np.ndarray) -> float:
    return float(
        delta_e_2000(encoded_to_lab(np.clip(one, 0, 1)), encoded_to_lab(np.clip(other, 0, 1))).mean()
    )


def _skin_moved(before: np.ndarray, after: np.ndarray) -> float | None:
    (mask,) = skin_masks((before,))
    if not mask.any():
        return None
    was, now = (skin_of_pixels(p[mask]) for p in (before, after))
    return abs((now.angle_deg - was.angle_deg + 180) % 360 - 180)


def assess(task: tuple[Path, Path, int]) -> dict[str, object]:
    """One photograph to itself and to another, by another camera."""
    path, strange, number = task
    generator = np.random.default_rng(number)
    with tempfile.TemporaryDirectory() as folder:
        profile = PROFILES[number % len(PROFILES)]
        clip = _filmed(path, Path(folder) / "clip.mp4", generator, profile)
        same = _filmed(path, Path(folder) / "same.mp4", generator, "std-709")
        other = _filmed(strange, Path(folder) / "other.mp4", generator, "std-709")
        report = read_clip(clip)
        evidence, advice = report.findings.evidence, report.advice
        here, row = evidence.frames[0], {"name": path.stem, "profile": profile}
        for key, file in (("same", same), ("other", other)):
            wanted = look_at_reference(file)
            found = match_pictures(evidence, advice, wanted, file.name)
            after = np.clip(evaluate(found.grade, here), 0, 1)
            if key == "same":
                row |= {
                    "untouched": _apart(here, wanted[0]),
                    "moments": _apart(_moments(here, wanted[0]), wanted[0]),
                    "ours": _apart(after, wanted[0]),
                }  # fmt: skip
            else:
                before = distance([here], wanted)
                converted = (
                    np.clip(evaluate(found.grade.without_layer("match"), here), 0, 1)
                    if found.grade.has_layer("match")
                    else here
                )
                row |= {
                    "before": before, "after": distance([after], wanted),
                    "spread": distance([_moments(here, wanted[0])], wanted),
                    "skin": _skin_moved(converted, after),
                }  # fmt: skip
    return row


def run(_cache: Path, which: str = "fresh", most: int = 60) -> None:
    """Print every pair and the medians."""
    paths = sorted((PHOTOGRAPHS / which).glob("*.png"))[:most]
    tasks = [(p, paths[(i + 7) % len(paths)], i) for i, p in enumerate(paths)]
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        rows = list(pool.map(assess, tasks))
    for r in rows:
        skin = "" if r["skin"] is None else f" skin {r['skin']:.1f}°"
        print(
            "{name:14} {profile:11} same {untouched:6.2f} {moments:6.2f} {ours:6.2f}".format(**r), end="   "
        )
        print("other {before:6.2f} {spread:6.2f} {after:6.2f}".format(**r) + skin)
    ratio = np.median([r["ours"] / r["moments"] for r in rows])
    gain = np.median([r["after"] / r["before"] for r in rows])
    worse = sum(r["after"] > r["before"] or r["ours"] > r["untouched"] for r in rows)
    skins = [r["skin"] for r in rows if r["skin"] is not None]
    middle = {k: float(np.median([r[k] for r in rows])) for k in ("untouched", "moments", "ours")}
    print(
        f"Match, {len(rows)} pairs: same scene {middle['ours']:.2f} (untouched {middle['untouched']:.2f}, "
        f"mean and spread {middle['moments']:.2f}; {ratio:.2f} of that in the median); another scene "
        f"{gain:.2f} of the distance before; worse {worse}; skin moved {max(skins, default=0):.1f}° at most "
        f"({len(skins)} with skin)"
    )


if __name__ == "__main__":
    run(Path(), next((w for w in sys.argv[1:] if not w.startswith("-")), "fresh"))
