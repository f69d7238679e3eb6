"""Clips with known truth for the colour bench: stand-in scenes and photographs that ship inside packages.

Photographs come from scikit-image and scikit-learn and serve the bench only.
"""

from __future__ import annotations

import os
import zlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

import morphe
from morphe.core.signal.transfer import decode_bt709
from morphe.core.standins.cameras import Exposure, film, record, truth
from morphe.core.standins.demo import render_scene

FOLDER = os.environ.get("MORPHE_BENCH_PHOTOS", "")  # of photographs to use instead; see photographs.py
WIDTH, FRAMES = 640, 4 if FOLDER else 10
DEMO = Path(morphe.__file__).parent / "web" / "demo"


@dataclass(frozen=True)
class Kind:
    """One way of spoiling a clip; `group` is the line of the table it counts in."""

    name: str
    group: str
    exposure: Exposure
    enlarged: int = 1  # untagged files are made HD, as their matrix is then assumed to be BT.709


def _kinds() -> list[Kind]:
    ten = {"codec": "libx265", "bit_depth": 10}
    return [
        Kind("clean", "clean", Exposure()),
        Kind("clean-10", "clean", Exposure(**ten)),
        Kind("under-0.8", "exposure", Exposure(exposure_stops=-0.8)),
        Kind("under-1.5", "exposure", Exposure(exposure_stops=-1.5)),
        Kind("over-0.8", "exposure", Exposure(exposure_stops=0.8)),
        Kind("over-1.5", "exposure", Exposure(exposure_stops=1.5)),
        Kind("warm", "cast", Exposure(warm_mired=60)),
        Kind("cool", "cast", Exposure(warm_mired=-45)),
        Kind("green", "cast", Exposure(warm_mired=15, green_duv=0.010)),
        Kind("flat", "flat", Exposure(profile="flat-a")),
        Kind("flat-10", "flat", Exposure(profile="flat-a", exposure_stops=-0.5, **ten)),
        Kind("log-mild", "log mild", Exposure(profile="log-mild")),
        Kind("log-mild-warm", "log mild", Exposure(profile="log-mild", warm_mired=35, **ten)),
        Kind("log-lifted", "log lifted", Exposure(profile="log-lifted")),
        Kind("log-lifted-10", "log lifted", Exposure(profile="log-lifted", exposure_stops=-0.7, **ten)),
        Kind("log-wide", "log wide", Exposure(profile="log-wide", **ten)),
        Kind("log-wide-8", "log wide", Exposure(profile="log-wide", exposure_stops=0.5)),
        Kind("hlg", "HLG", Exposure(profile="hlg", **ten)),
    ]


def _mistagged() -> list[Kind]:
    """Clips whose file says nothing of the picture, or something wrong."""
    ten = {"codec": "libx265", "bit_depth": 10}
    nothing, ordinary, hlg = {"tags": "none"}, {"tags": "std-709"}, {"tags": "hlg"}
    return [
        Kind("untagged", "untagged", Exposure(**nothing), 2),
        Kind("untagged-flat", "untagged", Exposure(profile="flat-a", **nothing), 2),
        Kind("untagged-log-mild", "untagged", Exposure(profile="log-mild", **nothing, **ten), 2),
        Kind("untagged-log-wide", "untagged", Exposure(profile="log-wide", **nothing, **ten), 2),
        Kind("untagged-hlg", "untagged", Exposure(profile="hlg", **nothing, **ten), 2),
        Kind("untagged-pq", "untagged", Exposure(profile="pq", **nothing, **ten), 2),
        Kind("hlg-as-709", "wrong tag", Exposure(profile="hlg", **ordinary, **ten)),
        Kind("std-as-hlg", "wrong tag", Exposure(**hlg)),
        Kind("log-lifted-as-hlg", "wrong tag", Exposure(profile="log-lifted", **hlg, **ten)),
    ]


KINDS = _kinds()
MISTAGGED = _mistagged()


def _photographs() -> dict[str, Path]:
    """Photographs of the two packages, or those of the folder that MORPHE_BENCH_PHOTOS names."""
    if FOLDER:
        return {p.stem: p for p in sorted(Path(FOLDER).iterdir()) if p.suffix.lower() in (".png", ".jpg")}
    import skimage
    import sklearn

    one = Path(skimage.__file__).parent / "data"
    two = Path(sklearn.__file__).parent / "datasets" / "images"
    names = ("coffee.png", "astronaut.png", "chelsea.png", "motorcycle_left.png", "rocket.jpg")
    paths = [one / n for n in names] + [two / n for n in ("china.jpg", "flower.jpg")]
    return {p.stem: p for p in paths}


def _photo_frames(path: Path) -> Callable[[int], np.ndarray]:
    """A slow drift across the photograph, as scene-linear light."""
    picture = cv2.cvtColor(cv2.imread(str(path)), cv2.COLOR_BGR2RGB).astype(np.float32) / 255
    h, w = picture.shape[:2]
    aspect = min(1.6, max(1.2, w / h))
    crop_w = int(min(w, h * aspect) * 0.94)
    crop_h = int(crop_w / aspect)

    def frame(index: int) -> np.ndarray:
        share = index / (FRAMES - 1)
        x, y = int((w - crop_w) * share), int((h - crop_h) * 0.5)
        part = picture[y : y + crop_h, x : x + crop_w]
        size = (WIDTH, int(WIDTH / aspect) // 2 * 2)
        how = cv2.INTER_AREA if crop_w > WIDTH else cv2.INTER_CUBIC
        return decode_bt709(np.clip(cv2.resize(part, size, interpolation=how), 0, 1)).astype(np.float32)

    return frame


def _scene_frames(scene: str, start: float, seconds: float) -> Callable[[int], np.ndarray]:
    def frame(index: int) -> np.ndarray:
        return render_scene(scene, start + seconds * index / (FRAMES - 1), width=WIDTH, height=360)

    return frame


def subjects() -> dict[str, Callable[[int], np.ndarray]]:
    """Named sources of scene-linear frames."""
    photos = {name: _photo_frames(path) for name, path in _photographs().items()}
    scenes = {
        "marsh-away": _scene_frames("sluice-round", 0.2, 0.8),
        "marsh-into": _scene_frames("sluice-round", 3.0, 0.9),
        "marsh-side": _scene_frames("sluice-approach", 1.0, 1.0),
        "jetty-tan": _scene_frames("jetty-tan", 0.5, 1.0),
        "jetty-deep": _scene_frames("jetty-deep", 2.0, 1.0),
    }
    return photos if FOLDER else {**photos, **scenes}


@dataclass(frozen=True)
class BenchClip:
    subject: str
    kind: Kind
    path: Path
    truth: np.ndarray  # (frames, h, 160, 3) encoded


def clips(cache: Path, kinds: Sequence[Kind] = KINDS) -> list[BenchClip]:
    """Make (or find) every clip and its truth at 160 px."""
    cache.mkdir(parents=True, exist_ok=True)
    made = []
    for name, source in subjects().items():
        truth_file = cache / f"{name}.npy"
        frames: list[np.ndarray] | None = None
        if not truth_file.exists():
            frames = [source(i) for i in range(FRAMES)]
            np.save(truth_file, np.stack([_small(truth(f)) for f in frames]))
        known = np.load(truth_file)
        for kind in kinds:
            path = cache / f"{name}-{kind.name}-{zlib.crc32(repr(kind.exposure).encode()):08x}.mp4"
            if not path.exists():
                frames = frames or [source(i) for i in range(FRAMES)]
                generator = np.random.default_rng(zlib.crc32(path.stem.encode()))
                filmed = (film(_enlarged(f, kind.enlarged), kind.exposure, generator) for f in frames)
                record(filmed, path, kind.exposure)
            made.append(BenchClip(name, kind, path, known))
    return made


def _enlarged(linear: np.ndarray, times: int) -> np.ndarray:
    if times == 1:
        return linear
    return cv2.resize(linear, None, fx=times, fy=times, interpolation=cv2.INTER_LINEAR)


def _small(encoded: np.ndarray) -> np.ndarray:
    height = round(encoded.shape[0] * 160 / encoded.shape[1])
    return cv2.resize(encoded, (160, height), interpolation=cv2.INTER_AREA)
