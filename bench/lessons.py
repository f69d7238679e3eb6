"""Lessons for what is taught: photographs filmed by any camera, reduced once to what the teachers look at.

`python -m bench.lessons` writes `.cache/lessons/set.npz` from the photographs of the set (see photographs.py)
and `held.npz` from those held back, by a fixed seed for every photograph.
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import cv2
import numpy as np

from bench.simulate import any_camera, any_faults, film_any, light_of, part_of, read_photograph
from morphe.core.advise.light.votes import histograms
from morphe.core.advise.profile.resemblance import CLASSES, traits_of
from morphe.core.signal.families import FAMILIES, Landing, curve_of
from morphe.core.signal.light import adaptation_matrix
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.transfer import decode_bt709

SHARES = {
    "std-709": 0.30, "vivid-a": 0.02, "flat-a": 0.03, "log-mild": 0.03, "log-lifted": 0.03,
    "log-wide": 0.03, "fitted": 0.24, "fitted-flat": 0.20, "hlg": 0.07, "pq": 0.05,
}  # fmt: skip
EACH = {"set": 200, "held": 60}
FIELDS = ("traits", "classes", "landing", "stops", "colour", "light", "bits", "votes")
LUMA = LUMINANCE_709.astype(np.float32)


def _lesson(photograph, generator):  # type: ignore[no-untyped-def]
    at = int(generator.choice(len(CLASSES), p=[SHARES[c] for c in CLASSES]))
    camera = any_camera(CLASSES[at], generator)
    faults = any_faults(camera, generator)
    filmed = film_any(part_of(photograph, generator), camera, faults, generator)
    lit = decode_bt709(filmed.truth).astype(np.float32)
    if faults.is_lit:
        lit = np.maximum(lit @ np.linalg.inv(adaptation_matrix(faults.mired, faults.duv)).T, 0)
    picture = filmed.picture.reshape(-1, 3)
    light, colour = _righted(filmed, camera, lit.reshape(-1, 3), generator)
    return (
        traits_of(picture), at, filmed.landing, faults.stops, colour, light_of(faults), faults.bits,
        histograms([light.reshape(filmed.picture.shape)]),
    )  # fmt: skip


def _righted(filmed, camera, lit, generator):  # type: ignore[no-untyped-def]
    """Light (n, 3) after about the right conversion, and the gain of colour that it needs."""
    picture = filmed.picture.reshape(-1, 3)
    stops, kind = filmed.faults.stops, camera.kind
    if kind in FAMILIES:
        black, grey, white = np.array(filmed.landing) + generator.normal(0, (0.006, 0.012, 0.02))
        landing = Landing(black=black, grey=max(grey, black + 0.05), white=max(white, grey + 0.08))
        light = curve_of(kind, landing).decode(np.clip(picture, -0.1, 1.2)).astype(np.float32)
    else:
        light = decode_bt709(picture).astype(np.float32) * np.float32(
            2.0 ** (generator.normal(0, 0.15) - stops)
        )
    grey, want = light @ LUMA, lit @ LUMA
    ok = (lit.max(axis=1) < 0.9) & (grey < 1.2)
    a, b = (light - grey[:, None])[ok].ravel(), (lit - want[:, None])[ok].ravel()
    colour = float(np.clip((a @ b) / max(float(a @ a), 1e-9), 0.5, 3)) if ok.any() else 1.0
    if kind in FAMILIES:
        gain = np.float32(colour * np.exp(generator.normal(0, 0.08)))
        light = grey[:, None] + gain * (light - grey[:, None])
    return light, colour


def _lessons(task: tuple[Path, int]) -> tuple[np.ndarray, ...]:
    path, count = task
    cv2.setNumThreads(1)
    generator = np.random.default_rng(int(path.stem, 16))
    photograph = read_photograph(path)
    parts = zip(*(_lesson(photograph, generator) for _ in range(count)), strict=True)
    return tuple(np.asarray(p, np.float32) for p in parts)


def run(photographs: Path, target: Path) -> None:
    target.mkdir(parents=True, exist_ok=True)
    for name, count in EACH.items():
        paths = sorted((photographs / name).glob("*.png"))
        with ProcessPoolExecutor(2) as pool:
            found = []
            for done, one in enumerate(pool.map(_lessons, [(p, count) for p in paths]), 1):
                found.append(one)
                print(f"\r{name}: {done} of {len(paths)}", end="", flush=True)
            print()
        arrays = {f: np.concatenate([one[i] for one in found]) for i, f in enumerate(FIELDS)}
        arrays["votes"] = arrays["votes"].astype(np.float16)
        arrays["photograph"] = np.repeat(np.arange(len(paths)), count)
        np.savez(target / f"{name}.npz", **arrays)


if __name__ == "__main__":
    run(Path(sys.argv[1] if len(sys.argv) > 1 else ".cache/photographs"), Path(".cache/lessons"))
