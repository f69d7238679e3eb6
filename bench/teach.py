"""Teach the networks of `morphe.core.advise.resemblance` and say how they fare on photographs held back.

`python -m bench.teach` films the photographs of `.cache/photographs/set` (see photographs.py) with the
stand-in cameras: every profile, exposure, balance and contrast of scene by chance, from a fixed seed. The
codec is left out; at the working size it changes little.
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path
from warnings import catch_warnings, simplefilter

import cv2
import numpy as np
from sklearn.exceptions import ConvergenceWarning
from sklearn.neural_network import MLPClassifier

from morphe.core.advise.evidence import WORKING_WIDTH
from morphe.core.advise.prior import FITTED
from morphe.core.advise.resemblance import CLASSES, TAUGHT, judged, scaled, traits_of
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import PROFILES, Kind, Profile
from morphe.core.signal.transfer import decode_bt709
from morphe.core.signal.ycbcr import LUMA_WEIGHTS, Matrix, rgb_to_ycbcr, ycbcr_to_rgb
from morphe.core.standins.cameras import Exposure, film_in

SHARES = np.array([0.22, 0.03, 0.17, 0.07, 0.07, 0.07, 0.08, 0.16, 0.13])  # of the classes
EACH = 300  # pictures of one photograph
NETWORKS, FOLDS = 4, 5
HIDDEN, ROUNDS, BLUR = (96, 48), 14, 0.15
LUMA = np.array(LUMA_WEIGHTS[Matrix.BT709], np.float32)


def _chosen(key: str, generator: np.random.Generator) -> Profile:
    if key != FITTED:
        return PROFILES.get(key)
    curve = _any_log(generator)
    return Profile(
        key=FITTED,
        label="a log profile",
        kind=Kind.LOG,
        encode=curve.encode,
        decode=curve.decode,
        primaries=Primaries.BT2020 if generator.random() < 0.3 else Primaries.BT709,
        clip=generator.uniform(6, 20),
    )


def _any_log(generator: np.random.Generator) -> CameraLog:
    """A log curve of any strength and lift whose grey card lies where cameras put it."""
    while True:
        lift = float(np.exp(generator.uniform(np.log(0.008), np.log(0.06))))
        slope, black = generator.uniform(0.06, 0.15), generator.uniform(0.02, 0.15)
        toe = CameraLog(log_slope=slope, log_offset=0.0, linear_offset=lift, linear_break=0.5 * lift)
        curve = replace(toe, log_offset=black - float(toe.encode(np.array(0.0))))
        if 0.28 <= float(curve.encode(np.array(0.18))) <= 0.52:
            return curve


def _scene(part: np.ndarray, generator: np.random.Generator) -> np.ndarray:
    """Light of a part of a photograph, with contrast, colour, lights and haze as they may be."""
    light = decode_bt709(part).astype(np.float32)
    if generator.random() < 0.6:
        light = light ** np.float32(np.exp(generator.normal(0, 0.15)))
    if generator.random() < 0.6:
        grey = (light @ LUMA)[..., None]
        light = np.maximum(grey + (light - grey) * np.float32(np.exp(generator.normal(-0.1, 0.3))), 0)
    if generator.random() < 0.4:  # lights beyond the photograph's white
        start = generator.uniform(0.6, 0.9)
        above = np.clip((light.max(axis=-1, keepdims=True) - start) / (1 - start), 0, 1)
        light = light * (1 + np.float32(generator.uniform(0.5, 4)) * above**2)
    return light if generator.random() < 0.5 else _hazy(light, generator)


def _hazy(light: np.ndarray, generator: np.random.Generator) -> np.ndarray:
    """Light through air: a veil of the colour of the sky, mostly thin."""
    veil = np.float32(generator.exponential(0.06))
    sky = np.float32(np.quantile(light, 0.9)) * np.exp(generator.normal((-0.1, 0.0, 0.1), 0.1))
    return np.asarray((light + veil * sky) / (1 + veil), np.float32)


def _exposure(generator: np.random.Generator) -> Exposure:
    """Most clips are metered and balanced well; the rest err."""
    return Exposure(
        exposure_stops=0.0 if generator.random() < 0.4 else generator.normal(0, 0.8),
        warm_mired=0.0 if generator.random() < 0.4 else generator.normal(0, 35),
        green_duv=0.0 if generator.random() < 0.7 else generator.normal(0, 0.006),
        noise=float(np.exp(generator.normal(np.log(0.0008), 0.5))),
        sharpening=generator.choice([0.0, 0.08, 0.2]),
        bit_depth=int(generator.choice([8, 10])),
    )


def _picture(photograph: np.ndarray, key: str, generator: np.random.Generator) -> np.ndarray:
    """Encoded pixels (n, 3) of part of a photograph as a camera writes it, read by BT.709's matrix."""
    height, width = photograph.shape[:2]
    aspect, share = generator.uniform(1.2, 1.8), generator.uniform(0.55, 1.0)
    wide = int(min(width, height * aspect) * share)
    high = int(wide / aspect)
    x, y = generator.integers(0, width - wide + 1), generator.integers(0, height - high + 1)
    size = (WORKING_WIDTH, int(WORKING_WIDTH / aspect))
    part = cv2.resize(photograph[y : y + high, x : x + wide], size, interpolation=cv2.INTER_AREA)
    exposure, profile = _exposure(generator), _chosen(key, generator)
    encoded = film_in(profile, _scene(part, generator), exposure, generator)
    hdr = profile.kind in (Kind.HLG, Kind.PQ)
    levels = 219 * 2 ** ((10 if hdr else exposure.bit_depth) - 8)
    written = rgb_to_ycbcr(encoded, Matrix.BT2020 if hdr else Matrix.BT709)
    return ycbcr_to_rgb(np.round(written * levels) / np.float32(levels), Matrix.BT709).reshape(-1, 3)


def _lessons(path: Path) -> tuple[np.ndarray, np.ndarray]:
    """Traits (n, traits) and classes (n,) of pictures of one photograph."""
    cv2.setNumThreads(1)
    generator = np.random.default_rng(int(path.stem, 16))
    photograph = cv2.cvtColor(cv2.imread(str(path)), cv2.COLOR_BGR2RGB).astype(np.float32) / 255
    classes = generator.choice(len(CLASSES), size=EACH, p=SHARES)
    traits = [traits_of(_picture(photograph, CLASSES[at], generator)) for at in classes]
    return np.stack(traits).astype(np.float32), classes


def _networks(traits: np.ndarray, classes: np.ndarray) -> list[MLPClassifier]:
    """Networks taught on scaled traits, each from another start and on traits blurred anew."""
    found = []
    for seed in range(NETWORKS):
        blurred = traits + np.random.default_rng(seed).normal(0, BLUR, traits.shape)
        network = MLPClassifier(HIDDEN, alpha=1.0, batch_size=256, max_iter=ROUNDS, random_state=seed)
        with catch_warnings():
            simplefilter("ignore", ConvergenceWarning)  # it is ended early on purpose
            found.append(network.fit(blurred, classes))
    return found


def _scaling(traits: np.ndarray) -> dict[str, np.ndarray]:
    return {"mean": traits.mean(axis=0), "spread": traits.std(axis=0) + 1e-3}


def _taught(traits: np.ndarray, classes: np.ndarray) -> dict[str, np.ndarray]:
    """Everything that `resemblance` needs."""
    found = _scaling(traits) | {"shares": SHARES / SHARES.sum()}
    networks = _networks(scaled(traits, found), classes)
    for layer in range(len(HIDDEN) + 1):
        found[f"weights{layer}"] = np.stack([n.coefs_[layer] for n in networks])
        found[f"offsets{layer}"] = np.stack([n.intercepts_[layer] for n in networks])
    return found


def _report(traits: np.ndarray, classes: np.ndarray) -> None:
    """How often the likeliest class is of the right kind, for photographs that were not taught."""
    fold = np.arange(len(traits)) % FOLDS
    kinds = [Kind.LOG if c == FITTED else PROFILES.get(c).kind for c in CLASSES]
    right: dict[Kind, list[bool]] = {kind: [] for kind in Kind}
    for part in range(FOLDS):
        taught = _taught(_joined(traits[fold != part]), classes[fold != part].ravel())
        told = [judged(t, taught) for t in _joined(traits[fold == part])]
        for said, true in zip(told, classes[fold == part].ravel(), strict=True):
            weighed = dict.fromkeys(Kind, 0.0)
            for kind, mass in zip(kinds, said * SHARES, strict=True):
                weighed[kind] += mass
            right[kinds[true]].append(max(weighed, key=weighed.__getitem__) is kinds[true])
    for kind, found in right.items():
        print(f"  {kind.word}: {100 * np.mean(found):.0f} % of {len(found)} right")


def _joined(parts: np.ndarray) -> np.ndarray:
    return parts.reshape(-1, parts.shape[-1])


def run(folder: Path) -> None:
    with ProcessPoolExecutor(2) as pool:
        lessons = list(pool.map(_lessons, sorted(folder.glob("*.png"))))
    traits, classes = (np.stack(part) for part in zip(*lessons, strict=True))
    print("Kind of profile by resemblance alone, photographs not taught:")
    _report(traits, classes)
    taught = _taught(_joined(traits), classes.ravel())
    np.savez_compressed(TAUGHT, **{name: values.astype(np.float16) for name, values in taught.items()})


if __name__ == "__main__":
    run(Path(sys.argv[1] if len(sys.argv) > 1 else ".cache/photographs/set"))
