"""Lessons of water: photographs put under water and filmed there, reduced to what the teacher looks at.

`python -m bench.water_lessons` writes `water-set.npz`, `water-mixed.npz` and `water-held.npz` in
`.cache/lessons` from the sets of photographs, by a fixed seed for every photograph.
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import cv2
import numpy as np

from bench.lessons import SHARES
from bench.simulate import any_camera, any_faults, film_any, part_of, read_photograph
from bench.waters import TYPES, Filmed, clouds, film_under_water
from morphe.core.advise.profile.resemblance import CLASSES, traits_of
from morphe.core.advise.water.traits import look_at_water
from morphe.core.signal.arrays import Linear
from morphe.core.signal.families import FAMILIES, Landing, curve_of
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.transfer import decode_bt709

# Lessons of each photograph, and how often a second one shows in it; "mixed" are those of the set once more.
SETS = {"set": (80, 0.0), "mixed": (80, 0.6), "held": (50, 0.0)}
SMALL = (64, 44)
LUMA = LUMINANCE_709.astype(np.float32)
FIELDS = (
    "look", "raw", "codes", "light", "truth", "hints", "left", "water", "open", "bits", "kind", "landing",
    "dry", "dry_codes",
)  # fmt: skip


def decoded(filmed: Filmed, generator: np.random.Generator) -> Linear:
    """The picture in light, by a curve judged about right."""
    camera, picture = filmed.camera, filmed.picture
    if camera.kind not in FAMILIES:
        return decode_bt709(picture).astype(np.float32)
    black, grey, white = (float(camera.curve.encode(np.array(v))) for v in (0.0, 0.18, 0.9))  # type: ignore[attr-defined]
    black, grey, white = np.array((black, grey, white)) + generator.normal(0, (0.005, 0.01, 0.02))
    landing = Landing(black=black, grey=max(grey, black + 0.05), white=max(white, grey + 0.08))
    light = curve_of(camera.kind, landing).decode(np.clip(picture, -0.1, 1.2)).astype(np.float32)
    luma = (light @ LUMA)[..., None]
    return np.asarray(luma + np.float32(np.exp(generator.normal(0.15, 0.1))) * (light - luma), np.float32)


def mixed(one: np.ndarray, other: np.ndarray, generator: np.random.Generator) -> np.ndarray:
    """A picture (H, W, 3) that shows another in part, in blobs of any size."""
    other = cv2.resize(other, one.shape[1::-1], interpolation=cv2.INTER_AREA)
    inside = clouds(one.shape[:2], generator, int(generator.integers(2, 5))) > generator.normal(0, 0.5)
    return np.where(inside[..., None], other, one)


def lesson(
    photograph: np.ndarray, other: np.ndarray | None, generator: np.random.Generator
) -> tuple[object, ...]:
    shown = part_of(photograph, generator)
    if other is not None:
        shown = mixed(shown, part_of(other, generator), generator)
    filmed = film_under_water(shown, generator)
    light = decoded(filmed, generator)
    small = [cv2.resize(p, SMALL, interpolation=cv2.INTER_AREA) for p in (light, filmed.truth)]
    hints = filmed.hints
    told = [TYPES.index(hints.water), hints.depth_m, hints.distance_m, hints.lamp, hints.filter == "red"]
    kind = list(FAMILIES).index(filmed.camera.kind) + 1 if filmed.camera.kind in FAMILIES else 0
    at = [float(filmed.camera.curve.encode(np.array(v))) for v in (0.0, 0.18, 0.9)]  # type: ignore[attr-defined]
    dry = _dry(photograph, generator)
    return (
        look_at_water([light]), look_at_water([_as_ordinary(filmed.picture)]),
        traits_of(filmed.picture.reshape(-1, 3)), small[0], small[1], told, np.log2(filmed.left),
        filmed.water, filmed.has_open_water, filmed.faults.bits, kind, at,
        look_at_water([_as_ordinary(dry)]), traits_of(dry.reshape(-1, 3)),
    )  # fmt: skip


def _as_ordinary(picture: np.ndarray) -> Linear:
    return decode_bt709(picture).astype(np.float32)


def _dry(photograph: np.ndarray, generator: np.random.Generator) -> np.ndarray:
    """The same filmed in air, by any camera in any light."""
    camera = any_camera(str(generator.choice(CLASSES, p=[SHARES[c] for c in CLASSES])), generator)
    faults = any_faults(camera, generator)
    return film_any(part_of(photograph, generator), camera, faults, generator).picture


def _lessons(task: tuple[Path, int, float]) -> tuple[np.ndarray, ...]:
    path, count, share = task
    cv2.setNumThreads(1)
    generator = np.random.default_rng([int(path.stem, 16), 10])
    photograph, others = read_photograph(path), sorted(path.parent.glob("*.png"))

    def another() -> np.ndarray | None:
        if not share or generator.random() >= share:
            return None
        return read_photograph(others[int(generator.integers(len(others)))])

    parts = zip(*(lesson(photograph, another(), generator) for _ in range(count)), strict=True)
    return tuple(np.asarray(p, np.float32) for p in parts)


def run(photographs: Path, target: Path) -> None:
    target.mkdir(parents=True, exist_ok=True)
    for name, (count, share) in SETS.items():
        paths = sorted((photographs / ("set" if name == "mixed" else name)).glob("*.png"))
        with ProcessPoolExecutor(2) as pool:
            found = list(pool.map(_lessons, [(p, count, share) for p in paths]))
        arrays = {f: np.concatenate([one[i] for one in found]) for i, f in enumerate(FIELDS)}
        for field in ("light", "truth"):
            arrays[field] = arrays[field].astype(np.float16)
        arrays["photograph"] = np.repeat(np.arange(len(paths)), count)
        np.savez(target / f"water-{name}.npz", **arrays)
        print(f"{name}: {len(arrays['open'])} lessons", flush=True)


if __name__ == "__main__":
    run(Path(sys.argv[1] if len(sys.argv) > 1 else ".cache/photographs"), Path(".cache/lessons"))
